import { strToU8, unzipSync, zipSync } from 'fflate';
import { openPackage, relationsOf, type OfficePackage } from '../office/package.ts';
import { attributeOf, withAttribute, withTexts, xmlTags } from '../office/xml-tags.ts';
import { recompute, type ChangedCells, type DefinedNames, type Place } from './compute.ts';
import { NoSuchEdit, type SheetEdit, type SheetEditor } from './edits.ts';
import { rangesIn, shifted, shiftedFormula, type Shift } from './formula.ts';
import { openWorkbook, type Workbook } from './read-xlsx.ts';
import { MOST_COLUMNS, MOST_ROWS, type Cell, type Sheet } from './sheet.ts';
import { SheetXml } from './sheet-xml.ts';
import { StyleXml } from './style-xml.ts';
import { inputOf, typed } from './typed.ts';

/** Cells of a workbook that can be edited here. */
export const MOST_EDITED_CELLS = 200_000;

/** What would not move along with rows and columns, by the relation or element that says so. */
const HELD_RELATIONS = new Set([
  'vmlDrawing',
  'comments',
  'table',
  'pivotTable',
  'slicer',
  'threadedComment',
]);
const HELD_ELEMENTS = ['xm:sqref', 'xm:f'];

/** Dynamic data exchange, which some programs still do: a name, “|” and what is said to it. */
const STARTS_PROGRAM = /^(?:[^"]|"[^"]*")*?[\w.']\s*\|/;

/** What a change has touched, which other sheets with it, and where cells are now. */
interface Made {
  changed: ChangedCells[];
  others: number[];
  now?: (place: Place) => Place | undefined;
}

/**
 * A workbook that is edited. Each change is made in the XML of its sheet; parts that no change touches stay byte for byte, and so do the cells
 * of a sheet that none does.
 */
export class WorkbookEditor implements SheetEditor {
  private readonly from: OfficePackage;
  private readonly book: Workbook;
  private readonly xml = new Map<number, SheetXml>();
  private readonly changedParts = new Map<string, string | null>();
  private readonly styles: StyleXml;
  private readonly stylePart: string;
  /** As they are by now, with what their formulas say. */
  sheets: Sheet[];
  /** Cells whose formulas could not be worked out here, since the beginning. */
  left: readonly Place[] = [];
  private edited = false;

  /** @throws UnreadableOffice, NoSuchEdit when it has too many cells */
  constructor(private readonly packed: Uint8Array) {
    this.from = openPackage(packed);
    this.book = openWorkbook(this.from);
    const styles = [...relationsOf(this.from, this.book.part).values()].find(({ type }) => type === 'styles');
    this.stylePart = styles?.target ?? '';
    this.styles = new StyleXml(this.from.text(this.stylePart));
    const counted = { cells: 0 };
    this.sheets = this.book.sheets.map((one) => this.book.read(one, this.from.text(one.part), counted));
    if (counted.cells > MOST_EDITED_CELLS)
      throw new NoSuchEdit('It has more than 200,000 cells, which is more than can be edited here.');
    // What was never worked out is, so that it shows.
    this.work([]);
  }

  /** What becomes of some of it when it is edited, each as a sentence. */
  get notes(): string[] {
    const has = (pattern: RegExp) => this.from.names.some((name) => pattern.test(name));
    return [
      ...(has(/^_xmlsignatures\//)
        ? ['It is digitally signed. The signature won’t be valid after a change.']
        : []),
      ...(has(/vbaProject\.bin$/) ? ['Its macros are kept. They never run here.'] : []),
      ...(has(/^xl\/externalLinks\//)
        ? ['It refers to other files. They are never opened; the values that were saved are shown.']
        : []),
    ];
  }

  input(sheet: number, row: number, column: number): string {
    return inputOf(this.sheets[sheet]?.rows[row]?.[column]);
  }

  /** Why a sheet can't be edited, as a sentence; '': it can. */
  locked(sheet: number): string {
    return this.xmlOf(sheet).has('sheetProtection')
      ? 'This sheet is protected. Remove its protection in its own program to edit it.'
      : '';
  }

  /** @throws NoSuchEdit: nothing has changed then */
  apply(edit: SheetEdit): void {
    if (!this.sheets[edit.sheet]) throw new NoSuchEdit('There is no such sheet in this workbook.');
    const locked = this.locked(edit.sheet);
    if (locked) throw new NoSuchEdit(locked);
    const { changed, others, now = (place) => place } = this.make(edit);
    this.edited = true;
    this.left = this.left.flatMap((one) => now(one) ?? []);
    const touched = new Set([edit.sheet, ...others]);
    for (const sheet of touched) this.reread(sheet);
    this.work(changed);
  }

  private make(edit: SheetEdit): Made {
    switch (edit.do) {
      case 'set':
        return { changed: this.set(edit), others: [] };
      case 'insert':
      case 'remove':
        return this.shift(edit);
      case 'order':
        return this.order(edit);
      case 'style':
        this.style(edit);
        return { changed: [], others: [] };
    }
  }

  private set({ sheet, cells }: Extract<SheetEdit, { do: 'set' }>): ChangedCells[] {
    const xml = this.xmlOf(sheet);
    const arrays = xml.arrays();
    for (const [row, column] of cells)
      if (
        arrays.some(
          (one) =>
            row >= one.row &&
            row < one.row + one.rows &&
            column >= one.column &&
            column < one.column + one.columns,
        )
      )
        throw new NoSuchEdit('A formula fills several of these cells at once. It can’t be changed here.');
    if (cells.some(([row, column]) => xml.formulaKind(row, column) === 'shared')) xml.unshare();
    for (const [row, column, words] of cells) {
      // What says the same stays as it is written.
      if (words === this.input(sheet, row, column)) continue;
      const there = this.sheets[sheet]!.rows[row]?.[column];
      let style = xml.styleOf(row, column);
      const meant = typed(
        words,
        there?.pattern ?? (style === undefined ? undefined : this.book.patternOf(style)),
      );
      if (meant.as === 'nothing') {
        if (style !== undefined) xml.set(row, column, undefined);
      } else {
        style ??= this.styleAbove(sheet, row, column, meant.as) ?? xml.usualStyle(row, column);
        if (
          meant.as === 'number' &&
          meant.pattern !== undefined &&
          this.styles.canAdd &&
          this.patternOf(sheet, style) === 'General'
        )
          style = this.styles.variant(style, { pattern: meant.pattern });
        if (meant.as === 'text') xml.set(row, column, { type: 'inlineStr', value: meant.text }, style);
        else if (meant.as === 'formula' && STARTS_PROGRAM.test(meant.formula))
          throw new NoSuchEdit(
            'This formula would start a program on the computer of whoever opens the workbook.',
          );
        else if (meant.as === 'formula') xml.set(row, column, { type: 'n', formula: meant.formula }, style);
        else if (meant.as === 'truth')
          xml.set(row, column, { type: 'b', value: meant.truth ? '1' : '0' }, style);
        else xml.set(row, column, { type: 'n', value: String(meant.number) }, style);
      }
      if (there?.formula !== undefined) this.dropCalcChain();
    }
    if (cells.length < 50) return cells.map(([row, column]) => ({ sheet, row, column }));
    const [rows, columns] = [cells.map(([row]) => row), cells.map(([, column]) => column)];
    const least = (all: number[]) => all.reduce((one, other) => Math.min(one, other));
    const most = (all: number[]) => all.reduce((one, other) => Math.max(one, other));
    const [row, column] = [least(rows), least(columns)];
    return [{ sheet, row, column, rows: most(rows) - row + 1, columns: most(columns) - column + 1 }];
  }

  private patternOf(sheet: number, style: number): string {
    return this.styleMade(style) ?? this.book.patternOf(style);
  }
  /** Of a style that was added since, the workbook as it was read knows nothing. */
  private styleMade(style: number): string | undefined {
    return this.addedPatterns.get(style);
  }
  private readonly addedPatterns = new Map<number, string>();

  /** A new cell below a list looks like the list. */
  private styleAbove(sheet: number, row: number, column: number, as: string): number | undefined {
    const xml = this.xmlOf(sheet);
    const [above, further] = [this.sheets[sheet]!.rows[row - 1]?.[column], xml.styleOf(row - 2, column)];
    const kind = as === 'number' ? 'number' : 'text';
    const style = xml.styleOf(row - 1, column);
    return above && (above.kind === kind || as === 'formula') && style !== undefined && style === further
      ? style
      : undefined;
  }

  private shift({ sheet, do: how, axis, at, count }: Extract<SheetEdit, { do: 'insert' | 'remove' }>): Made {
    const facts = this.sheets[sheet]!;
    const what = axis === 'row' ? 'Rows' : 'Columns';
    const most = axis === 'row' ? MOST_ROWS : MOST_COLUMNS;
    const used =
      axis === 'row'
        ? facts.rows.length
        : facts.rows.reduce((wide, row) => Math.max(wide, row?.length ?? 0), 0);
    if (at >= most || (how === 'insert' && Math.max(used, at) + count > most))
      throw new NoSuchEdit('A sheet has no room for so many rows or columns.');
    const held = this.relations(sheet).some(({ type }) => HELD_RELATIONS.has(type));
    const xml = this.xmlOf(sheet);
    if (held || HELD_ELEMENTS.some((name) => xml.has(name)))
      throw new NoSuchEdit(
        `${what} can’t come in or be removed on this sheet: it has tables, comments or other parts that wouldn’t move along.`,
      );
    const shift: Shift = { axis, at, by: how === 'insert' ? count : -count };
    const cuts = xml.arrays().some((one) => {
      const [first, size] = axis === 'row' ? [one.row, one.rows] : [one.column, one.columns];
      return first + size > at && first < (how === 'insert' ? at : at + count);
    });
    if (cuts)
      throw new NoSuchEdit(
        `A formula that fills several cells at once lies there. ${what} can’t change there.`,
      );
    const own = facts.name.toLowerCase();
    const others: number[] = [];
    xml.unshare();
    xml.shift(shift);
    for (const number of this.sheets.keys()) {
      const isOn = (name: string | undefined) =>
        name === undefined ? number === sheet : name.toLowerCase() === own;
      const refers =
        number === sheet ||
        this.sheets[number]!.rows.some((row) =>
          row?.some(
            (cell) =>
              cell?.formula !== undefined &&
              rangesIn(cell.formula).some((one) => one.sheet?.toLowerCase() === own),
          ),
        );
      if (!refers) continue;
      const of = this.xmlOf(number);
      if (number !== sheet) {
        of.unshare();
        others.push(number);
      }
      of.eachFormula((formula) => shiftedFormula(formula, isOn, shift));
    }
    this.shiftNames(sheet, own, shift);
    this.shiftDrawing(sheet, shift);
    this.dropCalcChain();
    // What reached to a place that is gone reaches to the one before it.
    const first = Math.max(0, at - 1);
    const everywhere = {
      row: axis === 'row' ? first : 0,
      column: axis === 'column' ? first : 0,
      rows: MOST_ROWS,
      columns: MOST_COLUMNS,
    };
    const now = (place: Place) => {
      if (place.sheet !== sheet) return place;
      const there = shifted(place[axis], shift);
      return there === undefined ? undefined : { ...place, [axis]: there };
    };
    return { changed: [{ sheet, ...everywhere }], others, now };
  }

  /** Names that stand for places of a sheet, as its print area, move along. */
  private shiftNames(sheet: number, own: string, shift: Shift): void {
    this.changeTexts(this.book.part, (name, tag) => {
      if (name.replace(/^x:/, '') !== 'definedName') return undefined;
      const local = attributeOf(tag, 'localSheetId') === String(sheet);
      return (words) =>
        shiftedFormula(words, (one) => (one === undefined ? local : one.toLowerCase() === own), shift);
    });
    // Charts, wherever they stand, show the same cells as before.
    for (const part of this.from.names)
      if (/^xl\/charts\/[^/]+\.xml$/.test(part))
        this.changeTexts(part, (name) =>
          name === 'c:f'
            ? (words) => shiftedFormula(words, (one) => one?.toLowerCase() === own, shift)
            : undefined,
        );
  }

  /** Charts and images stay with the cells that they are held by. */
  private shiftDrawing(sheet: number, shift: Shift): void {
    const wanted = shift.axis === 'row' ? 'xdr:row' : 'xdr:col';
    for (const { type, target } of this.relations(sheet))
      if (type === 'drawing')
        this.changeTexts(target, (name) =>
          name === wanted ? (words) => String(shifted(Number(words), shift) ?? shift.at) : undefined,
        );
  }

  private relations(sheet: number): { type: string; target: string }[] {
    return [...relationsOf(this.from, this.book.sheets[sheet]!.part).values()];
  }

  private changeTexts(part: string, changeOf: Parameters<typeof withTexts>[1]): void {
    const before = this.textOf(part);
    const now = withTexts(before, changeOf);
    if (now !== before) this.changedParts.set(part, now);
  }

  private order({ sheet, from, order }: Extract<SheetEdit, { do: 'order' }>): Made {
    const xml = this.xmlOf(sheet);
    const to = from + order.length;
    const within = (one: { row: number; rows: number }) => one.row < to && one.row + one.rows > from;
    if (xml.merged().some(within))
      throw new NoSuchEdit('These rows can’t be sorted: some of their cells are merged.');
    if (xml.arrays().some(within))
      throw new NoSuchEdit('These rows can’t be sorted: a formula fills several of their cells at once.');
    xml.unshare();
    xml.order(from, order);
    this.dropCalcChain();
    return {
      changed: [{ sheet, row: from, column: 0, rows: order.length, columns: MOST_COLUMNS, moved: true }],
      others: [],
      now: (place) =>
        place.sheet === sheet && place.row >= from && place.row < to
          ? { ...place, row: from + order.indexOf(place.row - from) }
          : place,
    };
  }

  private style({ sheet, row, column, rows, columns, look }: Extract<SheetEdit, { do: 'style' }>): void {
    if (!this.styles.canAdd) throw new NoSuchEdit('This workbook has no styles that could be changed.');
    const xml = this.xmlOf(sheet);
    for (let at = row; at < row + rows; at++)
      for (let across = column; across < column + columns; across++) {
        const before = xml.styleOf(at, across) ?? xml.usualStyle(at, across);
        const style = this.styles.variant(before, look);
        this.addedPatterns.set(style, look.pattern ?? this.patternOf(sheet, before));
        xml.setStyle(at, across, style);
      }
  }

  /** Other programs work out their order anew when there is none; a wrong one makes them complain. */
  private dropCalcChain(): void {
    const chain = [...relationsOf(this.from, this.book.part)].find(([, { type }]) => type === 'calcChain');
    if (!chain || this.changedParts.get(chain[1].target) === null) return;
    const [id, { target }] = chain;
    this.changedParts.set(target, null);
    const slash = this.book.part.lastIndexOf('/');
    const relations = `${this.book.part.slice(0, slash + 1)}_rels/${this.book.part.slice(slash + 1)}.rels`;
    this.leaveOut(relations, 'Relationship', (tag) => attributeOf(tag, 'Id') === id);
    this.leaveOut('[Content_Types].xml', 'Override', (tag) => attributeOf(tag, 'PartName') === `/${target}`);
  }
  private leaveOut(part: string, element: string, which: (tag: string) => boolean): void {
    const text = this.textOf(part);
    for (const { name, is, from, to } of xmlTags(text)) {
      if (name !== element || is === 'close' || !which(text.slice(from, to))) continue;
      const end = is === 'empty' ? to : text.indexOf('>', text.indexOf(`</${element}`, to)) + 1;
      this.changedParts.set(part, text.slice(0, from) + text.slice(end));
      return;
    }
  }

  private textOf(part: string): string {
    return this.changedParts.get(part) ?? this.from.text(part);
  }

  private xmlOf(sheet: number): SheetXml {
    let xml = this.xml.get(sheet);
    if (!xml) this.xml.set(sheet, (xml = new SheetXml(this.from.text(this.book.sheets[sheet]!.part))));
    return xml;
  }

  private reread(sheet: number): void {
    const book = this.styles.changed ? openWorkbook(this.withStyles()) : this.book;
    this.sheets[sheet] = book.read(this.book.sheets[sheet]!, this.xmlOf(sheet).text());
  }
  private withStyles(): OfficePackage {
    return {
      ...this.from,
      text: (name) => (name === this.stylePart ? this.styles.text() : this.from.text(name)),
    };
  }

  private names(): DefinedNames {
    const found = new Map<string, string>();
    withTexts(this.textOf(this.book.part), (name, tag) => (words) => {
      if (name.replace(/^x:/, '') === 'definedName')
        found.set((attributeOf(tag, 'name') ?? '').toLowerCase(), words);
      return words;
    });
    return found;
  }

  /** Works out what depends on the changed cells, and keeps that in the cells. */
  private work(changed: readonly ChangedCells[]): void {
    const isFixed = ({ sheet, row, column }: Place) => {
      const kind = this.xmlOf(sheet).formulaKind(row, column);
      return kind === 'array' || kind === 'dataTable';
    };
    const { results, left } = recompute(this.sheets, changed, this.names(), isFixed);
    const touched = new Set<number>();
    for (const { sheet, row, column, result } of results) {
      const cell = this.sheets[sheet]!.rows[row]![column]!;
      if (says(cell, result)) continue;
      const xml = this.xmlOf(sheet);
      if (typeof result === 'number') xml.setValue(row, column, 'n', String(result));
      else if (typeof result === 'boolean') xml.setValue(row, column, 'b', result ? '1' : '0');
      else if (typeof result === 'string') xml.setValue(row, column, 'str', result);
      else xml.setValue(row, column, 'e', result.fault);
      touched.add(sheet);
    }
    const keyed = (all: readonly Place[]) =>
      new Map(all.map((one) => [`${one.sheet} ${one.row} ${one.column}`, one]));
    const all = keyed([...this.left, ...left]);
    for (const key of keyed(results).keys()) all.delete(key);
    this.left = [...all.values()].filter(
      ({ sheet, row, column }) => this.sheets[sheet]!.rows[row]?.[column]?.formula !== undefined,
    );
    for (const sheet of touched) this.reread(sheet);
  }

  /** The whole workbook as it is by now. */
  bytes(): Uint8Array {
    if (!this.edited) return this.packed;
    const parts = unzipSync(this.packed);
    const changed = new Map(this.changedParts);
    for (const [sheet, xml] of this.xml) changed.set(this.book.sheets[sheet]!.part, xml.text());
    if (this.styles.changed) changed.set(this.stylePart, this.styles.text());
    if (this.left.length > 0) changed.set(this.book.part, computedOnLoad(this.textOf(this.book.part)));
    let differs = false;
    for (const [part, text] of changed) {
      if (text !== null && text === this.from.text(part)) continue;
      differs = true;
      if (text === null) delete parts[part];
      else parts[part] = strToU8(inUtf8(text));
    }
    // Packed again, it would have other bytes.
    if (!differs) return this.packed;
    return zipSync(parts, { mtime: '1980-01-01T00:00:00' });
  }
}

/** A part as it says itself to be encoded. */
const inUtf8 = (xml: string) => xml.replace(/^(<\?xml[^>]*encoding=["'])[^"']*/, '$1UTF-8');

/** Whether a cell says so already; numbers are compared as spreadsheets show them, with 15 digits. */
function says(cell: Cell, result: number | string | boolean | { fault: string }): boolean {
  if (typeof result === 'number')
    return cell.number !== undefined && cell.number.toPrecision(15) === result.toPrecision(15);
  if (typeof result === 'boolean') return cell.kind === 'truth' && cell.text === (result ? 'TRUE' : 'FALSE');
  if (typeof result === 'string') return cell.kind === 'text' && cell.text === result;
  return cell.kind === 'fault' && cell.text === result.fault;
}

/** Makes whoever opens the workbook work out its formulas (ECMA-376, 18.2.2). */
function computedOnLoad(workbook: string): string {
  let close = -1;
  for (const { name, is, from, to } of xmlTags(workbook)) {
    const plain = name.replace(/^x:/, '');
    if (plain === 'calcPr' && is !== 'close')
      return (
        workbook.slice(0, from) +
        withAttribute(workbook.slice(from, to), 'fullCalcOnLoad', '1') +
        workbook.slice(to)
      );
    // It stands behind the names and the sheets.
    if (plain === 'definedNames' || (plain === 'sheets' && close < 0) || plain === 'externalReferences')
      close = to;
  }
  const prefix = /<x:workbook[\s>]/.test(workbook) ? 'x:' : '';
  return `${workbook.slice(0, close)}<${prefix}calcPr fullCalcOnLoad="1"/>${workbook.slice(close)}`;
}
