export default `
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
`;
