import type { Cell, Row } from './sheet.ts';

/** The number that a cell shows, also in a table in text; undefined: it shows none. */
export function numberIn(cell: Cell | undefined): number | undefined {
  if (!cell || cell.kind !== 'number') return undefined;
  if (cell.number !== undefined) return cell.number;
  const plain = cell.text.replace(/[\s%']/g, '');
  const comma = plain.lastIndexOf(',');
  // Before three digits, or before a point, a comma groups; otherwise it parts the decimals.
  const groups = plain.includes('.') || /,\d{3}(?:,|$)/.test(plain);
  const number = Number(comma >= 0 && !groups ? plain.replace(',', '.') : plain.replaceAll(',', ''));
  return Number.isNaN(number) ? undefined : number;
}

const isEmpty = (row: Row | undefined) =>
  !row?.some((cell) => cell && (cell.text !== '' || cell.formula !== undefined));

/** The rows around one that belong together: up to the next empty one, below what stays in sight, and below a line of headings. */
export function rowsAround(
  rows: readonly (Row | undefined)[],
  row: number,
  frozen: number,
): { from: number; count: number } {
  let [from, to] = [row, row];
  while (from > frozen && !isEmpty(rows[from - 1])) from--;
  while (to + 1 < rows.length && !isEmpty(rows[to + 1])) to++;
  if (from < frozen) from = Math.min(frozen, to);
  const [first, second] = [rows[from], rows[from + 1]];
  const heading =
    frozen === 0 &&
    to > from &&
    first?.every((cell) => !cell || cell.kind === 'text') &&
    second?.some((cell) => cell?.kind === 'number');
  if (heading) from++;
  return { from, count: to - from + 1 };
}

/** In which order rows stand by a column: numbers first, then texts by the alphabet, and empty ones last, whichever way. Equal ones stay as they are. */
export function orderBy(
  rows: readonly (Row | undefined)[],
  { from, count }: { from: number; count: number },
  column: number,
  descending: boolean,
): number[] {
  const collator = new Intl.Collator('en', { numeric: true });
  const keys = Array.from({ length: count }, (_, at) => {
    const cell = rows[from + at]?.[column];
    return { at, number: numberIn(cell), text: cell?.text ?? '' };
  });
  const turn = descending ? -1 : 1;
  keys.sort((one, other) => {
    if (one.text === '' || other.text === '')
      return Number(one.text === '') - Number(other.text === '') || one.at - other.at;
    if (one.number !== undefined && other.number !== undefined)
      return turn * (one.number - other.number) || one.at - other.at;
    if (one.number !== undefined || other.number !== undefined)
      return turn * (one.number === undefined ? 1 : -1);
    return turn * collator.compare(one.text, other.text) || one.at - other.at;
  });
  return keys.map(({ at }) => at);
}
