/**
 * A cell that a spreadsheet program would run as a formula gets an apostrophe in front, so that it stays text
 * (OWASP, "CSV injection"). Plain numbers stay as they are.
 */
export function neutralCell(cell: string): string {
  if (/^[=+\-@\t\r]/.test(cell) && !/^[+-]?\d+([.,]\d+)?$/.test(cell)) return `'${cell}`;
  return cell;
}
