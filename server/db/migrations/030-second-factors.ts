/** A second thing to show at the door: codes by time (RFC 6238), and codes for when the device is lost. */
export default `
create table second_factor (
  person_id integer primary key references person (id),
  secret text not null,          -- base32; whoever has it makes the same codes
  set_at integer,                -- milliseconds since 1970; null: no code has been shown yet, so nothing is asked for
  last_step integer not null     -- the time step of the last code: none works twice
) strict;
create table recovery_code (
  person_id integer not null references person (id),
  code_hash text not null,
  primary key (person_id, code_hash)
) strict, without rowid;
`;
