/** Plans that wait for somebody else's approval; who approved a change, and where it came from. */
export default `
create table submission (
  id integer primary key,
  at text not null,
  person_id integer not null references person (id),
  kind text not null,
  request text not null,     -- JSON: what is to be planned
  title text not null,
  items integer not null,
  pages integer not null,
  note text not null,
  rests text not null,       -- JSON: the files and records that it was computed from, as they were
  state text not null check (state in ('waiting', 'returned', 'applied', 'withdrawn')),
  answer text not null default '',
  answered_at text,
  answered_by integer references person (id),
  entry_id integer references ledger (id)
) strict;
create index submission_state on submission (state, id);
create index submission_person on submission (person_id, id);

alter table ledger add column approved_by integer references person (id);
alter table ledger add column via text not null default '';
`;
