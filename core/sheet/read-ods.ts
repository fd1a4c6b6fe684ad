import {
  childAt,
  childrenOf,
  readXml,
  UnreadableOffice,
  walkXml,
  type OfficePackage,
  type XmlElement,
} from '../office/package.ts';
import {
  MOST_COLUMNS,
  MOST_ROWS,
  type Cell,
  type CellKind,
  type CellStyle,
  type Merge,
  type Row,
  type Sheet,
} from './sheet.ts';

/** Cells that are read at most. */
const MOST_CELLS = 3_000_000;

/** What style names of columns and cells stand for. */
interface OdsStyles {
  cells: Map<string, CellStyle>;
  widths: Map<string, number>;
}

/** The kinds of values that cells may have (ISO/IEC 26300-1, 19.385). */
const KINDS: Readonly<Record<string, CellKind>> = {
  float: 'number',
  currency: 'number',
  percentage: 'number',
  date: 'number',
  time: 'number',
  boolean: 'truth',
};

/**
 * All sheets of a spreadsheet in OpenDocument (ISO/IEC 26300-1), each cell as the program that saved it has shown it.
 * @throws UnreadableOffice
 */
export function readOds(from: OfficePackage): Sheet[] {
  const content = from.text('content.xml');
  const frozen = frozenParts(from.text('settings.xml'));
  const styles = odsStyles(content, from.text('styles.xml'));
  const reader = new OdsReader(styles);
  walkXml(content, reader);
  if (reader.sheets.length === 0) throw new UnreadableOffice('It holds no sheet.');
  return reader.sheets.map((sheet) => ({ ...sheet, ...frozen.get(sheet.name) }));
}

class OdsReader {
  readonly sheets: Sheet[] = [];
  private rows: (Cell | undefined)[][] = [];
  private merges: Merge[] = [];
  private widths: (number | undefined)[] = [];
  private hiddenRows: number[] = [];
  private notes = new Set<string>();
  private table: Readonly<Record<string, string>> | undefined;
  private row: (Cell | undefined)[] = [];
  private rowTimes = 1;
  private rowAt = 0;
  private column = 0;
  private columnAt = 0;
  private cell: Readonly<Record<string, string>> | undefined;
  private words = '';
  private paragraphs = 0;
  /** Within a comment or a drawing, whose text belongs to no cell. */
  private beside = 0;
  private cells = 0;

  constructor(private readonly styles: OdsStyles) {}

  open = (name: string, attributes: Readonly<Record<string, string>>): void => {
    if (this.beside > 0 || BESIDE.has(name)) {
      this.beside++;
      const note = BESIDE.get(name);
      if (note && this.table) this.notes.add(note);
      return;
    }
    const times = Math.max(1, Number(attributes['table:number-columns-repeated'] ?? 1));
    switch (name) {
      case 'table:table':
        this.begin(attributes);
        break;
      case 'table:table-column': {
        const hidden = /^(collapse|filter)$/.test(attributes['table:visibility'] ?? '');
        const wide = hidden ? 0 : this.styles.widths.get(attributes['table:style-name'] ?? '');
        for (let at = 0; at < Math.min(times, 1000); at++) this.widths[this.columnAt + at] = wide;
        this.columnAt += times;
        break;
      }
      case 'table:table-row':
        this.row = [];
        this.column = 0;
        this.rowTimes = Math.max(1, Number(attributes['table:number-rows-repeated'] ?? 1));
        if (/^(collapse|filter)$/.test(attributes['table:visibility'] ?? '') && this.rowTimes < 10_000)
          for (let at = 0; at < this.rowTimes; at++) this.hiddenRows.push(this.rowAt + at);
        break;
      case 'table:table-cell':
      case 'table:covered-table-cell':
        this.cell = attributes;
        this.words = '';
        this.paragraphs = 0;
        break;
      case 'text:p':
        if (this.paragraphs++ > 0) this.words += '\n';
        break;
      case 'text:s':
        this.words += ' '.repeat(Math.min(1000, Number(attributes['text:c'] ?? 1)));
        break;
      case 'text:tab':
        this.words += '\t';
        break;
      case 'text:line-break':
        this.words += '\n';
        break;
    }
  };

