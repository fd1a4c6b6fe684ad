export default `
-- Which version of the reading code the rows of file were made by.
create table reader (version integer not null) strict;
insert into reader (version) values (0);
`;
