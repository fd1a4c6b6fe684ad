/** PDFs by the item that they were made from. */
export default `
create index item_made_from on item (json_extract(edit, '$.pdf.from')) where edit like '{"pdf":%';
`;
