export default `
-- More of what a record says; the site's own fields by name, as JSON.
alter table item add column long_description text not null default '';
alter table item add column taken text not null default '';
alter table item add column place text not null default '';
alter table item add column language text not null default '';
alter table item add column own text not null default '{}';
update item set taken = coalesce((select taken_at from content where content.sha256 = item.sha256), '');
create table own_field (
  name text primary key collate nocase,
  kind text not null check (kind in ('text', 'choice', 'date', 'number')),
  choices text not null   -- JSON
) strict, without rowid;

drop trigger item_words_added;
drop trigger item_words_changed;
create trigger item_words_added after insert on item begin
  insert into item_words (rowid, name, title, alt, caption, description, people, path)
    values (new.id, new.name, new.title, new.alt, new.caption,
      new.description || ' ' || new.long_description || ' ' || new.place || ' ' ||
        (select coalesce(group_concat(value, ' '), '') from json_each(new.own)),
      new.creator || ' ' || new.credit || ' ' || new.copyright || ' ' || new.source || ' ' || coalesce(new.original_name, ''), new.path);
end;
create trigger item_words_changed
  after update of path, name, title, alt, caption, description, long_description, place, own, creator, credit, copyright, source
  on item begin
  insert or replace into item_words (rowid, name, title, alt, caption, description, people, path)
    values (new.id, new.name, new.title, new.alt, new.caption,
      new.description || ' ' || new.long_description || ' ' || new.place || ' ' ||
        (select coalesce(group_concat(value, ' '), '') from json_each(new.own)),
      new.creator || ' ' || new.credit || ' ' || new.copyright || ' ' || new.source || ' ' || coalesce(new.original_name, ''), new.path);
end;

-- Patterns of names, kept under a name; a folder's own takes the place of how names begin there.
create table name_pattern (
  name text primary key collate nocase,
  pattern text not null   -- JSON
) strict, without rowid;
alter table folder_rule add column pattern text;
update folder_rule set pattern = json_object(
  'pieces', json_array(json_object('piece', 'text', 'text', name_start), json_object('piece', 'present', 'part', 'all')),
  'separator', '-', 'case', 'lower', 'letters', 'ascii', 'stopWords', null, 'words', null, 'lacking', 'leave-out')
  where name_start <> '';
alter table folder_rule drop column name_start;

-- Of an element that offers one picture in several sizes: where it starts.
alter table placement add column sizes_of integer;
`;
