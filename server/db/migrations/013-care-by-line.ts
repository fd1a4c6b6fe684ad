export default `
alter table care_day add column doubles integer;
alter table care_day add column weight integer;
alter table care_day add column rights integer;
alter table care_day add column files integer;
`;
