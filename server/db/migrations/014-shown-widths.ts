export default `
-- How wide a browser draws the pictures of a page, in CSS pixels, at the widest; measured again when the page or a style sheet changes.
create table shown_width (
  page text not null,
  path text not null,
  wide integer not null,
  primary key (page, path)
) strict, without rowid;
create table measured_page (page text primary key, at text not null) strict, without rowid;
create trigger unchecked_width_added after insert on shown_width begin
  insert or ignore into unchecked select id from item where path = new.path and state = 'here';
end;
create trigger unchecked_width_changed after update on shown_width begin
  insert or ignore into unchecked select id from item where path = new.path and state = 'here';
end;
-- Another picture, or as many other pixels, may be drawn otherwise.
create trigger shown_width_past after update of width, path on item
  when old.width is not new.width or old.path <> new.path
begin
  delete from measured_page where page in (select page from shown_width where path = old.path);
  delete from shown_width where path = old.path;
end;
create index shown_width_path on shown_width (path);
create trigger unchecked_width_removed after delete on shown_width begin
  insert or ignore into unchecked select id from item where path = old.path and state = 'here';
end;
`;
