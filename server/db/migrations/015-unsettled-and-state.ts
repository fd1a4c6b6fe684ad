export default `
-- An entry that could be neither completed nor taken back, and why; 'back': it is being taken back.
alter table ledger add column unsettled text;
alter table ledger add column back integer not null default 0;
-- What is known of the site as a whole. 'connected' is '1' while every placement and mention is of the files as they are.
create table site_state (name text primary key, value text not null) strict, without rowid;
insert into site_state (name, value) values ('connected', '0'), ('use-known', '0');
-- Where an item lay before others moved it, until a person has seen that.
alter table item add column moved_from text;
create index item_moved on item (moved_from) where moved_from is not null;
create trigger unchecked_moved after update of moved_from on item when old.moved_from is not new.moved_from begin
  insert or ignore into unchecked values (new.id);
end;
create trigger unchecked_left_behind after insert on placement when new.state = 'broken' begin
  insert or ignore into unchecked select id from item where moved_from = new.path;
end;
create trigger unchecked_left_behind_no_more after delete on placement when old.state = 'broken' begin
  insert or ignore into unchecked select id from item where moved_from = old.path;
end;
-- Broken, unless a generator reads the page otherwise.
alter table placement add column unsure integer not null default 0;
-- The picture that it is a size of.
alter table item add column size_of integer;
create index item_size_of on item (size_of) where size_of is not null;
create trigger unchecked_size after update of size_of on item when old.size_of is not new.size_of begin
  insert or ignore into unchecked values (new.id);
end;
-- A text that could not even be searched for names: what it shows is not known.
alter table file add column unsearched integer not null default 0;
create index file_unsearched on file (path) where unsearched = 1;
`;
