export default `
-- What pictures are compared by: hashes of their windows and of their orientations, two words of 4 bytes each, and colours.
alter table content drop column hash_a;
alter table content drop column hash_b;
alter table content add column windows blob;
alter table content add column oriented blob;
alter table content add column chroma blob;   -- R-Y and B-Y on 8 x 8 fields
alter table content add column aspect real;   -- width by height
alter table content add column matched integer not null default 0;
create index content_unmatched on content (sha256) where matched = 0 and windows is not null;

-- Pictures that show the same in other bytes; the smaller hash first.
create table alike (
  one text not null,
  other text not null,
  relation text not null,
  sure real not null,
  weak integer not null,
  primary key (one, other)
) strict, without rowid;
create index alike_other on alike (other);
alter table arrival drop column alike;
`;
