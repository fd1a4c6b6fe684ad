/** Tokens by which programs come in on behalf of a person. */
export default `
create table machine_token (
  id integer primary key,
  person_id integer not null references person (id),
  name text not null,
  role text not null,          -- what it may do, never more than its person
  token_hash text not null unique,
  made_at integer not null,    -- milliseconds since 1970
  ends_at integer not null,
  used_at integer
) strict;
create index machine_token_person on machine_token (person_id, id);
`;
