export default `
-- What a person has made of an image that waits, as JSON that core/picture/recipe/recipe.ts reads.
alter table arrival add column recipe text;
-- What is made of images that come into a folder, as core/picture/recipe/treatments.ts reads it.
alter table folder_rule add column treatment text;
`;
