import type { Row, SheetFacts } from '../../../core/sheet/sheet.ts';

/** CSS pixels of a row, and of the column with the numbers of rows. */
export const HEIGHT = 27;
export const NUMBERS = 64;
/** Browsers draw nothing that is much taller. */
const TALLEST = 12_000_000;
/** Widths of columns that no width is said of, in CSS pixels. */
const NARROW = 72;
const WIDE = 280;
const CHARACTER = 7.6;

export interface CellPlace {
  row: number;
  column: number;
}

/** A column as wide as it is said to be, or as its first rows need. */
export function widthsOf(sheet: SheetFacts, first: readonly (Row | undefined)[] | undefined): number[] {
  const widths: number[] = [];
  for (let column = 0; column < sheet.columnCount; column++) {
    const said = sheet.widths[column];
    if (said !== undefined) {
      widths.push(said === 0 ? 0 : Math.min(600, Math.max(24, said)));
      continue;
    }
    let longest = 0;
    for (const row of first?.slice(0, 50) ?? []) {
      const text = row?.[column]?.text ?? '';
      if (text.length > longest) longest = Math.max(...text.split('\n').map((line) => line.length));
    }
    widths.push(Math.round(Math.min(WIDE, Math.max(NARROW, longest * CHARACTER + 16))));
  }
  return widths;
}

export interface SeenColumn {
  column: number;
  /** From the left edge of what is seen. */
  left: number;
  wide: number;
  frozen: boolean;
}

/** Where columns stand. Hidden ones stand nowhere. */
export function columnsOf(sheet: SheetFacts, first: readonly (Row | undefined)[] | undefined) {
  const widths = widthsOf(sheet, first);
  const starts = [NUMBERS];
  for (const wide of widths) starts.push(starts.at(-1)! + wide);
  const frozen = Math.min(sheet.frozenColumns, widths.length);
  /** Where those begin that move. */
  const edge = starts[frozen]!;
  /** The first that ends right of a place. */
  const at = (place: number) => {
    let [low, high] = [0, widths.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      if (starts[middle + 1]! > place) high = middle;
      else low = middle + 1;
    }
    return low;
  };
  return {
    /** Pixels of them all. */
    all: starts.at(-1)!,
    wide: (from: number, count: number) => starts[Math.min(widths.length, from + count)]! - starts[from]!,
    seen(scroll: number, width: number): SeenColumn[] {
      const seen: SeenColumn[] = [];
      for (let column = 0; column < frozen; column++)
        if (widths[column]! > 0)
          seen.push({ column, left: starts[column]!, wide: widths[column]!, frozen: true });
      for (
        let column = Math.max(frozen, at(edge + scroll));
        column < widths.length && starts[column]! - scroll < width;
        column++
      )
        if (widths[column]! > 0)
          seen.push({ column, left: starts[column]! - scroll, wide: widths[column]!, frozen: false });
      return seen;
    },
    /** How far it is to be scrolled for a column to be seen whole. */
    scrollFor(column: number, scroll: number, width: number): number {
      if (column < frozen) return scroll;
      const left = starts[column]! - scroll;
      if (left < edge) return starts[column]! - edge;
      if (left + widths[column]! > width)
        return Math.min(starts[column]! - edge, starts[column + 1]! - width);
      return scroll;
    },
    /** The column some steps on, past those that are hidden. */
    next(column: number, by: number): number {
      const way = Math.sign(by);
      let best = column;
      for (let now = column + way, left = Math.abs(by); way !== 0 && left > 0; now += way) {
        if (now < 0 || now >= widths.length) break;
        if (widths[now] === 0) continue;
        best = now;
        left--;
      }
      return best;
    },
  };
}

export interface SeenRow {
  row: number;
  top: number;
  frozen: boolean;
}

/** Where rows stand; of more rows than a window can be tall, scrolling leads to them by shares. */
export function rowsOf(sheet: SheetFacts) {
  const hidden = new Set(sheet.hiddenRows);
  /** Rows that are shown, when some are not. */
  const shown =
    hidden.size === 0
      ? undefined
      : Array.from({ length: sheet.rowCount }, (_, row) => row).filter((row) => !hidden.has(row));
  const count = shown?.length ?? sheet.rowCount;
  const rowOf = (place: number) => (shown ? shown[place]! : place);
  /** The place of a row among those shown, or of the next one. */
  const placeOf = (row: number) => {
    if (!shown) return row;
    let [low, high] = [0, shown.length];
    while (low < high) {
      const middle = (low + high) >> 1;
      if (shown[middle]! >= row) high = middle;
      else low = middle + 1;
    }
    return low;
  };
  const frozen = Math.min(shown ? placeOf(sheet.frozenRows) : sheet.frozenRows, count);
  const moving = (count - frozen) * HEIGHT;
  const all = Math.min(moving, TALLEST);
  /** Pixels of rows that lie above what is seen. @param height of the part that moves */
  const above = (scroll: number, height: number) =>
    moving <= TALLEST ? scroll : (scroll / Math.max(1, all - height)) * (moving - height);
  return {
    all,
    frozen,
    seen(scroll: number, height: number): SeenRow[] {
      const seen: SeenRow[] = [];
      for (let place = 0; place < frozen; place++)
        seen.push({ row: rowOf(place), top: HEIGHT * (1 + place), frozen: true });
      const gone = above(scroll, height);
      for (
        let place = frozen + Math.max(0, Math.floor(gone / HEIGHT));
        place < count && (place - frozen) * HEIGHT - gone < height;
        place++
      )
        seen.push({
          row: rowOf(place),
          top: HEIGHT * (1 + frozen) + (place - frozen) * HEIGHT - gone,
          frozen: false,
        });
      return seen;
    },
    scrollFor(row: number, scroll: number, height: number): number {
      const place = placeOf(row);
      if (place < frozen) return scroll;
      const top = (place - frozen) * HEIGHT;
      const gone = above(scroll, height);
      const wanted = top < gone ? top : top + HEIGHT > gone + height ? top + HEIGHT - height : gone;
      if (wanted === gone) return scroll;
      return moving <= TALLEST ? wanted : (wanted / Math.max(1, moving - height)) * (all - height);
    },
    next(row: number, by: number): number {
      if (by === 0 || count === 0) return row;
      return rowOf(Math.min(count - 1, Math.max(0, placeOf(row) + by)));
    },
  };
}
