import { attributeOf, fromXml, openTag, toXml, withAttribute, xmlTags } from '../office/xml-tags.ts';
import { movedFormula, shifted, shiftedRanges, type Shift } from './formula.ts';
import { cellAt, columnName, rangeAt } from './sheet.ts';
import { shiftedPlaces } from './sheet-places.ts';

/** What a cell holds, as it is stored. */
export interface StoredCell {
  /** 'n', 'str' (what a formula says), 'inlineStr', 'b', 'e', or as others have written it. */
  type: string;
  /** Without “=”. */
  formula?: string;
  value?: string;
}

interface RowXml {
  /** What stands before it, and its tag as one that opens. */
  before: string;
  tag: string;
  /** XML of its cells, by columns from 0; undefined: it has not been looked into. */
  cells?: Map<number, string>;
  /** As it was, as long as nothing in it has changed. */
  raw?: string;
}

/**
 * The XML of a sheet (ECMA-376, 18.3.1.99), of which single cells and rows are changed: all that isn't touched stays byte for byte.
 */
export class SheetXml {
  private readonly rows = new Map<number, RowXml>();
  /** Up to the rows, between the last of them and their end, and from there on. */
  private head: string;
  private readonly gap: string;
  private tail: string;
  /** “x:” where the elements have a prefix. */
  private readonly prefix: string;

  constructor(xml: string) {
    let row: { number: number; from: number; tag: string; tagFrom: number } | undefined;
    let [headEnd, tailStart] = [-1, -1];
    let last = -1;
    let end = 0;
    let prefix = '';
    const keep = (to: number) => {
      this.rows.set(row!.number, {
        before: xml.slice(row!.from, row!.tagFrom),
        tag: row!.tag,
        raw: xml.slice(row!.tagFrom, to),
      });
      last = row!.number;
      end = to;
      row = undefined;
    };
    for (const { name, is, from, to } of xmlTags(xml)) {
      const plain = name.replace(/^x:/, '');
      if (plain === 'sheetData') {
        prefix = name.startsWith('x:') ? 'x:' : '';
        if (is !== 'close') headEnd = is === 'empty' ? from : to;
        if (is !== 'open') tailStart = is === 'empty' ? to : from;
        if (is !== 'open') break;
        end = to;
      } else if (plain === 'row' && headEnd >= 0) {
        if (is === 'close') keep(to);
        else {
          const tag = xml.slice(from, to);
          const given = cellAt(`A${attributeOf(tag, 'r') ?? ''}`)?.row;
          row = {
            number: given ?? last + 1,
            from: end,
            tag: openTag(tag),
            tagFrom: from,
          };
          if (is === 'empty') keep(to);
        }
      }
    }
    this.prefix = prefix;
    const [open, close] = [`<${prefix}sheetData>`, `</${prefix}sheetData>`];
    const whole = xml.startsWith(close, tailStart);
    this.head = xml.slice(0, headEnd) + (whole ? '' : open);
    this.gap = whole ? xml.slice(end, tailStart) : '';
    this.tail = (whole ? '' : close) + xml.slice(tailStart);
  }

  private cellsOf(row: RowXml): Map<number, string> {
    if (row.cells) return row.cells;
    const cells = new Map<number, string>();
    const { raw = '' } = row;
    let last = -1;
    let open: { from: number; column: number } | undefined;
    for (const { name, is, from, to } of xmlTags(raw)) {
      if (name.replace(/^x:/, '') !== 'c') continue;
      if (is !== 'close') {
        const given = cellAt(attributeOf(raw.slice(from, to), 'r') ?? '')?.column;
        open = { from, column: (last = given ?? last + 1) };
      }
      if (is !== 'open' && open) cells.set(open.column, raw.slice(open.from, to));
    }
    return (row.cells = cells);
  }

  /** A row that is about to change; it is made where there is none. */
  private change(number: number): { tag: string; cells: Map<number, string> } {
    let row = this.rows.get(number);
    if (!row)
      this.rows.set(
        number,
        (row = { before: '', tag: `<${this.prefix}row r="${number + 1}">`, cells: new Map() }),
      );
    const cells = this.cellsOf(row);
    if (row.raw !== undefined) {
      delete row.raw;
      row.tag = withAttribute(withAttribute(row.tag, 'r', String(number + 1)), 'spans', undefined);
      for (const [column, cell] of cells) cells.set(column, this.at(cell, number, column));
    }
    return { tag: row.tag, cells };
  }

