/** Texts of documents that people are editing, and have not saved: each has one for each document. */
export default `
create table unsaved_text (
  path text not null,
  person_id integer not null references person (id) on delete cascade,
  base text not null,            -- hash of the file that was opened
  text text not null,            -- with line feeds
  saved_at text not null,
  primary key (path, person_id)
) strict, without rowid;
`;
