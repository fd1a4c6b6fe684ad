export default `
-- What the person wants to be remembered with a change; how far a long change has come: records done, ways cleared.
alter table ledger add column note text not null default '';
alter table ledger add column records_done integer not null default 0;
alter table ledger add column cleared integer not null default 0;

-- Other spellings under which a tag is found, and the tag that it lies below. By name: they outlive the last item
-- that bears the tag.
create table tag_spelling (
  id integer primary key,
  spelling text not null unique collate nocase,
  tag text not null collate nocase
) strict;
create index tag_spelling_tag on tag_spelling (tag);
create table tag_above (
  tag text primary key collate nocase,
  above text not null collate nocase
) strict, without rowid;
create index tag_above_above on tag_above (above);
create virtual table spelling_words using fts5 (
  spelling, tokenize = 'porter unicode61 remove_diacritics 2', prefix = '2 3', content = '', contentless_delete = 1
);
create trigger spelling_words_added after insert on tag_spelling begin
  insert into spelling_words (rowid, spelling) values (new.id, new.spelling);
end;
create trigger spelling_words_removed after delete on tag_spelling begin
  delete from spelling_words where rowid = old.id;
end;

-- What else a folder wants.
alter table folder_rule add column kinds text;                          -- JSON: kinds of item; null: any
alter table folder_rule add column name_start text not null default '';
alter table folder_rule add column tags text not null default '[]';     -- JSON
alter table folder_rule add column licence text not null default '';

create index item_added_by on item (added_by) where added_by is not null;
`;
