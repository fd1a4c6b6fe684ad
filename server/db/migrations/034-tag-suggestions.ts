/** What a tagging service has said of images, each sent once; what waits to be looked at; and what people said to suggestions. */
export default `
create table image_label (
  service text not null,         -- its address
  sha256 text not null,
  labels text not null,          -- JSON, as the service said them
  taught text not null,          -- JSON: the tags that it was told of it last
  fault text,                    -- why it would not look at it; null: it did
  primary key (service, sha256)
) strict, without rowid;
create table service_use (
  service text not null,
  month text not null,           -- 2027-03, UTC
  sent integer not null,
  primary key (service, month)
) strict, without rowid;
alter table arrival add column said text not null default '{"taken":[],"refused":[]}';   -- what was said to its suggested tags
create table label_wanted (sha256 text primary key) strict, without rowid;
create table suggested_tag (
  item_id integer not null references item (id) on delete cascade,
  tag text not null collate nocase,
  said text not null check (said in ('taken', 'refused')),   -- taken: nobody has confirmed it yet
  primary key (item_id, tag)
) strict, without rowid;
`;
