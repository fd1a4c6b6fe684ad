/**
 * Files that are not on the site yet, and what is to be done with an item. A check that a table was made with is changed in the schema itself
 * (https://www.sqlite.org/lang_altertable.html, at the end): all that was allowed still is.
 */
export default `
pragma writable_schema = on;
update sqlite_schema set sql = replace(sql, '(''here'', ''aside'', ''absent'')', '(''here'', ''draft'', ''aside'', ''absent'')')
  where type = 'table' and name = 'item';
pragma writable_schema = reset;
alter table item add column review text not null default '' check (review in ('', 'in-review', 'to-update'));
alter table item add column due text not null default '';
create index item_draft on item (path) where state = 'draft';
`;
