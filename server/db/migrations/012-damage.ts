export default `alter table content add column damaged text;`;
