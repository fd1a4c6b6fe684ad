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

/** What somebody has changed in a workbook and not saved yet. */
export interface WorkbookDraft {
  /** The version that it is made of, by its hash; undefined: the one on the site when it was opened. */
  from: string | undefined;
  edits: readonly SheetEdit[];
}

const KeptDraft = z.strictObject({
  from: z
    .string()
    .regex(/^[0-9a-f]{64}$/)
    .optional(),
  edits: SheetEdits,
});

/** As it is kept until it is saved; '': nothing is changed. */
export const draftAsText = ({ from, edits }: WorkbookDraft): string =>
  from === undefined && edits.length === 0 ? '' : JSON.stringify({ from, edits });

/** @throws NoSuchEdit when the text is none of `draftAsText` */
export function draftOfText(text: string): WorkbookDraft {
  if (text === '') return { from: undefined, edits: [] };
  try {
    const { from, edits } = KeptDraft.parse(JSON.parse(text));
    return { from, edits };
  } catch {
    throw new NoSuchEdit('The changes to this workbook can’t be read.');
  }
}
