export default `
-- What SQLite may expect of each index, as it is in a library of 100,000. Nearly all items have the same state: without being told, it looked for the
-- items with the same bytes among all that have the same state, for each item again. Fixed, so that a question takes the same way everywhere.
create index item_original_sha on item (original_sha256) where original_sha256 is not null;
analyze sqlite_schema;
delete from sqlite_stat1;
insert into sqlite_stat1 (tbl, idx, stat) values
  ('item', 'item_here', '100000 1'),
  ('item', 'item_sha', '100000 1'),
  ('item', 'item_original_sha', '10000 1'),
  ('item', 'item_folder', '100000 90000 100 1'),
  ('item', 'item_use', '100000 90000 30000'),
  ('item', 'item_kind', '100000 90000 30000'),
  ('item', 'item_by_kind', '100000 90000 30000 1'),
  ('item', 'item_by_path', '100000 90000 1'),
  ('item', 'item_by_name', '100000 90000 2 1'),
  ('item', 'item_by_added', '100000 90000 2 1'),
  ('item', 'item_by_bytes', '100000 90000 2 1'),
  ('item', 'item_by_width', '100000 90000 30'),
  ('item', 'item_by_placements', '100000 90000 5000 1'),
  ('item', 'item_by_changed', '100000 90000 10 1'),
  ('item', 'item_added_by', '100000 30000'),
  ('item', 'item_owner', '10000 3000'),
  ('item', 'item_licence_end', '1000 1000 10'),
  ('item', 'item_language', '10000 10000'),
  ('item', 'item_licensed', '30000 30000'),
  ('item', 'item_own', '10000 10000'),
  ('item', 'item_alt', '70000 3'),
  ('item', 'item_moved', '1000 1'),
  ('item', 'item_size_of', '50000 4'),
  ('item', 'item_family', '1000 4'),
  ('item_tag', 'item_tag', '300000 3 1'),
  ('item_tag', 'item_tag_tag', '300000 15'),
  ('tag', 'sqlite_autoindex_tag_1', '20000 1'),
  ('placement', 'placement_path', '500000 5 5'),
  ('placement', 'placement_page', '500000 100'),
  ('placement', 'placement_state', '500000 450000 100'),
  ('mention', 'mention', '100000 2 1 1'),
  ('mention', 'mention_page', '100000 50'),
  ('live_placement', 'live_placement_path', '10000 2'),
  ('live_placement', 'live_placement_url', '10000 50'),
  ('ledger', 'ledger_state', '10000 9000 1'),
  ('ledger_touch', 'ledger_touch', '1000000 5 1'),
  ('ledger_touch', 'ledger_touch_entry', '1000000 100'),
  ('finding', 'finding', '100000 5000 1'),
  ('finding', 'finding_item', '100000 2');
analyze sqlite_schema;
`;
