export default `
-- Where pages, media and the public folders lie: lines, by part.
create table layout (part text primary key, lines text not null) strict, without rowid;

-- Few items have fields of the site's own: their counts walk over those only.
create index item_own on item (state) where own <> '{}';

-- What must be seen of a picture where it is cropped: percents from the left and the top, '31.5 40'.
alter table item add column focal text not null default '';

-- What a live site shows, as its reader found it: pages by address, and the items on them.
create table live_page (
  url text primary key,
  title text not null,
  status integer not null,
  read_at text not null
) strict, without rowid;
create table live_placement (
  id integer primary key,
  url text not null,
  path text not null,
  address text not null,
  place text not null,
  alt text,
  has_alt integer not null
) strict;
create index live_placement_path on live_placement (path);
create index live_placement_url on live_placement (url);
`;