  text = (words: string): void => {
    if (this.cell && this.beside === 0 && this.paragraphs > 0) this.words += words;
  };

  close = (name: string): void => {
    if (this.beside > 0) {
      this.beside--;
      return;
    }
    if (name === 'table:table-cell' || name === 'table:covered-table-cell') this.endCell();
    else if (name === 'table:table-row') this.endRow();
    else if (name === 'table:table') this.endSheet();
  };

  private begin(attributes: Readonly<Record<string, string>>) {
    this.table = attributes;
    this.rows = [];
    this.merges = [];
    this.widths = [];
    this.hiddenRows = [];
    this.notes = new Set();
    this.rowAt = 0;
    this.columnAt = 0;
  }

  private endCell() {
    const { cell } = this;
    if (!cell) return;
    this.cell = undefined;
    const times = Math.max(1, Number(cell['table:number-columns-repeated'] ?? 1));
    const style = this.styles.cells.get(cell['table:style-name'] ?? '');
    const formula = cell['table:formula'];
    const made: Cell | undefined =
      this.words === '' && formula === undefined && !style?.fill
        ? undefined
        : {
            text: this.words,
            kind:
              /^(Err:|#)/.test(this.words) && formula
                ? 'fault'
                : (KINDS[cell['office:value-type'] ?? ''] ?? 'text'),
            ...(formula === undefined ? {} : { formula: plainFormula(formula) }),
            ...(style === undefined ? {} : { style }),
          };
    const rows = Number(cell['table:number-rows-spanned'] ?? 1);
    const columns = Number(cell['table:number-columns-spanned'] ?? 1);
    if (rows > 1 || columns > 1) this.merges.push({ row: this.rowAt, column: this.column, rows, columns });
    const end = Math.min(this.column + times, MOST_COLUMNS);
    // Of what only has a colour, there may be as many as a sheet has cells.
    if (made && (this.words !== '' || formula !== undefined || times < 100))
      for (let at = this.column; at < end; at++) this.row[at] = made;
    this.column = end;
  }

  private endRow() {
    const filled = this.row.some((cell) => cell !== undefined);
    const end = Math.min(this.rowAt + this.rowTimes, MOST_ROWS);
    if (filled) {
      const says = this.row.some((cell) => cell && (cell.text !== '' || cell.formula));
      // The same holds for whole rows. Those that are the same are one.
      for (let at = this.rowAt; at < (says || this.rowTimes < 1000 ? end : this.rowAt); at++) {
        this.cells += this.row.length;
        if (this.cells > MOST_CELLS)
          throw new UnreadableOffice(
            'It has more than 3 million cells, which is more than can be shown here.',
          );
        this.rows[at] = this.row;
      }
    }
    this.rowAt = end;
  }

  private endSheet() {
    if (!this.table) return;
    const says = (row: Row | undefined) =>
      row === undefined ? 0 : row.findLastIndex((cell) => cell && (cell.text !== '' || cell.formula)) + 1;
    let [rowCount, columnCount] = [0, 0];
    this.rows.forEach((row, at) => {
      const wide = says(row);
      if (wide > 0) rowCount = at + 1;
      columnCount = Math.max(columnCount, wide);
    });
    this.sheets.push({
      name: this.table['table:name'] ?? '',
      hidden: this.table['table:display'] === 'false',
      rowCount,
      columnCount,
      frozenRows: 0,
      frozenColumns: 0,
      widths: this.widths.slice(0, columnCount),
      hiddenRows: this.hiddenRows,
      merges: this.merges,
      notes: [...this.notes],
      rows: this.rows,
    });
    this.table = undefined;
  }
}

/** As people write it: without the name of its language, and without brackets around cells (ISO/IEC 26300-2, 5.8). */
const plainFormula = (formula: string) =>
  formula
    .replace(/^\w+:/, '')
    .replace(/\[([^[\]]*)\]/g, (_whole, cells: string) => cells.replace(/(^|:)\./g, '$1'));

/** What lies beside the cells, with what is said of it. */
const BESIDE = new Map([
  ['office:annotation', 'Comments on cells aren’t shown here.'],
  ['table:shapes', 'Charts and images on this sheet aren’t shown here.'],
  ['draw:frame', 'Charts and images on this sheet aren’t shown here.'],
  ['table:tracked-changes', ''],
]);

/** Sheets whose first rows or columns stay in sight (`SplitMode` 2). */
function frozenParts(settings: string): Map<string, { frozenRows: number; frozenColumns: number }> {
  const found = new Map<string, { frozenRows: number; frozenColumns: number }>();
  if (settings === '') return found;
  const visit = (at: XmlElement) => {
    for (const one of childrenOf(at)) {
      if (one.name === 'config:config-item-map-entry') {
        const value = (name: string) =>
          childrenOf(one, 'config:config-item').find((item) => item.attributes['config:name'] === name)
            ?.children[0];
        const held = (way: string) =>
          value(`${way}SplitMode`) === '2' ? Number(value(`${way}SplitPosition`) ?? 0) : 0;
        const name = one.attributes['config:name'];
        if (name !== undefined)
          found.set(name, { frozenRows: held('Vertical'), frozenColumns: held('Horizontal') });
      }
      visit(one);
    }
  };
  visit(readXml(settings));
  return found;
}

/** Styles of the document, and of the program, of which the former may be made. */
function odsStyles(content: string, common: string): OdsStyles {
  const styles: OdsStyles = { cells: new Map(), widths: new Map() };
  const roots = [
    childAt(readXml(common), 'office:document-styles', 'office:styles'),
    // Only what stands before the body, which may be long.
    childAt(readXml(headOf(content)), 'office:document-content', 'office:automatic-styles'),
  ];
  for (const style of roots.flatMap((root) => childrenOf(root, 'style:style'))) {
    const {
      'style:name': name,
      'style:family': family,
      'style:parent-style-name': parent,
    } = style.attributes;
    if (name === undefined) continue;
    if (family === 'table-column') {
      const wide = pixels(childAt(style, 'style:table-column-properties')?.attributes['style:column-width']);
      if (wide !== undefined) styles.widths.set(name, wide);
    } else if (family === 'table-cell') {
      const look = { ...styles.cells.get(parent ?? ''), ...lookOf(style) };
      if (Object.keys(look).length > 0) styles.cells.set(name, look);
    }
  }
  return styles;
}
function headOf(content: string): string {
  const body = content.indexOf('<office:body');
  return body < 0 ? '' : `${content.slice(0, body)}</office:document-content>`;
}

/** How text with a style looks. */
function lookOf(style: XmlElement): CellStyle {
  const text = childAt(style, 'style:text-properties')?.attributes ?? {};
  const cell = childAt(style, 'style:table-cell-properties')?.attributes ?? {};
  const paragraph = childAt(style, 'style:paragraph-properties')?.attributes ?? {};
  const align = { start: 'left', left: 'left', center: 'center', end: 'right', right: 'right' }[
    paragraph['fo:text-align'] ?? ''
  ] as CellStyle['align'];
  const color = colorIn(text['fo:color']);
  const fill = colorIn(cell['fo:background-color']);
  return {
    ...(text['fo:font-weight'] === 'bold' ? { bold: true } : {}),
    ...(text['fo:font-style'] === 'italic' ? { italic: true } : {}),
    ...(lined(text['style:text-underline-style']) ? { underline: true } : {}),
    ...(lined(text['style:text-line-through-style']) ? { strike: true } : {}),
    ...(color !== undefined && color !== '#000000' ? { color } : {}),
    ...(fill === undefined ? {} : { fill }),
    ...(align === undefined ? {} : { align }),
    ...(cell['fo:wrap-option'] === 'wrap' ? { wrap: true } : {}),
  };
}
const lined = (style: string | undefined) => style !== undefined && style !== 'none';
const colorIn = (value: string | undefined) =>
  value !== undefined && /^#[\da-f]{6}$/i.test(value) ? value.toLowerCase() : undefined;

/** CSS pixels of a length (CSS Values 3, 6.2). */
function pixels(length: string | undefined): number | undefined {
  const found = /^(-?[\d.]+)(cm|mm|in|pt|pc|px)$/.exec(length ?? '');
  if (!found) return undefined;
  const each = { cm: 96 / 2.54, mm: 96 / 25.4, in: 96, pt: 96 / 72, pc: 16, px: 1 }[found[2]!]!;
  return Math.round(Number(found[1]) * each);
}