  /** XML of a cell as it is at a place. */
  private at(cell: string, row: number, column: number): string {
    const end = cell.indexOf('>') + 1;
    return withAttribute(cell.slice(0, end), 'r', `${columnName(column)}${row + 1}`) + cell.slice(end);
  }

  private xmlOf(row: number, column: number): string | undefined {
    const there = this.rows.get(row);
    return there && this.cellsOf(there).get(column);
  }

  /** The style of a cell; undefined: there is none. */
  styleOf(row: number, column: number): number | undefined {
    const cell = this.xmlOf(row, column);
    if (cell === undefined) return undefined;
    return Number(attributeOf(cell.slice(0, cell.indexOf('>') + 1), 's') ?? 0);
  }

  /** The style that an empty place has by its row or column. */
  usualStyle(row: number, column: number): number {
    const there = this.rows.get(row);
    if (there && attributeOf(there.tag, 'customFormat') === '1')
      return Number(attributeOf(there.tag, 's') ?? 0);
    for (const { name, from, to } of xmlTags(this.head)) {
      if (name.replace(/^x:/, '') !== 'col') continue;
      const tag = this.head.slice(from, to);
      if (Number(attributeOf(tag, 'min')) <= column + 1 && column + 1 <= Number(attributeOf(tag, 'max')))
        return Number(attributeOf(tag, 'style') ?? 0);
    }
    return 0;
  }

  /** Puts something in a cell; undefined: it is emptied, and keeps its style. */
  set(
    row: number,
    column: number,
    cell: StoredCell | undefined,
    style = this.styleOf(row, column) ?? this.usualStyle(row, column),
  ): void {
    const { cells } = this.change(row);
    const p = this.prefix;
    const tag = `<${p}c r="${columnName(column)}${row + 1}"${style ? ` s="${style}"` : ''}`;
    if (!cell) {
      if (style) cells.set(column, `${tag}/>`);
      else cells.delete(column);
      return;
    }
    const { type, formula, value } = cell;
    const space = value !== undefined && /^\s|\s$|\n/.test(value) ? ' xml:space="preserve"' : '';
    const inside = [
      formula === undefined ? '' : `<${p}f>${toXml(formula)}</${p}f>`,
      value === undefined
        ? ''
        : type === 'inlineStr'
          ? `<${p}is><${p}t${space}>${toXml(value)}</${p}t></${p}is>`
          : `<${p}v>${toXml(value)}</${p}v>`,
    ].join('');
    cells.set(column, `${tag}${type === 'n' ? '' : ` t="${type}"`}>${inside}</${p}c>`);
  }

  setStyle(row: number, column: number, style: number): void {
    const cell = this.xmlOf(row, column);
    if (cell === undefined) return this.set(row, column, undefined, style);
    const { cells } = this.change(row);
    const now = cells.get(column)!;
    const end = now.indexOf('>') + 1;
    cells.set(column, withAttribute(now.slice(0, end), 's', String(style)) + now.slice(end));
  }

  /** What a formula says now. @param value undefined: it is to be worked out by whoever opens it */
  setValue(row: number, column: number, type: string, value: string | undefined): void {
    const p = this.prefix;
    const { cells } = this.change(row);
    const cell = cells.get(column)!;
    const end = cell.indexOf('>') + 1;
    const tag = withAttribute(cell.slice(0, end), 't', type === 'n' ? undefined : type);
    const formula = this.formulaXml(cell);
    cells.set(
      column,
      `${tag}${formula}${value === undefined ? '' : `<${p}v>${toXml(value)}</${p}v>`}</${p}c>`,
    );
  }

  private formulaXml(cell: string): string {
    return (
      new RegExp(`<${this.prefix}f(?:\\s[^>]*)?(?:/>|>[\\s\\S]*?</${this.prefix}f>)`).exec(cell)?.[0] ?? ''
    );
  }

