export default `
-- How the file was made of its original, as JSON ('' when it was not): its bytes are kept as long as a record names them.
alter table item add column edit text not null default '';
create index item_original on item (json_extract(edit, '$.original.of')) where edit <> '';
`;
