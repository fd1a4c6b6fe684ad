/** Items that are being checked: what changes meanwhile is noted as unchecked again. */
export default `
create table being_checked (item_id integer primary key) strict;
`;
