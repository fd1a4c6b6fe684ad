export default `
-- Who looks after an item.
alter table item add column owner_id integer references person (id);
-- The name of the largest share of its colours (core/find/colour).
alter table content add column main_colour text;
update content set main_colour = colour_name(json_extract(colours, '$[0]')) where json_array_length(colours) > 0;

-- Words for the search. Tags and documents stand apart, so that tagging thousands writes no text anew.
create virtual table item_words using fts5 (
  name, title, alt, caption, description, people, path,
  tokenize = 'porter unicode61 remove_diacritics 2', prefix = '2 3', content = '', contentless_delete = 1
);
create virtual table tag_words using fts5 (
  name, tokenize = 'porter unicode61 remove_diacritics 2', prefix = '2 3', content = '', contentless_delete = 1
);
create virtual table content_words using fts5 (
  sha256 unindexed, text,
  tokenize = 'porter unicode61 remove_diacritics 2', content = '', contentless_delete = 1, contentless_unindexed = 1
);
insert into item_words (rowid, name, title, alt, caption, description, people, path)
  select id, name, title, alt, caption, description,
    creator || ' ' || credit || ' ' || copyright || ' ' || source || ' ' || coalesce(original_name, ''), path from item;
insert into tag_words (rowid, name) select id, name from tag;
insert into content_words (sha256, text) select sha256, text from content where text <> '';

create trigger item_words_added after insert on item begin
  insert into item_words (rowid, name, title, alt, caption, description, people, path)
    values (new.id, new.name, new.title, new.alt, new.caption, new.description,
      new.creator || ' ' || new.credit || ' ' || new.copyright || ' ' || new.source || ' ' || coalesce(new.original_name, ''), new.path);
end;
create trigger item_words_changed
  after update of path, name, title, alt, caption, description, creator, credit, copyright, source on item begin
  insert or replace into item_words (rowid, name, title, alt, caption, description, people, path)
    values (new.id, new.name, new.title, new.alt, new.caption, new.description,
      new.creator || ' ' || new.credit || ' ' || new.copyright || ' ' || new.source || ' ' || coalesce(new.original_name, ''), new.path);
end;
create trigger item_words_removed after delete on item begin
  delete from item_words where rowid = old.id;
end;
create trigger tag_words_added after insert on tag begin
  insert into tag_words (rowid, name) values (new.id, new.name);
end;
create trigger tag_words_changed after update of name on tag begin
  insert or replace into tag_words (rowid, name) values (new.id, new.name);
end;
create trigger tag_words_removed after delete on tag begin
  delete from tag_words where rowid = old.id;
end;
create trigger content_words_added after insert on content when new.text <> '' begin
  insert into content_words (sha256, text) values (new.sha256, new.text);
end;
create trigger content_words_removed after delete on content when old.text <> '' begin
  delete from content_words where rowid in (select rowid from content_words where sha256 = old.sha256);
end;

-- One index for each order in which windows are asked for.
create index item_by_kind on item (
  state, (case kind when 'image' then 0 when 'video' then 1 when 'audio' then 2 when 'document' then 3 else 4 end), path
);
create index item_by_path on item (state, path);
create index item_by_name on item (state, name collate nocase, path);
create index item_by_added on item (state, added_at, id);
create index item_by_bytes on item (state, bytes, path);
create index item_by_width on item (state, width);
create index item_by_placements on item (state, placements, path);
create index item_by_changed on item (state, changed_at, id);
create index item_kind on item (state, kind);
create index item_owner on item (owner_id) where owner_id is not null;
create index item_licence_end on item (state, licence_end) where licence_end <> '';

-- A query that a person keeps under a name.
create table saved_query (
  id integer primary key,
  name text not null unique collate nocase,
  query text not null,    -- as in the address bar
  person_id integer not null references person (id),
  at text not null
) strict;
`;
