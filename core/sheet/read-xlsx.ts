import { format, getFormatFromId, isDateFormat } from 'numfmt';
import {
  childAt,
  childrenOf,
  readXml,
  relationsOf,
  textWithin,
  UnreadableOffice,
  walkXml,
  type OfficePackage,
  type XmlElement,
} from '../office/package.ts';
import { cellAt, rangeAt, type Cell, type Merge, type Row, type Sheet } from './sheet.ts';
import { movedFormula } from './formula.ts';
import { xlsxStyles, type XlsxStyles } from './xlsx-styles.ts';

/** Cells of a workbook that are read at most; more would fill the window's memory. */
const MOST_CELLS = 3_000_000;
const GENERAL = 'General';
/** CSS pixels of a digit, and beside the digits of a cell (ECMA-376, 18.3.1.13, for 11 points). */
const DIGIT = 7;
const BESIDE = 5;

/** Parts of a sheet that aren't drawn here, by the element that says so. */
const NOT_SHOWN: Readonly<Record<string, string>> = {
  drawing: 'Charts and images on this sheet aren’t shown here.',
  conditionalFormatting: 'Conditional formatting isn’t applied here.',
  legacyDrawing: 'Comments on cells aren’t shown here.',
};

/** A sheet of a workbook: where it is, and how it is read. */
export interface SheetPart {
  name: string;
  hidden: boolean;
  part: string;
}

/** A workbook whose sheets can be read one by one. */
export interface Workbook {
  part: string;
  sheets: readonly SheetPart[];
  since1904: boolean;
  /** Number formats by style. */
  patternOf(style: number): string;
  /** A sheet from its XML. @param counted cells that were read before it @throws UnreadableOffice */
  read(of: SheetPart, xml: string, counted?: { cells: number }): Sheet;
}

/**
 * All sheets of a workbook (ECMA-376, SpreadsheetML), with what its cells show. Nothing is computed: a formula shows the value that was saved.
 * @throws UnreadableOffice
 */
export function readXlsx(from: OfficePackage): Sheet[] {
  const book = openWorkbook(from);
  const counted = { cells: 0 };
  return book.sheets.map((one) => book.read(one, from.text(one.part), counted));
}

/** @throws UnreadableOffice */
export function openWorkbook(from: OfficePackage): Workbook {
  const book = [...relationsOf(from, '').values()].find(({ type }) => type === 'officeDocument')?.target;
  if (book === undefined) throw new UnreadableOffice('It holds no workbook.');
  const workbook = childAt(readXml(from.text(book)), 'workbook');
  const relations = relationsOf(from, book);
  const part = (type: string) => [...relations.values()].find((one) => one.type === type)?.target ?? '';
  const shared = sharedStrings(from.text(part('sharedStrings')));
  const styles = xlsxStyles(from.text(part('styles')), from.text(part('theme')));
  const since1904 = isOn(childAt(workbook, 'workbookPr')?.attributes['date1904']);
  const sheets: SheetPart[] = [];
  for (const { attributes } of childrenOf(childAt(workbook, 'sheets'), 'sheet')) {
    const relation = relations.get(attributes['r:id'] ?? '');
    if (relation?.type !== 'worksheet' || !from.has(relation.target)) continue;
    sheets.push({
      name: attributes['name'] ?? '',
      hidden: attributes['state'] !== undefined && attributes['state'] !== 'visible',
      part: relation.target,
    });
  }
  if (sheets.length === 0) throw new UnreadableOffice('It holds no sheet.');
  return {
    part: book,
    sheets,
    since1904,
    patternOf: (style) => patternOf(styles.formats[style] ?? 0, styles),
    read: ({ name, hidden }, xml, counted = { cells: 0 }) => ({
      ...readSheet(xml, shared, styles, since1904, () => {
        if (++counted.cells > MOST_CELLS)
          throw new UnreadableOffice(
            'It has more than 3 million cells, which is more than can be shown here.',
          );
      }),
      name,
      hidden,
    }),
  };
}

const isOn = (value: string | undefined) => value === '1' || value === 'true';

/** Runs of rich text are one text; what tells how they sound is left out. */
function textOfRuns(item: XmlElement): string {
  return childrenOf(item)
    .map((one) => (one.name === 't' ? textWithin(one) : one.name === 'r' ? textOfRuns(one) : ''))
    .join('');
}

function sharedStrings(xml: string): string[] {
  return xml === '' ? [] : childrenOf(childAt(readXml(xml), 'sst'), 'si').map(textOfRuns);
}

interface Found {
  type: string;
  style: number;
  value: string;
  formula: string;
  /** Id of the formula that it shares with others. */
  shares: string | undefined;
}

