import { CsvIndex, delimiterOf, HEAD, parseRows, type Delimiter } from './csv.ts';
import { isNumber } from './book.ts';
import { NoSuchEdit, type SheetEdit, type SheetEditor } from './edits.ts';
import { shifted } from './formula.ts';
import type { Cell, Row, Sheet } from './sheet.ts';

interface Line {
  /** As it stands, without its line end. */
  raw: string;
  end: '\n' | '';
}

/** Signs by which spreadsheets take a text for a formula, and so do what it says. */
const RUN = /^[=+\-@\t]/;

/**
 * A table in text that is edited: rows that no change touches stay as they are, sign by sign, and so do the fields of a row that none does.
 */
export class TableEditor implements SheetEditor {
  private lines: Line[];
  private readonly delimiter: Delimiter;
  private readonly quotes: boolean;
  private readonly rows: (Row | undefined)[];

  /** @param text with line feeds */
  constructor(
    text: string,
    private readonly name: string,
  ) {
    this.delimiter = delimiterOf(text.slice(0, HEAD));
    const index = new CsvIndex(this.delimiter, true);
    index.feed(new TextEncoder().encode(text));
    index.end();
    // A quote that is never closed would swallow all that follows it.
    this.quotes = !index.unclosed;
    this.lines = linesOf(text, this.quotes ? this.delimiter : undefined);
    this.rows = this.lines.map((line) => this.read(line));
  }

  get sheets(): readonly Sheet[] {
    const { rows } = this;
    return [
      {
        name: this.name,
        hidden: false,
        rowCount: rows.length,
        columnCount: rows.reduce((most, row) => Math.max(most, row?.length ?? 0), 0),
        frozenRows: rows.length > 1 ? 1 : 0,
        frozenColumns: 0,
        widths: [],
        hiddenRows: [],
        merges: [],
        notes: [],
        rows,
      },
    ];
  }

  get notes(): string[] {
    const run = this.rows.reduce(
      (all, row) =>
        all + (row ?? []).filter((cell) => cell && cell.kind === 'text' && RUN.test(cell.text)).length,
      0,
    );
    return [
      ...(this.quotes ? [] : ['A quotation mark is never closed. All of them are shown as they stand.']),
      ...(run > 0
        ? [
            `${run === 1 ? 'A cell begins' : `${run.toLocaleString('en')} cells begin`} with =, +, - or @. Spreadsheet programs run such texts as formulas.`,
          ]
        : []),
    ];
  }

  locked(): string {
    return '';
  }

  input(_sheet: number, row: number, column: number): string {
    return this.rows[row]?.[column]?.text ?? '';
  }

  /** @throws NoSuchEdit: nothing has changed then */
  apply(edit: SheetEdit): void {
    switch (edit.do) {
      case 'set':
        return this.set(edit.cells);
      case 'insert':
      case 'remove':
        return edit.axis === 'row'
          ? this.shiftRows(edit.at, edit.do === 'insert' ? edit.count : -edit.count)
          : this.shiftColumns(edit.at, edit.do === 'insert' ? edit.count : -edit.count);
      case 'order':
        return this.order(edit.from, edit.order);
      case 'style':
        throw new NoSuchEdit('A text table has no formats. Save it as a workbook to use them.');
    }
  }

  text(): string {
    return this.lines.map(({ raw, end }) => raw + end).join('');
  }

  private read({ raw }: Line): Row {
    const [fields = []] = raw === '' ? [] : parseRows(raw, this.delimiter, this.quotes);
    return fields.map((text): Cell | undefined =>
      text === '' ? undefined : { text, kind: isNumber(text) ? 'number' : 'text' },
    );
  }

  private put(at: number, raw: string): void {
    this.lines[at]!.raw = raw;
    this.rows[at] = this.read(this.lines[at]!);
  }

  /** The fields of a row as they stand, quotes and all. */
  private fields(at: number): string[] {
    const { raw } = this.lines[at]!;
    return raw === '' ? [] : splitRow(raw, this.delimiter, this.quotes);
  }

