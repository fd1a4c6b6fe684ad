export default `
alter table placement add column wide integer;                          -- CSS pixels, by its own element
alter table content add column shades real;                             -- different colours for each pixel
alter table content add column opaque integer not null default 1;
alter table content add column tells_place integer not null default 0;
-- Its bytes were changed by others, not through Iconomos.
alter table item add column outside integer not null default 0;

-- What the checks say of each item, and since when. 'looked': what it was found from, so that it is told again when that changes.
create table finding (
  name text not null,
  item_id integer not null references item (id),
  why text not null,
  saves integer not null,
  since text not null,
  looked text not null,
  primary key (name, item_id)
) strict, without rowid;
create index finding_item on finding (item_id);
-- Findings that a person has said to leave alone. Of items by their number, of anything else by what it is called.
create table dismissal (
  name text not null,
  subject text not null,
  reason text not null,
  person text not null,
  at text not null,
  looked text not null,
  primary key (name, subject)
) strict, without rowid;
-- Items of which the checks must be made anew.
create table unchecked (item_id integer primary key) strict;
insert into unchecked select id from item;
-- Whether there is any at all is asked at every check.
create index item_language on item (state) where language <> '';
create index item_licensed on item (state) where licence <> '';
create table upkeep_state (name text primary key, value text not null) strict, without rowid;
-- How the library stood at the end of each day.
create table care_day (
  day text primary key,
  items integer not null,
  bytes integer not null,
  described integer not null,
  named integer not null,
  filed integer not null,
  placed integer not null
) strict, without rowid;

create trigger unchecked_item_added after insert on item begin
  insert or ignore into unchecked values (new.id);
  insert or ignore into unchecked select id from item where sha256 = new.sha256 and sha256 <> '';
end;
create trigger unchecked_item_changed
  after update of path, state, mime, bytes, sha256, width, height, duration, unreadable, use, placements, name_faults, alt, decorative,
    title, caption, description, creator, credit, source, licence, licence_end, language, outside on item
  when old.path <> new.path or old.state <> new.state or old.sha256 <> new.sha256 or old.use <> new.use
    or old.placements <> new.placements or old.name_faults <> new.name_faults or old.outside <> new.outside
    or old.row_version <> new.row_version or old.alt <> new.alt or old.title <> new.title or old.creator <> new.creator
    or old.credit <> new.credit or old.licence <> new.licence or old.language <> new.language
    or old.unreadable is not new.unreadable or old.width is not new.width
begin
  insert or ignore into unchecked values (new.id);
  insert or ignore into unchecked select id from item
    where sha256 in (old.sha256, new.sha256) and sha256 <> '' and (old.sha256 <> new.sha256 or old.state <> new.state);
  -- Of many with one alt text, each stays one of several, whichever of them changes.
  insert or ignore into unchecked select id from item
    where alt = old.alt and alt <> '' and (old.alt <> new.alt or old.state <> new.state or old.sha256 <> new.sha256)
      and (select count(*) from (select 1 from item where alt = old.alt and alt <> '' limit 21)) < 21;
  insert or ignore into unchecked select id from item
    where alt = new.alt and alt <> '' and (old.alt <> new.alt or old.state <> new.state or old.sha256 <> new.sha256)
      and (select count(*) from (select 1 from item where alt = new.alt and alt <> '' limit 21)) < 21;
end;
create trigger unchecked_item_removed after delete on item begin
  delete from unchecked where item_id = old.id;
end;
create trigger finding_item_removed before delete on item begin
  delete from finding where item_id = old.id;
end;
create trigger unchecked_placement_added after insert on placement begin
  insert or ignore into unchecked select id from item where path = new.path and state = 'here';
end;
create trigger unchecked_placement_removed after delete on placement begin
  insert or ignore into unchecked select id from item where path = old.path and state = 'here';
end;
create trigger unchecked_content after insert on content begin
  insert or ignore into unchecked select id from item where sha256 = new.sha256;
end;
create trigger unchecked_alike_added after insert on alike begin
  insert or ignore into unchecked select id from item where sha256 in (new.one, new.other);
end;
create trigger unchecked_alike_removed after delete on alike begin
  insert or ignore into unchecked select id from item where sha256 in (old.one, old.other);
end;
create trigger unchecked_rule_added after insert on folder_rule begin
  insert or ignore into unchecked select id from item where state = 'here';
end;
create trigger unchecked_rule_removed after delete on folder_rule begin
  insert or ignore into unchecked select id from item where state = 'here';
end;
`;
