/** What people say to each other about an item. */
export default `
create table comment (
  key text primary key,      -- the item's number, a space, and what no other comment of it has
  item_id integer not null references item (id),
  at text not null,
  value text not null        -- JSON: who, when, what, and whom it calls
) strict, without rowid;
create index comment_item on comment (item_id, at);
create index comment_at on comment (at);
`;
