import { describe, expect, test } from 'vitest';
import type { SheetFacts } from '../../../core/sheet/sheet.ts';
import { columnsOf, HEIGHT, NUMBERS, rowsOf } from './grid-layout.ts';

const sheet = (part: Partial<SheetFacts>): SheetFacts => ({
  name: 'S',
  hidden: false,
  rowCount: 0,
  columnCount: 0,
  frozenRows: 0,
  frozenColumns: 0,
  widths: [],
  hiddenRows: [],
  merges: [],
  notes: [],
  ...part,
});

describe('rows', () => {
  test('are drawn in sight alone; frozen ones stay', () => {
    const rows = rowsOf(sheet({ rowCount: 1000, frozenRows: 1 }));
    expect(rows.seen(0, 3 * HEIGHT).map(({ row }) => row)).toEqual([0, 1, 2, 3]);
    expect(rows.seen(100 * HEIGHT, 2 * HEIGHT)).toEqual([
      { row: 0, top: HEIGHT, frozen: true },
      { row: 101, top: 2 * HEIGHT, frozen: false },
      { row: 102, top: 3 * HEIGHT, frozen: false },
    ]);
  });

  test.each([100, 5_000_000])(
    'of %i, each can be brought into sight, and the last at the end',
    (rowCount) => {
      const rows = rowsOf(sheet({ rowCount }));
      const height = 10 * HEIGHT;
      for (const row of [0, 1, 57, rowCount >> 1, rowCount - 1]) {
        const scroll = rows.scrollFor(row, 0, height);
        expect(scroll).toBeLessThanOrEqual(rows.all - height + 0.01);
        const seen = rows.seen(scroll, height).find((one) => one.row === row);
        expect(seen, `row ${row}`).toBeDefined();
        expect(seen!.top).toBeGreaterThanOrEqual(HEIGHT - 0.5);
        expect(seen!.top + HEIGHT).toBeLessThanOrEqual(HEIGHT + height + 0.5);
      }
      expect(rows.seen(rows.all - height, height).at(-1)!.row).toBe(rowCount - 1);
    },
  );

  test('that are hidden are passed over', () => {
    const rows = rowsOf(sheet({ rowCount: 6, hiddenRows: [1, 2, 5] }));
    expect(rows.seen(0, 900).map(({ row }) => row)).toEqual([0, 3, 4]);
    expect([rows.next(0, 1), rows.next(3, -1), rows.next(4, 1), rows.next(0, Infinity)]).toEqual([
      3, 0, 4, 4,
    ]);
  });
});

describe('columns', () => {
  const columns = columnsOf(sheet({ columnCount: 5, frozenColumns: 1, widths: [100, 50, 0, 70] }), [
    [undefined, undefined, undefined, undefined, { text: 'x'.repeat(20), kind: 'text' }],
  ]);
  test('are as wide as they are said to be, or as what stands in them', () => {
    expect(columns.seen(0, 1000)).toEqual([
      { column: 0, left: NUMBERS, wide: 100, frozen: true },
      { column: 1, left: NUMBERS + 100, wide: 50, frozen: false },
      { column: 3, left: NUMBERS + 150, wide: 70, frozen: false },
      { column: 4, left: NUMBERS + 220, wide: 168, frozen: false },
    ]);
    expect(columns.wide(1, 3)).toBe(120);
  });
  test('are scrolled into sight beside what is frozen', () => {
    const width = NUMBERS + 100 + 100;
    const scroll = columns.scrollFor(4, 0, width);
    expect(columns.seen(scroll, width).find(({ column }) => column === 4)!.left).toBe(NUMBERS + 100);
    expect(columns.scrollFor(1, scroll, width)).toBe(0);
    expect(columns.scrollFor(0, scroll, width)).toBe(scroll);
    expect([columns.next(1, 1), columns.next(3, -1), columns.next(0, -1)]).toEqual([3, 1, 0]);
  });
});
