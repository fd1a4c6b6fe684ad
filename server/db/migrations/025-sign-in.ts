export default `
-- Null: no password yet. Ended people stay for the ledger, and can do nothing.
alter table person add column password text;
alter table person add column ended_at text;

-- Who is signed in, by the hash of a token that only the browser has.
create table session (
  id integer primary key,
  token_hash text not null unique,
  -- The token before, which works a moment longer: windows ask for several things at once.
  old_hash text,
  old_until integer,
  person_id integer not null references person (id),
  -- What the person might do when the token was given: with another role comes another token.
  role text not null,
  started_at integer not null,
  seen_at integer not null,
  address text not null,
  agent text not null
) strict;
create index session_of_person on session (person_id);
create index session_by_old_hash on session (old_hash) where old_hash is not null;

-- Links by which a person sets a password, by the hash of what the link holds; each works once.
create table invitation (
  token_hash text primary key,
  person_id integer not null references person (id),
  at text not null,
  until integer not null
) strict;

-- Who came in, who did not, and what was changed about people.
create table access_log (
  id integer primary key,
  at text not null,
  what text not null,
  -- Null: nobody of that name.
  person_id integer references person (id),
  -- Who did it, where that is another one.
  by_id integer references person (id),
  address text not null,
  details text not null default ''
) strict;
`;
