import { z } from 'zod';
import { MOST_COLUMNS, MOST_ROWS, type Sheet } from './sheet.ts';

/** Cells that one change may touch. */
export const MOST_AT_ONCE = 50_000;
/** Characters that a cell can hold (as spreadsheets do). */
export const MOST_IN_CELL = 32_767;

const Sheet = z.int().min(0).max(999);
const RowNumber = z
  .int()
  .min(0)
  .max(MOST_ROWS - 1);
const ColumnNumber = z
  .int()
  .min(0)
  .max(MOST_COLUMNS - 1);

/** What somebody typed into cells: row and column from 0, and the words; '' empties the cell. */
const SetCells = z.strictObject({
  do: z.literal('set'),
  sheet: Sheet,
  cells: z
    .array(z.tuple([RowNumber, ColumnNumber, z.string().max(MOST_IN_CELL)]))
    .min(1)
    .max(MOST_AT_ONCE),
});

/** Empty rows or columns come in before one, or some are removed from there on. */
const ShiftCells = z.strictObject({
  do: z.enum(['insert', 'remove']),
  sheet: Sheet,
  axis: z.enum(['row', 'column']),
  at: z
    .int()
    .min(0)
    .max(MOST_ROWS - 1),
  count: z.int().min(1).max(10_000),
});

/** Rows change places: which of the old ones, counted from the first, stands at each. */
const OrderRows = z.strictObject({
  do: z.literal('order'),
  sheet: Sheet,
  from: RowNumber,
  order: z
    .array(z.int().min(0))
    .min(1)
    .max(MOST_AT_ONCE)
    .refine((order) => new Set(order).size === order.length && order.every((one) => one < order.length)),
});

/** How cells look: what isn't given stays. */
const StyleCells = z.strictObject({
  do: z.literal('style'),
  sheet: Sheet,
  row: RowNumber,
  column: ColumnNumber,
  rows: z.int().min(1).max(MOST_AT_ONCE),
  columns: z.int().min(1).max(1000),
  look: z.strictObject({
    bold: z.boolean().optional(),
    italic: z.boolean().optional(),
    align: z.enum(['left', 'center', 'right']).optional(),
    /** A number format (ECMA-376, 18.8.31). */
    pattern: z.string().min(1).max(255).optional(),
  }),
});

export const SheetEdit = z.discriminatedUnion('do', [SetCells, ShiftCells, OrderRows, StyleCells]);
export type SheetEdit = z.infer<typeof SheetEdit>;
export const SheetEdits = z.array(SheetEdit).max(20_000);

/** Sheets that are edited, a change at a time. */
export interface SheetEditor {
  readonly sheets: readonly Sheet[];
  /** What is to be known of it before it is edited, each as a sentence. */
  readonly notes: readonly string[];
  /** Why a sheet can't be edited, as a sentence; '': it can. */
  locked(sheet: number): string;
  /** What stands in the field while a cell is edited. */
  input(sheet: number, row: number, column: number): string;
  /** @throws NoSuchEdit: nothing has changed then */
  apply(edit: SheetEdit): void;
}

/** Why a change of a sheet can't be made, as a sentence for people. */
export class NoSuchEdit extends Error {}

/** A workbook's changes as they are kept until they are saved. */
export const editsAsText = (edits: readonly SheetEdit[]): string =>
  edits.length === 0 ? '' : JSON.stringify(edits);

/** @throws NoSuchEdit when the text is none of `editsAsText` */
export function editsOfText(text: string): SheetEdit[] {
  if (text === '') return [];
  try {
    return SheetEdits.parse(JSON.parse(text));
  } catch {
    throw new NoSuchEdit('The changes to this workbook can’t be read.');
  }
}
