import { TESTS, type Test, type TestName } from '../../core/find/tests.ts';
import { conditions, type ItemQuery, type LikeLookup, type Sql } from './item-query.ts';
import type { Reader } from './reader.ts';

/** How many items of a query would remain with one more condition, by test and value. */
export type Facets = Partial<Record<TestName, { value: string; items: number }[]>>;

/** Tests whose choices are few enough to be counted in one walk over the rows. */
const COUNTED = (Object.keys(TESTS) as TestName[]).filter(
  (name) => ((TESTS[name] as Test).choices || (TESTS[name] as Test).value === 'none') && name !== 'colour',
);
/** So many values are shown of tests that could have any. */
const MOST = 60;

/** Counts the choices of a query. */
export async function facetsOf(reader: Reader, query: ItemQuery, like: LikeLookup): Promise<Facets> {
  const base = conditions(query, like);
  const facets: Facets = {};
  const choices = COUNTED.flatMap((test) =>
    ((TESTS[test] as Test).choices ?? ['']).map((value) => ({ test, value })),
  );
  const sums = choices.map(({ test, value }, at) => {
    const one = conditions(
      {
        ...query,
        folder: undefined,
        entry: undefined,
        words: [],
        where: { join: 'all', not: false, of: [{ test, value, not: false }] },
      },
      like,
    );
    // Its values get names of their own; the state stands in the query already.
    const renamed = one.where.replace(/^item\.state = '\w+' and /, '').replace(/@v(\d+)/g, `@c${at}_$1`);
    for (const [key, bound] of Object.entries(one.values)) base.values[key.replace('v', `c${at}_`)] = bound;
    return `sum(${renamed}) as c${at}`;
  });
  const byGroup = Object.entries(grouped(base)) as [TestName, string][];
  const [[counted], ...groups] = await Promise.all([
    reader.rows<Record<string, number | null>>(
      `select ${sums.join(', ')} from item where ${base.where}`,
      base.values,
    ),
    ...byGroup.map(([, sql]) => reader.rows<{ value: string; items: number }>(sql, base.values)),
  ]);
  choices.forEach(({ test, value }, at) => {
    (facets[test] ??= []).push({ value, items: counted![`c${at}`] ?? 0 });
  });
  byGroup.forEach(([test], at) => (facets[test] = groups[at]!));
  return facets;
}

function grouped({ where }: Sql): Partial<Record<TestName, string>> {
  return {
    tag: `select tag.name as value, count(*) as items from item join item_tag on item_tag.item_id = item.id
      join tag on tag.id = item_tag.tag_id where ${where} group by tag.id order by items desc, value limit ${MOST}`,
    folder: `select item.folder as value, count(*) as items from item where ${where} and item.folder <> ''
      group by item.folder order by items desc, value limit ${MOST}`,
    added: `select substr(item.added_at, 1, 7) as value, count(*) as items from item where ${where}
      group by 1 order by 1 desc limit ${MOST}`,
    by: `select person.name as value, count(*) as items from item join person on person.id = item.added_by
      where ${where} group by person.id order by value`,
    owner: `select person.name as value, count(*) as items from item join person on person.id = item.owner_id
      where ${where} group by person.id order by value`,
    colour: `select content.main_colour as value, count(*) as items from item join content on content.sha256 = item.sha256
      where ${where} and content.main_colour is not null group by 1 order by items desc`,
  };
}
