export default `
create table person (
  id integer primary key,
  name text not null unique,
  role text not null,
  added_at text not null
) strict;

-- Every file of the site as last read: what a later scan need not read again.
create table file (
  path text primary key,
  bytes integer not null,
  mtime_ms real not null,
  sha256 text not null,
  hidden integer not null,
  is_text integer not null,
  item text,      -- JSON of what its content tells, for items
  reading text    -- JSON of title and references, for pages
) strict, without rowid;

create table item (
  id integer primary key,
  path text not null,
  folder text not null,
  name text not null,
  state text not null check (state in ('here', 'aside', 'absent')),
  kind text not null,
  mime text not null,
  bytes integer not null,
  sha256 text not null,
  width integer,
  height integer,
  duration real,
  unreadable text,
  added_at text not null,
  added_by integer references person (id),
  original_name text,
  aside_at text,
  alt text not null default '',
  decorative integer not null default 0,
  title text not null default '',
  caption text not null default '',
  description text not null default '',
  creator text not null default '',
  credit text not null default '',
  source text not null default '',
  licence text not null default '',
  licence_end text not null default '',
  placements integer not null default 0,
  use text not null default 'unused' check (use in ('placed', 'mentioned', 'unused')),
  name_faults text not null default '',
  row_version integer not null default 1,
  changed_at text,
  changed_by integer references person (id)
) strict;
create unique index item_here on item (path) where state = 'here';
create index item_folder on item (state, folder, name);
create index item_use on item (state, use);
create index item_sha on item (sha256);

create table tag (
  id integer primary key,
  name text not null unique collate nocase
) strict;
create table item_tag (
  item_id integer not null references item (id),
  tag_id integer not null references tag (id),
  primary key (item_id, tag_id)
) strict, without rowid;
create index item_tag_tag on item_tag (tag_id);

create table page (
  path text primary key,
  title text not null,
  unread text
) strict, without rowid;

create table placement (
  id integer primary key,
  page text not null,
  start integer not null,
  "end" integer not null,
  line integer not null,
  url text not null,
  place text not null,
  alt text,
  has_alt integer not null,
  path text not null,
  state text not null check (state in ('placed', 'broken')),
  near text
) strict;
create index placement_path on placement (path, state);
create index placement_page on placement (page);
create index placement_state on placement (state, page);

create table mention (
  page text not null,
  path text not null,
  line integer not null,
  primary key (path, page, line)
) strict, without rowid;
create index mention_page on mention (page);

create table ledger (
  id integer primary key,
  at text not null,
  person_id integer not null references person (id),
  kind text not null,
  title text not null,
  state text not null check (state in ('staging', 'switching', 'done', 'taken-back')),
  plan text not null,
  items integer not null,
  pages integer not null,
  bytes integer not null,
  undoes integer references ledger (id),
  undone_by integer references ledger (id)
) strict;
create index ledger_state on ledger (state, id);
-- Which paths and records an entry touched: what stands in the way of an undo.
create table ledger_touch (
  entry_id integer not null references ledger (id),
  what text not null,
  primary key (what, entry_id)
) strict, without rowid;

-- Files that have arrived and wait to be brought in; they survive a restart.
create table arrival (
  id integer primary key,
  at text not null,
  person_id integer not null references person (id),
  given_name text not null,
  name text not null,
  sha256 text not null,
  bytes integer not null,
  facts text not null,   -- JSON: what its content tells
  notes text not null    -- JSON: sentences of the door
) strict;

create table export (
  id integer primary key,
  at text not null,
  person_id integer not null references person (id),
  title text not null,
  items integer not null,
  bytes integer not null,
  file text not null
) strict;
`;
