export default `
-- Treatments of images that people keep: JSON, as core/picture/recipe/treatments.ts reads it.
create table treatment (
  name text primary key collate nocase,
  treatment text not null
) strict;
`;