  /** Kind of the formula of a cell: '' of its own, 'shared', 'array', 'dataTable'; undefined: it has none. */
  formulaKind(row: number, column: number): string | undefined {
    const formula = this.formulaXml(this.xmlOf(row, column) ?? '');
    if (formula === '') return undefined;
    const kind = attributeOf(formula.slice(0, formula.indexOf('>') + 1), 't') ?? '';
    return kind === 'normal' ? '' : kind;
  }

  /** Places of all cells that have a formula. */
  private *withFormulas(): Generator<{ row: number; column: number; tag: string; formula: string }> {
    for (const [number, row] of this.rows) {
      if (row.raw !== undefined && !row.raw.includes(`<${this.prefix}f`)) continue;
      for (const [column, cell] of this.cellsOf(row)) {
        const xml = this.formulaXml(cell);
        if (xml === '') continue;
        const end = xml.indexOf('>') + 1;
        const close = xml.lastIndexOf(`</`);
        yield {
          row: number,
          column,
          tag: xml.slice(0, end),
          formula: close < end ? '' : fromXml(xml.slice(end, close)),
        };
      }
    }
  }

  /** Ranges of formulas that fill several cells at once. */
  arrays(): { row: number; column: number; rows: number; columns: number }[] {
    return [...this.withFormulas()].flatMap(({ tag }) => {
      const kind = attributeOf(tag, 't');
      return kind === 'array' || kind === 'dataTable' ? (rangeAt(attributeOf(tag, 'ref') ?? '') ?? []) : [];
    });
  }

  private putFormula(row: number, column: number, formula: string, tag = `<${this.prefix}f>`): void {
    const { cells } = this.change(row);
    const cell = cells.get(column)!;
    cells.set(
      column,
      cell.replace(this.formulaXml(cell), () => `${openTag(tag)}${toXml(formula)}</${this.prefix}f>`),
    );
  }

  /** Gives each cell its own formula where several share one. */
  unshare(): void {
    const first = new Map<string, { row: number; column: number; formula: string }>();
    for (const { row, column, tag, formula } of [...this.withFormulas()]) {
      if (attributeOf(tag, 't') !== 'shared') continue;
      const id = attributeOf(tag, 'si') ?? '';
      if (formula !== '') first.set(id, { row, column, formula });
      const from = first.get(id);
      if (from)
        this.putFormula(row, column, movedFormula(from.formula, row - from.row, column - from.column));
    }
  }

  /** Makes other formulas of those of this sheet. Shared ones must have been given to each cell. */
  eachFormula(change: (formula: string) => string): void {
    for (const { row, column, tag, formula } of [...this.withFormulas()]) {
      const now = change(formula);
      if (now !== formula) this.putFormula(row, column, now, tag);
    }
  }

  /** Rows or columns come in or leave, with all that names places of this sheet within it; formulas are left to `eachFormula`. */
  shift(shift: Shift): void {
    const { axis, at, by } = shift;
    const old = [...this.rows];
    if (axis === 'row') {
      this.rows.clear();
      for (const [number, row] of old) {
        const now = shifted(number, shift);
        if (now !== undefined) this.rows.set(now, row);
        // Its places are written anew.
        if (now !== undefined && now !== number) this.rewrite(now);
      }
      for (let row = at; row < at + by; row++) this.copyStyles(row, at > 0 ? at - 1 : at + by);
    } else {
      for (const [number, row] of old) {
        const cells = [...this.cellsOf(row)];
        if (!cells.some(([column]) => column >= at)) continue;
        this.change(number);
        const changed = [...row.cells!];
        row.cells!.clear();
        for (const [column, cell] of changed) {
          const now = shifted(column, shift);
          if (now !== undefined) row.cells!.set(now, this.at(cell, number, now));
        }
        for (let column = at; column < at + by; column++) {
          const style = this.styleOf(number, at > 0 ? at - 1 : at + by);
          if (style) this.set(number, column, undefined, style);
        }
      }
    }
    this.head = shiftedPlaces(this.head, this.prefix, shift);
    this.tail = shiftedPlaces(this.tail, this.prefix, shift);
    for (const { row, column, tag, formula } of [...this.withFormulas()]) {
      const ref = attributeOf(tag, 'ref');
      if (ref !== undefined)
        this.putFormula(row, column, formula, withAttribute(tag, 'ref', shiftedRanges(ref, shift)));
    }
  }

