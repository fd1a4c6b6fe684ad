export default `
-- Text that was read in pictures, by the hash of their bytes.
create index item_alt on item (alt) where alt <> '';
create table recognised (sha256 text primary key, text text not null) strict, without rowid;
`;
