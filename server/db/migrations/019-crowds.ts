export default `
-- Of many with one alt text or the same bytes, each stays one of several, whichever of them changes; going through all of them for each that does
-- takes the longer the more they are. Compared with null, nothing is gone through.
drop trigger unchecked_item_added;
drop trigger unchecked_item_changed;
create trigger unchecked_item_added after insert on item begin
  insert or ignore into unchecked values (new.id);
  insert or ignore into unchecked select id from item where sha256 = (select new.sha256 where new.sha256 <> ''
    and (select count(*) from (select 1 from item where sha256 = new.sha256 limit 101)) < 101);
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
  insert or ignore into unchecked select id from item where sha256 = (select old.sha256 where old.sha256 <> ''
    and (old.sha256 <> new.sha256 or old.state <> new.state)
    and (select count(*) from (select 1 from item where sha256 = old.sha256 limit 101)) < 101);
  insert or ignore into unchecked select id from item where sha256 = (select new.sha256 where new.sha256 <> ''
    and (old.sha256 <> new.sha256 or old.state <> new.state)
    and (select count(*) from (select 1 from item where sha256 = new.sha256 limit 101)) < 101);
  insert or ignore into unchecked select id from item where alt <> '' and alt = (select old.alt
    where old.alt <> '' and (old.alt <> new.alt or old.state <> new.state or old.sha256 <> new.sha256)
      and (select count(*) from (select 1 from item where alt = old.alt and alt <> '' limit 21)) < 21);
  insert or ignore into unchecked select id from item where alt <> '' and alt = (select new.alt
    where new.alt <> '' and (old.alt <> new.alt or old.state <> new.state or old.sha256 <> new.sha256)
      and (select count(*) from (select 1 from item where alt = new.alt and alt <> '' limit 21)) < 21);
end;
`;
