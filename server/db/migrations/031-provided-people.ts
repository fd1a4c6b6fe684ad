/** Who people are at an organisation's provider: issuer and subject (OpenID Connect Core 1.0, 5.7). */
export default `
create table provided_person (
  issuer text not null,
  subject text not null,
  person_id integer not null references person (id),
  primary key (issuer, subject),
  unique (person_id)
) strict, without rowid;
`;