  private rewrite(number: number): void {
    const row = this.rows.get(number)!;
    this.cellsOf(row);
    row.raw ??= '';
    this.change(number);
  }

  private copyStyles(row: number, from: number): void {
    const there = this.rows.get(from);
    for (const column of there ? this.cellsOf(there).keys() : []) {
      const style = this.styleOf(from, column);
      if (style) this.set(row, column, undefined, style);
    }
  }

  /** Cells of rows change places; the rows keep their heights. @param order which of them, counted from the first, stands at each */
  order(from: number, order: readonly number[]): void {
    const cells = order.map((_, at) => {
      const row = this.rows.get(from + at);
      return row ? new Map(this.cellsOf(row)) : new Map<number, string>();
    });
    for (const [at, old] of order.entries()) {
      if (at === old) continue;
      const row = this.change(from + at);
      row.cells.clear();
      for (const [column, cell] of cells[old]!) {
        row.cells.set(column, this.at(cell, from + at, column));
        const xml = this.formulaXml(cell);
        const [end, close] = [xml.indexOf('>') + 1, xml.lastIndexOf('</')];
        if (close >= end && xml !== '')
          this.putFormula(
            from + at,
            column,
            movedFormula(fromXml(xml.slice(end, close)), at - old, 0),
            xml.slice(0, end),
          );
      }
    }
  }

  /** Ranges that are shown as one cell. */
  merged(): { row: number; column: number; rows: number; columns: number }[] {
    return [...xmlTags(this.tail)].flatMap(({ name, is, from, to }) =>
      name.replace(/^x:/, '') === 'mergeCell' && is !== 'close'
        ? (rangeAt(attributeOf(this.tail.slice(from, to), 'ref') ?? '') ?? [])
        : [],
    );
  }

  /** Whether it has an element of this name, beside its rows. */
  has(element: string): boolean {
    return [...xmlTags(this.head + this.tail)].some(({ name }) => name.replace(/^x:/, '') === element);
  }

  /** The whole part. */
  text(): string {
    const p = this.prefix;
    this.fitDimension();
    const rows = [...this.rows].sort(([one], [other]) => one - other);
    return (
      this.head +
      rows
        .map(
          ([, { before, tag, cells, raw }]) =>
            before +
            (raw ??
              `${tag}${[...cells!]
                .sort(([one], [other]) => one - other)
                .map(([, cell]) => cell)
                .join('')}</${p}row>`),
        )
        .join('') +
      this.gap +
      this.tail
    );
  }

  /** Programs read only as far as a sheet says that it reaches. */
  private fitDimension(): void {
    const found = [...xmlTags(this.head)].find(({ name }) => name.replace(/^x:/, '') === 'dimension');
    const tag = found && this.head.slice(found.from, found.to);
    const said = tag && rangeAt(attributeOf(tag, 'ref') ?? '');
    if (!said) return;
    let [row, column] = [said.row + said.rows - 1, said.column + said.columns - 1];
    let [firstRow, firstColumn] = [said.row, said.column];
    for (const [number, { cells, raw }] of this.rows)
      if (raw === undefined)
        for (const at of cells!.keys()) {
          row = Math.max(row, number);
          column = Math.max(column, at);
          firstRow = Math.min(firstRow, number);
          firstColumn = Math.min(firstColumn, at);
        }
    const ref = `${columnName(firstColumn)}${firstRow + 1}:${columnName(column)}${row + 1}`;
    if (
      rangeAt(attributeOf(tag!, 'ref')!) &&
      (said.row !== firstRow ||
        said.column !== firstColumn ||
        row >= said.row + said.rows ||
        column >= said.column + said.columns)
    )
      this.head =
        this.head.slice(0, found!.from) + withAttribute(tag!, 'ref', ref) + this.head.slice(found!.to);
  }
}