function readSheet(
  xml: string,
  shared: readonly string[],
  styles: XlsxStyles,
  since1904: boolean,
  count: () => void,
): Omit<Sheet, 'name' | 'hidden'> {
  const rows: (Cell | undefined)[][] = [];
  const hiddenRows: number[] = [];
  const widths: (number | undefined)[] = [];
  const merges: Merge[] = [];
  const notes = new Set<string>();
  /** Formulas that several cells share, each with the place of the first. */
  const formulas = new Map<string, { formula: string; row: number; column: number }>();
  let frozen = { rows: 0, columns: 0 };
  let columnCount = 0;
  let [row, column] = [-1, -1];
  let cell: Found | undefined;
  /** The element whose text is wanted: 'v', 'f', 't'; ''. */
  let within = '';
  /** Within what tells how a text sounds, which is no part of it. */
  let sounds = false;

  const keep = ({ type, style, value, formula, shares }: Found) => {
    let whole = formula;
    if (shares !== undefined) {
      const first = formulas.get(shares);
      if (formula !== '') formulas.set(shares, { formula, row, column });
      else if (first) whole = movedFormula(first.formula, row - first.row, column - first.column);
    }
    const shown = shownOf(type, value, style, shared, styles, since1904);
    const look = styles.looks[style];
    const pattern = patternOf(styles.formats[style] ?? 0, styles);
    if (shown === undefined && !whole && !look && pattern === GENERAL) return;
    count();
    (rows[row] ??= [])[column] = {
      ...(shown ?? { text: '', kind: 'text' }),
      ...(pattern === GENERAL ? {} : { pattern }),
      ...(whole ? { formula: `=${whole}` } : {}),
      ...(look ? { style: shown?.color ? { ...look, color: shown.color } : look } : {}),
    };
    // What is only filled with a colour makes no sheet longer.
    if (shown !== undefined || whole) columnCount = Math.max(columnCount, column + 1);
  };

  walkXml(xml, {
    open(name, attributes) {
      const note = NOT_SHOWN[name];
      if (note) notes.add(note);
      switch (name) {
        case 'pane':
          if (/^frozen/.test(attributes['state'] ?? ''))
            frozen = { rows: Number(attributes['ySplit'] ?? 0), columns: Number(attributes['xSplit'] ?? 0) };
          break;
        case 'col': {
          const wide = isOn(attributes['hidden'])
            ? 0
            : attributes['width'] === undefined
              ? undefined
              : Math.round(Number(attributes['width']) * DIGIT + BESIDE);
          // Programs say one width of all columns there could be.
          for (let at = Number(attributes['min']) - 1; at < Math.min(Number(attributes['max']), 1000); at++)
            widths[at] = wide;
          break;
        }
        case 'row':
          row = attributes['r'] === undefined ? row + 1 : (cellAt(`A${attributes['r']}`)?.row ?? row + 1);
          column = -1;
          if (isOn(attributes['hidden'])) hiddenRows.push(row);
          break;
        case 'c': {
          const at = cellAt(attributes['r'] ?? '');
          column = at?.column ?? column + 1;
          cell = {
            type: attributes['t'] ?? 'n',
            style: Number(attributes['s'] ?? 0),
            value: '',
            formula: '',
            shares: undefined,
          };
          break;
        }
        case 'f':
          within = 'f';
          if (cell && attributes['t'] === 'shared') cell.shares = attributes['si'];
          break;
        case 'v':
        case 't':
          if (!sounds) within = name;
          break;
        case 'rPh':
          sounds = true;
          break;
        case 'mergeCell': {
          const merge = rangeAt(attributes['ref'] ?? '');
          if (merge) merges.push(merge);
          break;
        }
      }
    },
    text(words) {
      if (!cell) return;
      if (within === 'f') cell.formula += words;
      else if (within === 'v' || within === 't') cell.value += words;
    },
    close(name) {
      if (name === 'c' && cell) {
        keep(cell);
        cell = undefined;
      } else if (name === 'rPh') sounds = false;
      else if (name === 'f' || name === 'v' || name === 't') within = '';
    },
  });
  const last = rows.findLastIndex((one) => one?.some((it) => it && (it.text !== '' || it.formula)));
  return {
    rowCount: last + 1,
    columnCount,
    frozenRows: frozen.rows,
    frozenColumns: frozen.columns,
    widths,
    hiddenRows,
    merges,
    notes: [...notes],
    rows: rows as readonly (Row | undefined)[],
  };
}

/** What a cell shows; undefined: nothing. */
function shownOf(
  type: string,
  value: string,
  style: number,
  shared: readonly string[],
  styles: XlsxStyles,
  since1904: boolean,
): (Pick<Cell, 'text' | 'kind' | 'number'> & { color?: string }) | undefined {
  if (type === 's') {
    const text = shared[Number(value)] ?? '';
    return text === '' ? undefined : { text, kind: 'text' };
  }
  if (value === '') return undefined;
  if (type === 'inlineStr' || type === 'str') return { text: value, kind: 'text' };
  if (type === 'b') return { text: value === '1' ? 'TRUE' : 'FALSE', kind: 'truth' };
  if (type === 'e') return { text: value, kind: 'fault' };
  if (type === 'd') return { text: value, kind: 'number' };
  const number = Number(value);
  if (Number.isNaN(number)) return { text: value, kind: 'text' };
  const pattern = patternOf(styles.formats[style] ?? 0, styles);
  return { text: formatted(number, pattern, since1904), kind: 'number', number };
}

/** Days between the two beginnings of time that workbooks count from (ECMA-376, 18.17.4.1). */
const DAYS_1904 = 1462;

const patternOf = (id: number, styles: XlsxStyles) =>
  styles.patterns.get(id) ?? getFormatFromId(id) ?? GENERAL;

/** A number as its format shows it; what no format can be made of is shown as it is. */
export function formatted(number: number, pattern: string, since1904 = false): string {
  return format(pattern, since1904 && isDateFormat(pattern) ? number + DAYS_1904 : number, {
    throws: false,
    invalid: String(number),
  });
}
