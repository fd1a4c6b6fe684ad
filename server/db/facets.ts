import { TESTS, type Test, type TestName } from '../../core/find/tests.ts';
import { ALL_HERE, conditions, inState, type ItemQuery, type LikeLookup, type Sql } from './item-query.ts';
import type { Reader } from './reader.ts';

/** How many items of a query would remain with one more condition, by test and value. */
export interface Counted {
  value: string;
  items: number;
}
export type Facets = Partial<Record<TestName, Counted[]>>;

/** Tests whose choices are few enough to be counted in one walk over the rows. */
const COUNTED = (Object.keys(TESTS) as TestName[]).filter(
  (name) => ((TESTS[name] as Test).choices || (TESTS[name] as Test).value === 'none') && name !== 'colour',
);
/** So many values are shown of tests that could have any. */
const MOST = 60;

const CHOICES = COUNTED.flatMap((test) =>
  ((TESTS[test] as Test).choices ?? ['']).map((value) => ({ test, value })),
);

/** The sums that count every choice; the same for all queries, so they are put together once. */
function choiceSums(state: ItemQuery['state']): { sql: string; values: Sql['values'] } {
  const kept = sumsByState.get(state);
  if (kept) return kept;
  const values: Sql['values'] = {};
  const parts = CHOICES.map(({ test, value }, at) => {
    const one = conditions({
      ...ALL_HERE,
      state,
      // As the query itself says.
      sizes: true,
      where: { join: 'all', not: false, of: [{ test, value, not: false }] },
    });
    // Its values get names of their own; the state stands in the query already.
    const renamed = one.where
      .slice(`item.state ${inState(state)} and `.length)
      .replace(/@v(\d+)/g, `@c${at}_$1`);
    for (const [key, bound] of Object.entries(one.values)) values[key.replace('v', `c${at}_`)] = bound;
    return `sum(${renamed}) as c${at}`;
  });
  const made = { sql: parts.join(', '), values };
  sumsByState.set(state, made);
  return made;
}
const sumsByState = new Map<ItemQuery['state'], { sql: string; values: Sql['values'] }>();

/** Counts the choices of a query. */
export async function facetsOf(reader: Reader, query: ItemQuery, like: LikeLookup): Promise<Facets> {
  const base = conditions(query, like);
  const facets: Facets = {};
  const sums = choiceSums(query.state);
  Object.assign(base.values, sums.values);
  const byGroup = Object.entries(grouped(base)) as [TestName, string][];
  const [counted, above, ...groups] = (await reader.many(
    [
      `select ${sums.sql} from item where ${base.where}`,
      tagsAboveSql(base),
      ...byGroup.map(([, sql]) => sql),
    ],
    base.values,
  )) as [[Record<string, number | null>], Counted[], ...Counted[][]];
  CHOICES.forEach(({ test, value }, at) => {
    (facets[test] ??= []).push({ value, items: counted[0][`c${at}`] ?? 0 });
  });
  byGroup.forEach(([test], at) => (facets[test] = groups[at]!));
  facets.tag = withTagsBelow(facets.tag ?? [], above);
  return facets;
}

/** Tags above others find what those find: they are counted apart, as there are few of them. */
export function tagsAbove(reader: Reader, base: Sql): Promise<Counted[]> {
  return reader.rows(tagsAboveSql(base), base.values);
}
function tagsAboveSql({ where }: Sql): string {
  return `with recursive under (root, name) as (
      select distinct above, above from tag_above
      union select under.root, tag_above.tag from tag_above join under on tag_above.above = under.name collate nocase)
    select root as value, (select count(*) from item where ${where} and item.id in
        (select item_id from item_tag join tag on tag.id = item_tag.tag_id
         where tag.name in (select name from under as mine where mine.root = roots.root))) as items
    from (select distinct root from under) as roots where items > 0`;
}
function withTagsBelow(tags: Counted[], above: Counted[]): Counted[] {
  if (above.length === 0) return tags;
  const key = (one: Counted) => one.value.toLowerCase();
  const counted = new Map(above.map((one) => [key(one), one]));
  const there = new Set(tags.map(key));
  return [
    ...tags.map((tag) => ({ ...tag, items: counted.get(key(tag))?.items ?? tag.items })),
    ...above.filter((one) => !there.has(key(one))),
  ].sort((a, b) => b.items - a.items);
}

function grouped({ where }: Sql): Partial<Record<TestName, string>> {
  return {
    tag: `select tag.name as value, count(*) as items from item join item_tag on item_tag.item_id = item.id
      join tag on tag.id = item_tag.tag_id where ${where} group by tag.id order by items desc, value limit ${MOST}`,
    folder: `select item.folder as value, count(*) as items from item where ${where} and item.folder <> ''
      group by item.folder order by items desc, value limit ${MOST}`,
    added: `select substr(item.added_at, 1, 7) as value, count(*) as items from item where ${where}
      group by 1 order by 1 desc limit ${MOST}`,
    own: `select field.key || ': ' || field.value as value, count(*) as items from item, json_each(item.own) as field
      where ${where} and item.own <> '{}' and field.value <> '' group by (field.key || ': ' || field.value) collate nocase order by items desc, 1 limit ${MOST}`,
    by: `select person.name as value, count(*) as items from item join person on person.id = item.added_by
      where ${where} group by person.id order by value`,
    owner: `select person.name as value, count(*) as items from item join person on person.id = item.owner_id
      where ${where} group by person.id order by value`,
    colour: `select content.main_colour as value, count(*) as items from item join content on content.sha256 = item.sha256
      where ${where} and content.main_colour is not null group by 1 order by items desc`,
  };
}
