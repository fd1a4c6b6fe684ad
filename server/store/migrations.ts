/** The schema, one step after the other. A step is never changed once it has been released; add a new one. */
export const MIGRATIONS: readonly string[] = [
  `
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
  `,
  `
  -- Which version of the reading code the rows of file were made by.
  create table reader (version integer not null) strict;
  insert into reader (version) values (0);
  `,
  `
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
  `,
  `
  -- Who looks after an item.
  alter table item add column owner_id integer references person (id);
  -- The name of the largest share of its colours (core/find/colour).
  alter table content add column main_colour text;
  update content set main_colour = colour_name(json_extract(colours, '$[0]')) where json_array_length(colours) > 0;

  -- Words for the search. Tags and documents stand apart, so that tagging thousands writes no text anew.
  create virtual table item_words using fts5 (
    name, title, alt, caption, description, people, path,
    tokenize = 'porter unicode61 remove_diacritics 2', prefix = '2 3', content = '', contentless_delete = 1
  );
  create virtual table tag_words using fts5 (
    name, tokenize = 'porter unicode61 remove_diacritics 2', prefix = '2 3', content = '', contentless_delete = 1
  );
  create virtual table content_words using fts5 (
    sha256 unindexed, text,
    tokenize = 'porter unicode61 remove_diacritics 2', content = '', contentless_delete = 1, contentless_unindexed = 1
  );
  insert into item_words (rowid, name, title, alt, caption, description, people, path)
    select id, name, title, alt, caption, description,
      creator || ' ' || credit || ' ' || copyright || ' ' || source || ' ' || coalesce(original_name, ''), path from item;
  insert into tag_words (rowid, name) select id, name from tag;
  insert into content_words (sha256, text) select sha256, text from content where text <> '';

  create trigger item_words_added after insert on item begin
    insert into item_words (rowid, name, title, alt, caption, description, people, path)
      values (new.id, new.name, new.title, new.alt, new.caption, new.description,
        new.creator || ' ' || new.credit || ' ' || new.copyright || ' ' || new.source || ' ' || coalesce(new.original_name, ''), new.path);
  end;
  create trigger item_words_changed
    after update of path, name, title, alt, caption, description, creator, credit, copyright, source on item begin
    insert or replace into item_words (rowid, name, title, alt, caption, description, people, path)
      values (new.id, new.name, new.title, new.alt, new.caption, new.description,
        new.creator || ' ' || new.credit || ' ' || new.copyright || ' ' || new.source || ' ' || coalesce(new.original_name, ''), new.path);
  end;
  create trigger item_words_removed after delete on item begin
    delete from item_words where rowid = old.id;
  end;
  create trigger tag_words_added after insert on tag begin
    insert into tag_words (rowid, name) values (new.id, new.name);
  end;
  create trigger tag_words_changed after update of name on tag begin
    insert or replace into tag_words (rowid, name) values (new.id, new.name);
  end;
  create trigger tag_words_removed after delete on tag begin
    delete from tag_words where rowid = old.id;
  end;
  create trigger content_words_added after insert on content when new.text <> '' begin
    insert into content_words (sha256, text) values (new.sha256, new.text);
  end;
  create trigger content_words_removed after delete on content when old.text <> '' begin
    delete from content_words where rowid in (select rowid from content_words where sha256 = old.sha256);
  end;

  -- One index for each order in which windows are asked for.
  create index item_by_kind on item (
    state, (case kind when 'image' then 0 when 'video' then 1 when 'audio' then 2 when 'document' then 3 else 4 end), path
  );
  create index item_by_path on item (state, path);
  create index item_by_name on item (state, name collate nocase, path);
  create index item_by_added on item (state, added_at, id);
  create index item_by_bytes on item (state, bytes, path);
  create index item_by_width on item (state, width);
  create index item_by_placements on item (state, placements, path);
  create index item_by_changed on item (state, changed_at, id);
  create index item_kind on item (state, kind);
  create index item_owner on item (owner_id) where owner_id is not null;
  create index item_licence_end on item (state, licence_end) where licence_end <> '';

  -- A query that a person keeps under a name.
  create table saved_query (
    id integer primary key,
    name text not null unique collate nocase,
    query text not null,    -- as in the address bar
    person_id integer not null references person (id),
    at text not null
  ) strict;
  `,
  `
  -- What the person wants to be remembered with a change; how far a long change has come: records done, ways cleared.
  alter table ledger add column note text not null default '';
  alter table ledger add column records_done integer not null default 0;
  alter table ledger add column cleared integer not null default 0;

  -- Other spellings under which a tag is found, and the tag that it lies below. By name: they outlive the last item
  -- that bears the tag.
  create table tag_spelling (
    id integer primary key,
    spelling text not null unique collate nocase,
    tag text not null collate nocase
  ) strict;
  create index tag_spelling_tag on tag_spelling (tag);
  create table tag_above (
    tag text primary key collate nocase,
    above text not null collate nocase
  ) strict, without rowid;
  create index tag_above_above on tag_above (above);
  create virtual table spelling_words using fts5 (
    spelling, tokenize = 'porter unicode61 remove_diacritics 2', prefix = '2 3', content = '', contentless_delete = 1
  );
  create trigger spelling_words_added after insert on tag_spelling begin
    insert into spelling_words (rowid, spelling) values (new.id, new.spelling);
  end;
  create trigger spelling_words_removed after delete on tag_spelling begin
    delete from spelling_words where rowid = old.id;
  end;

  -- What else a folder wants.
  alter table folder_rule add column kinds text;                          -- JSON: kinds of item; null: any
  alter table folder_rule add column name_start text not null default '';
  alter table folder_rule add column tags text not null default '[]';     -- JSON
  alter table folder_rule add column licence text not null default '';

  create index item_added_by on item (added_by) where added_by is not null;
  `,
  `
  -- More of what a record says; the site's own fields by name, as JSON.
  alter table item add column long_description text not null default '';
  alter table item add column taken text not null default '';
  alter table item add column place text not null default '';
  alter table item add column language text not null default '';
  alter table item add column own text not null default '{}';
  update item set taken = coalesce((select taken_at from content where content.sha256 = item.sha256), '');
  create table own_field (
    name text primary key collate nocase,
    kind text not null check (kind in ('text', 'choice', 'date', 'number')),
    choices text not null   -- JSON
  ) strict, without rowid;

  drop trigger item_words_added;
  drop trigger item_words_changed;
  create trigger item_words_added after insert on item begin
    insert into item_words (rowid, name, title, alt, caption, description, people, path)
      values (new.id, new.name, new.title, new.alt, new.caption,
        new.description || ' ' || new.long_description || ' ' || new.place || ' ' ||
          (select coalesce(group_concat(value, ' '), '') from json_each(new.own)),
        new.creator || ' ' || new.credit || ' ' || new.copyright || ' ' || new.source || ' ' || coalesce(new.original_name, ''), new.path);
  end;
  create trigger item_words_changed
    after update of path, name, title, alt, caption, description, long_description, place, own, creator, credit, copyright, source
    on item begin
    insert or replace into item_words (rowid, name, title, alt, caption, description, people, path)
      values (new.id, new.name, new.title, new.alt, new.caption,
        new.description || ' ' || new.long_description || ' ' || new.place || ' ' ||
          (select coalesce(group_concat(value, ' '), '') from json_each(new.own)),
        new.creator || ' ' || new.credit || ' ' || new.copyright || ' ' || new.source || ' ' || coalesce(new.original_name, ''), new.path);
  end;

  -- Patterns of names, kept under a name; a folder's own takes the place of how names begin there.
  create table name_pattern (
    name text primary key collate nocase,
    pattern text not null   -- JSON
  ) strict, without rowid;
  alter table folder_rule add column pattern text;
  update folder_rule set pattern = json_object(
    'pieces', json_array(json_object('piece', 'text', 'text', name_start), json_object('piece', 'present', 'part', 'all')),
    'separator', '-', 'case', 'lower', 'letters', 'ascii', 'stopWords', null, 'words', null, 'lacking', 'leave-out')
    where name_start <> '';
  alter table folder_rule drop column name_start;

  -- Of an element that offers one picture in several sizes: where it starts.
  alter table placement add column sizes_of integer;
  `,
  `
  -- Text that was read in pictures, by the hash of their bytes.
  create index item_alt on item (alt) where alt <> '';
  create table recognised (sha256 text primary key, text text not null) strict, without rowid;
  `,
  `
  -- The plan of an entry may be megabytes long: apart from its entry, whose state changes often and which is listed.
  create table ledger_plan (entry_id integer primary key references ledger (id), plan text not null) strict;
  insert into ledger_plan (entry_id, plan) select id, plan from ledger;
  alter table ledger drop column plan;

  -- Without lists of beginnings of words: they made each change of a record half as slow again and hardly any find faster.
  drop table item_words;
  create virtual table item_words using fts5 (
    name, title, alt, caption, description, people, path,
    tokenize = 'porter unicode61 remove_diacritics 2', content = '', contentless_delete = 1
  );
  insert into item_words (rowid, name, title, alt, caption, description, people, path)
    select id, name, title, alt, caption,
      description || ' ' || long_description || ' ' || place || ' ' ||
        (select coalesce(group_concat(value, ' '), '') from json_each(own)),
      creator || ' ' || credit || ' ' || copyright || ' ' || source || ' ' || coalesce(original_name, ''), path
    from item;
  `,
  `
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
  `,
  `
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
  `,
  `
  alter table placement add column wide integer;                          -- CSS pixels, by its own element
  alter table content add column shades real;                             -- different colours for each pixel
  alter table content add column opaque integer not null default 1;
  alter table content add column tells_place integer not null default 0;
  -- Its bytes were changed by others, not through Iconomos.
  alter table item add column outside integer not null default 0;

  -- What the checks say of each item, and since when. 'looked': what it was found from, so that it is told again when that changes.
  create table finding (
    name text not null,
    item_id integer not null references item (id),
    why text not null,
    saves integer not null,
    since text not null,
    looked text not null,
    primary key (name, item_id)
  ) strict, without rowid;
  create index finding_item on finding (item_id);
  -- Findings that a person has said to leave alone. Of items by their number, of anything else by what it is called.
  create table dismissal (
    name text not null,
    subject text not null,
    reason text not null,
    person text not null,
    at text not null,
    looked text not null,
    primary key (name, subject)
  ) strict, without rowid;
  -- Items of which the checks must be made anew.
  create table unchecked (item_id integer primary key) strict;
  insert into unchecked select id from item;
  -- Whether there is any at all is asked at every check.
  create index item_language on item (state) where language <> '';
  create index item_licensed on item (state) where licence <> '';
  create table upkeep_state (name text primary key, value text not null) strict, without rowid;
  -- How the library stood at the end of each day.
  create table care_day (
    day text primary key,
    items integer not null,
    bytes integer not null,
    described integer not null,
    named integer not null,
    filed integer not null,
    placed integer not null
  ) strict, without rowid;

  create trigger unchecked_item_added after insert on item begin
    insert or ignore into unchecked values (new.id);
    insert or ignore into unchecked select id from item where sha256 = new.sha256 and sha256 <> '';
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
    insert or ignore into unchecked select id from item
      where sha256 in (old.sha256, new.sha256) and sha256 <> '' and (old.sha256 <> new.sha256 or old.state <> new.state);
    -- Of many with one alt text, each stays one of several, whichever of them changes.
    insert or ignore into unchecked select id from item
      where alt = old.alt and alt <> '' and (old.alt <> new.alt or old.state <> new.state or old.sha256 <> new.sha256)
        and (select count(*) from (select 1 from item where alt = old.alt and alt <> '' limit 21)) < 21;
    insert or ignore into unchecked select id from item
      where alt = new.alt and alt <> '' and (old.alt <> new.alt or old.state <> new.state or old.sha256 <> new.sha256)
        and (select count(*) from (select 1 from item where alt = new.alt and alt <> '' limit 21)) < 21;
  end;
  create trigger unchecked_item_removed after delete on item begin
    delete from unchecked where item_id = old.id;
  end;
  create trigger finding_item_removed before delete on item begin
    delete from finding where item_id = old.id;
  end;
  create trigger unchecked_placement_added after insert on placement begin
    insert or ignore into unchecked select id from item where path = new.path and state = 'here';
  end;
  create trigger unchecked_placement_removed after delete on placement begin
    insert or ignore into unchecked select id from item where path = old.path and state = 'here';
  end;
  create trigger unchecked_content after insert on content begin
    insert or ignore into unchecked select id from item where sha256 = new.sha256;
  end;
  create trigger unchecked_alike_added after insert on alike begin
    insert or ignore into unchecked select id from item where sha256 in (new.one, new.other);
  end;
  create trigger unchecked_alike_removed after delete on alike begin
    insert or ignore into unchecked select id from item where sha256 in (old.one, old.other);
  end;
  create trigger unchecked_rule_added after insert on folder_rule begin
    insert or ignore into unchecked select id from item where state = 'here';
  end;
  create trigger unchecked_rule_removed after delete on folder_rule begin
    insert or ignore into unchecked select id from item where state = 'here';
  end;
  `,
  // Why a file cannot be read to its end.
  'alter table content add column damaged text;',
  // Of how many items each group of checks said something; null: not kept on that day.
  ['doubles', 'weight', 'rights', 'files']
    .map((line) => `alter table care_day add column ${line} integer;`)
    .join('\n'),
  `
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
  `,
  `
  -- An entry that could be neither completed nor taken back, and why; 'back': it is being taken back.
  alter table ledger add column unsettled text;
  alter table ledger add column back integer not null default 0;
  -- What is known of the site as a whole. 'connected' is '1' while every placement and mention is of the files as they are.
  create table site_state (name text primary key, value text not null) strict, without rowid;
  insert into site_state (name, value) values ('connected', '0'), ('use-known', '0');
  -- Where an item lay before others moved it, until a person has seen that.
  alter table item add column moved_from text;
  create index item_moved on item (moved_from) where moved_from is not null;
  create trigger unchecked_moved after update of moved_from on item when old.moved_from is not new.moved_from begin
    insert or ignore into unchecked values (new.id);
  end;
  create trigger unchecked_left_behind after insert on placement when new.state = 'broken' begin
    insert or ignore into unchecked select id from item where moved_from = new.path;
  end;
  create trigger unchecked_left_behind_no_more after delete on placement when old.state = 'broken' begin
    insert or ignore into unchecked select id from item where moved_from = old.path;
  end;
  -- Broken, unless a generator reads the page otherwise.
  alter table placement add column unsure integer not null default 0;
  -- The picture that it is a size of.
  alter table item add column size_of integer;
  create index item_size_of on item (size_of) where size_of is not null;
  create trigger unchecked_size after update of size_of on item when old.size_of is not new.size_of begin
    insert or ignore into unchecked values (new.id);
  end;
  -- A text that could not even be searched for names: what it shows is not known.
  alter table file add column unsearched integer not null default 0;
  create index file_unsearched on file (path) where unsearched = 1;
  `,
  `
  -- What people have said of the family: null: as it is found; 0: it stands for itself; else the picture that it is a size of.
  alter table item add column family integer;
  create index item_family on item (family) where family is not null;
  `,
  `
  -- Merging the index of words as it is written kept everyone waiting for up to a second now and then: small merges at the sixteenth part do.
  insert into item_words (item_words, rank) values ('automerge', 0);
  insert into content_words (content_words, rank) values ('automerge', 0);
  `,
  `
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
  `,
];
