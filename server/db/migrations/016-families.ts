export default `
-- What people have said of the family: null: as it is found; 0: it stands for itself; else the picture that it is a size of.
alter table item add column family integer;
create index item_family on item (family) where family is not null;
`;
