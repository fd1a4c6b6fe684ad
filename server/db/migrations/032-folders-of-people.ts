/** The folders in which somebody may do what their role says; none: the whole site. */
export default `
alter table person add column folders text not null default '[]';  -- JSON
`;
