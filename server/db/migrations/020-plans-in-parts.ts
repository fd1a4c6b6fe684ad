const LISTS = [
  'files',
  'records',
  'pages',
  'redirects',
  'settings',
  'warnings',
  'folders',
  'makes',
  'leaves',
] as const;

export default `
-- The long lists of a plan are kept in parts, so that a plan of any length is written and read a little at a time.
create table ledger_part (
  entry_id integer not null references ledger (id),
  list text not null,
  number integer not null,
  steps text not null,
  primary key (entry_id, list, number)
) strict;
insert into ledger_part (entry_id, list, number, steps)
  select entry_id, list.key, step.key / 250,
    json_group_array(case when step.type in ('object', 'array') then json(step.value) else step.value end order by step.key)
  from ledger_plan
    cross join json_each(case when json_valid(plan) then plan else '{}' end) as list
    cross join json_each(list.value) as step
  where list.key in (${LISTS.map((list) => `'${list}'`).join(', ')})
    and list.type = 'array' and json_array_length(list.value) > 250
  group by entry_id, list.key, step.key / 250;
${LISTS.map(
  (list) => `update ledger_plan set plan = json_set(plan, '$.${list}', json('[]'))
  where entry_id in (select entry_id from ledger_part where list = '${list}');`,
).join('\n')}

-- Which bytes a change could bring back: looked for in the plans themselves, each file that is dropped would go through all of them.
create table ledger_bytes (
  sha256 text not null,
  entry_id integer not null references ledger (id),
  primary key (sha256, entry_id)
) strict, without rowid;
insert or ignore into ledger_bytes (sha256, entry_id)
  select hash.value, lists.entry_id
  from (select entry_id, case when json_valid(plan) then coalesce(plan ->> '$.files', '[]') else '[]' end as steps from ledger_plan
      union all select entry_id, steps from ledger_part where list = 'files') as lists
    cross join json_each(lists.steps) as step
    cross join json_each(json_array(step.value ->> 'before', step.value ->> 'after')) as hash
  where hash.value is not null and step.value ->> 'do' = 'write';

-- The indexes of words are merged by us, a little at a time (store/word-merges.ts): all at once, it kept everyone waiting.
insert into item_words (item_words, rank) values ('crisismerge', 500);
insert into content_words (content_words, rank) values ('crisismerge', 500);

-- How they are looked for (see 018).
insert into sqlite_stat1 (tbl, idx, stat) values
  ('ledger_part', 'sqlite_autoindex_ledger_part_1', '10000 100 50 1'),
  ('ledger_bytes', 'ledger_bytes', '100000 2 1');
analyze sqlite_schema;
`;
