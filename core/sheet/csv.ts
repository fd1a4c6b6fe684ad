/** Signs that tables in text are split by (RFC 4180 knows the first). */
export const DELIMITERS = [',', ';', '\t', '|'] as const;
export type Delimiter = (typeof DELIMITERS)[number];

const QUOTE = 34;
const LF = 10;
const CR = 13;

/** Rows between two places that are kept of a table. */
export const STEP = 256;
/** Bytes of its beginning by which a table's form is told. */
export const HEAD = 100_000;

/** The sign that splits the lines of a table alike; where none does, a comma. @param head its first lines */
export function delimiterOf(head: string): Delimiter {
  let best: Delimiter = ',';
  let most = 0;
  for (const delimiter of DELIMITERS) {
    const rows = parseRows(head, delimiter, true).slice(0, 50);
    // The last one may be cut off.
    const counts = (rows.length > 1 ? rows.slice(0, -1) : rows).map((row) => row.length);
    const wide = counts[0] ?? 1;
    if (wide < 2) continue;
    const alike = counts.filter((count) => count === wide).length / counts.length;
    const score = alike * 100 + Math.min(wide, 50) / 100;
    if (score > most) [best, most] = [delimiter, score];
  }
  return best;
}

/**
 * The fields of rows. A field in quotes may hold the delimiter, line ends, and quotes written twice (RFC 4180, 2); a quote within a field
 * that has none at its beginning is a sign like any other, and what stands after a closing one belongs to the field.
 * @param quotes false: quotes are signs like any other
 */
export function parseRows(text: string, delimiter: Delimiter, quotes: boolean): string[][] {
  const rows: string[][] = [];
  let row: string[] = [];
  let at = 0;
  const split = delimiter.charCodeAt(0);
  while (at < text.length) {
    let field = '';
    if (quotes && text.charCodeAt(at) === QUOTE) {
      let from = at + 1;
      for (;;) {
        const end = text.indexOf('"', from);
        if (end < 0) {
          field += text.slice(from);
          at = text.length;
          break;
        }
        field += text.slice(from, end);
        if (text.charCodeAt(end + 1) !== QUOTE) {
          at = end + 1;
          break;
        }
        field += '"';
        from = end + 2;
      }
    }
    const from = at;
    let code = text.charCodeAt(at);
    while (at < text.length && code !== split && code !== LF && code !== CR) code = text.charCodeAt(++at);
    row.push(field + text.slice(from, at));
    if (at < text.length && code === split) {
      at++;
      // A delimiter at the very end has one more, empty field behind it.
      if (at < text.length) continue;
      row.push('');
    }
    rows.push(row);
    row = [];
    if (code === CR && text.charCodeAt(at + 1) === LF) at++;
    at++;
  }
  return rows;
}

/** Where the rows of a table in UTF-8 or any single-byte encoding begin, found while its bytes come in. */
export class CsvIndex {
  /** Where every STEP-th row begins, in bytes. */
  readonly starts: number[] = [0];
  rows = 0;
  columns = 0;
  /** At its end: a quote was opened and never closed, so that rows were swallowed. */
  unclosed = false;
  private at = 0;
  private fields = 1;
  private quoted = false;
  /** At the beginning of a field, where a quote opens. */
  private begins = true;
  /** The last sign was a quote within quotes: another one makes it a sign, anything else ends the quotes. */
  private closing = false;
  private carriage = false;
  private rowStart = 0;
  private readonly split: number;

  constructor(
    delimiter: Delimiter,
    private readonly quotes: boolean,
  ) {
    this.split = delimiter.charCodeAt(0);
  }

  /** The next bytes. */
  feed(bytes: Uint8Array): void {
    for (const byte of bytes) {
      this.at++;
      if (this.carriage) {
        this.carriage = false;
        if (byte === LF) {
          this.rowStart = this.at;
          if (this.rows % STEP === 0) this.starts[this.rows / STEP] = this.at;
          continue;
        }
      }
      if (this.closing) {
        this.closing = false;
        if (byte === QUOTE) continue;
        this.quoted = false;
      }
      if (this.quoted) {
        if (byte === QUOTE) this.closing = true;
        continue;
      }
      if (byte === QUOTE && this.begins && this.quotes) {
        this.quoted = true;
        this.begins = false;
      } else if (byte === this.split) {
        this.fields++;
        this.begins = true;
      } else if (byte === LF || byte === CR) {
        this.endRow();
        this.carriage = byte === CR;
      } else this.begins = false;
    }
  }

  /** All bytes have come in. */
  end(): void {
    this.unclosed = this.quoted && !this.closing;
    if (this.at > this.rowStart) this.endRow();
    else if (this.rows % STEP === 0) this.starts.length = this.rows / STEP;
  }

  private endRow() {
    this.columns = Math.max(this.columns, this.fields);
    this.rows++;
    this.fields = 1;
    this.begins = true;
    this.rowStart = this.at;
    if (this.rows % STEP === 0) this.starts[this.rows / STEP] = this.at;
  }
}
