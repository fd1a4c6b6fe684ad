/** What was taken or bought from an image bank: by its key an order that was not answered is asked for again, and not twice. */
export default `
create table bank_order (
  bank text not null,           -- as it calls itself
  image text not null,
  key text not null unique,
  at text not null,
  person_id integer not null references person (id),
  receipt text,                 -- null: not answered yet
  terms text,                   -- JSON
  file text,
  primary key (bank, image, key)
) strict, without rowid;
`;