  private set(cells: readonly (readonly [number, number, string])[]): void {
    const unclean = this.quotes
      ? undefined
      : cells.find(([, , words]) => words.includes(this.delimiter) || words.includes('\n'));
    if (unclean)
      throw new NoSuchEdit(
        'A quotation mark in this table is never closed, so a cell can’t hold its delimiter or a line break. Edit it as text.',
      );
    const byRow = new Map<number, [number, string][]>();
    for (const [row, column, words] of cells) {
      const there = byRow.get(row);
      if (there) there.push([column, words]);
      else byRow.set(row, [[column, words]]);
    }
    for (const [row, all] of byRow) {
      const there = row < this.lines.length;
      // Emptying what is empty makes no rows.
      const wanted = all.filter(
        ([column, words]) => words !== '' || (there && column < this.fields(row).length),
      );
      if (wanted.length === 0) continue;
      while (this.lines.length <= row) this.append();
      const fields = this.fields(row);
      for (const [column, words] of wanted) {
        while (fields.length <= column) fields.push('');
        const like =
          fields[column] !== '' ? fields[column]! : row > 1 ? (this.fields(row - 1)[column] ?? '') : '';
        fields[column] = this.written(words, like.startsWith('"'));
      }
      this.put(row, fields.join(this.delimiter));
    }
  }

  /** @param quoted the field had quotes before, or the one above it has */
  private written(words: string, quoted: boolean): string {
    if (!this.quotes) return words;
    const needed = words.includes(this.delimiter) || /["\n\r]|^\s|\s$/.test(words);
    return needed || (quoted && words !== '') ? `"${words.replaceAll('"', '""')}"` : words;
  }

  private append(): void {
    const last = this.lines.at(-1);
    // As the last line ended, so it ends now.
    this.lines.push({ raw: this.empty(), end: last?.end ?? '\n' });
    if (last) last.end = '\n';
    this.rows.push(this.read(this.lines.at(-1)!));
  }

  /** A row of which every field is empty. */
  private empty(): string {
    const columns = this.lines
      .slice(0, 50)
      .reduce((most, _, at) => Math.max(most, this.fields(at).length), 1);
    return this.delimiter.repeat(columns - 1);
  }

  private shiftRows(at: number, by: number): void {
    if (by > 0) {
      while (this.lines.length < at) this.append();
      for (let count = 0; count < by; count++) {
        if (at === this.lines.length) {
          this.append();
          continue;
        }
        const line: Line = { raw: this.empty(), end: '\n' };
        this.lines.splice(at, 0, line);
        this.rows.splice(at, 0, this.read(line));
      }
      return;
    }
    const { end } = this.lines.at(-1) ?? { end: '' };
    this.lines.splice(at, -by);
    this.rows.splice(at, -by);
    const last = this.lines.at(-1);
    if (last) last.end = end;
  }

  private shiftColumns(at: number, by: number): void {
    for (const [row] of this.lines.entries()) {
      const fields = this.fields(row);
      if (fields.length <= at && !(by > 0 && fields.length === at)) continue;
      const now =
        by > 0
          ? fields.toSpliced(at, 0, ...Array<string>(by).fill(''))
          : fields.filter((_, column) => shifted(column, { at, by }) !== undefined);
      this.put(row, now.join(this.delimiter));
    }
  }

  private order(from: number, order: readonly number[]): void {
    if (from + order.length > this.lines.length) throw new NoSuchEdit('There are no such rows.');
    const raws = order.map((old) => this.lines[from + old]!.raw);
    for (const [at, raw] of raws.entries()) this.put(from + at, raw);
  }
}

/** Lines with their ends; within quotes a line goes on. @param delimiter undefined: quotes are signs like any other */
function linesOf(text: string, delimiter: Delimiter | undefined): Line[] {
  const lines: Line[] = [];
  let begin = 0;
  let quoted = false;
  let fieldBegins = true;
  for (let at = 0; at < text.length; at++) {
    const sign = text[at]!;
    if (quoted) {
      if (sign !== '"') continue;
      if (text[at + 1] === '"') at++;
      else quoted = false;
    } else if (sign === '"' && fieldBegins && delimiter !== undefined) {
      quoted = true;
      fieldBegins = false;
    } else if (sign === '\n') {
      lines.push({ raw: text.slice(begin, at), end: '\n' });
      begin = at + 1;
      fieldBegins = true;
    } else fieldBegins = sign === delimiter;
  }
  if (begin < text.length) lines.push({ raw: text.slice(begin), end: '' });
  return lines;
}

/** The fields of a row as they stand. */
function splitRow(raw: string, delimiter: Delimiter, quotes: boolean): string[] {
  const fields: string[] = [];
  let begin = 0;
  let quoted = false;
  for (let at = 0; at < raw.length; at++) {
    if (quoted) {
      if (raw[at] !== '"') continue;
      if (raw[at + 1] === '"') at++;
      else quoted = false;
    } else if (quotes && raw[at] === '"' && at === begin) quoted = true;
    else if (raw[at] === delimiter) {
      fields.push(raw.slice(begin, at));
      begin = at + 1;
    }
  }
  fields.push(raw.slice(begin));
  return fields;
}
