export default `
-- Merging the index of words as it is written kept everyone waiting for up to a second now and then: small merges at the sixteenth part do.
insert into item_words (item_words, rank) values ('automerge', 0);
insert into content_words (content_words, rank) values ('automerge', 0);
`;
