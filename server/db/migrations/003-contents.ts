export default `
alter table item add column copyright text not null default '';
-- What was sent, kept off the site beside the smaller copy that stands there.
alter table item add column original_sha256 text;

-- What was computed from bytes, once for all items and arrivals that have them.
create table content (
  sha256 text primary key,
  version integer not null,
  preview integer not null,
  placeholder text,
  colours text not null,        -- JSON: '#rrggbb', the largest share first
  hash_a integer,
  hash_b integer,
  plane blob,                   -- luminance, 128 x 128
  frames integer not null,
  pages integer,
  codecs text not null,         -- 'AVC, AAC'
  profile text,
  taken_at text,
  text text not null,
  notes text not null           -- JSON: sentences
) strict, without rowid;

create table folder_rule (
  folder text primary key,
  purpose text not null,
  least_width integer,
  least_height integer,
  largest_side integer,
  shape text,
  largest_bytes integer,
  keep_original integer not null
) strict, without rowid;

-- Arrivals from the first byte on. 'sending': bytes still come; 'received': to be checked, also after a restart.
alter table arrival add column state text not null default 'ready'
  check (state in ('sending', 'received', 'ready', 'refused'));
alter table arrival add column upload text;
alter table arrival add column refused text not null default '';
alter table arrival add column folder text not null default '';
alter table arrival add column below text not null default '';      -- folders it lay in, of a dropped tree
alter table arrival add column plain_name text not null default '';
alter table arrival add column named integer not null default 0;    -- a person wrote the name
alter table arrival add column words text not null default '{}';
alter table arrival add column choices text not null default '{}';
alter table arrival add column alike text not null default '[]';
alter table arrival add column archive text;                        -- JSON: files and bytes inside
alter table arrival add column inside integer not null default 0;   -- it came out of an archive
alter table arrival add column ready text;                          -- JSON: the bytes for the site, when others than sent
create index arrival_person on arrival (person_id, id);
create unique index arrival_upload on arrival (upload) where upload is not null;
create index ledger_touch_entry on ledger_touch (entry_id);
`;
