import '../../schemas.ts';
import { TableEditor } from '../../../core/sheet/edit-csv.ts';
import { WorkbookEditor } from '../../../core/sheet/edit-xlsx.ts';
import { NoSuchEdit, type SheetEdit, type SheetEditor } from '../../../core/sheet/edits.ts';
import { UnreadableOffice } from '../../../core/office/package.ts';
import { columnName, type Cell, type SheetFacts } from '../../../core/sheet/sheet.ts';

/** What is edited: a table in text, or a workbook that lies at an address. */
export type EditedSheets = { text: string; name: string } | { address: string };

/** Edits sheets away from the interface's own thread. */
export type ToSheets =
  | { number: number; open: EditedSheets; edits: readonly SheetEdit[]; sheet: number }
  /** One more change, or all of them anew, or none: another sheet is shown. */
  | { number: number; add: SheetEdit; sheet: number }
  | { number: number; edits: readonly SheetEdit[]; sheet: number }
  | { number: number; sheet: number };

export type EditedCell = Cell & {
  /** What stands in the field while it is edited. */
  input: string;
};

/** Sheets as they are by now. */
export interface SheetState {
  sheets: readonly SheetFacts[];
  /** Cells of the sheet that is shown. */
  rows: (EditedCell | undefined)[][];
  notes: readonly string[];
  /** Why this sheet can't be edited; '': it can. */
  locked: string;
  /** Cells whose formulas keep the value that was saved, as “Prices B2”. */
  left: readonly string[];
  /** Of a table: all of it. */
  text: string;
}

export type FromSheets = { number: number; state: SheetState } | { number: number; fault: string };

let begin: () => SheetEditor = () => {
  throw new Error('nothing is open');
};
let editor: SheetEditor;
let made: SheetEdit[] = [];

/** Works through changes from the beginning. */
function anew(edits: readonly SheetEdit[]): void {
  editor = begin();
  made = [];
  for (const edit of edits) {
    editor.apply(edit);
    made.push(edit);
  }
}

self.onmessage = async ({ data }: MessageEvent<ToSheets>) => {
  const { number } = data;
  const answer = (message: FromSheets) => self.postMessage(message);
  try {
    if ('open' in data) {
      begin = await opener(data.open);
      anew(data.edits);
    } else if ('edits' in data) anew(data.edits);
    else if ('add' in data) {
      const before = made;
      try {
        editor.apply(data.add);
        made = [...before, data.add];
      } catch (error) {
        // It may have stopped half way.
        anew(before);
        throw error;
      }
    }
    answer({ number, state: stateOf(data.sheet) });
  } catch (error) {
    const known = error instanceof UnreadableOffice || error instanceof NoSuchEdit;
    answer({ number, fault: known ? (error as Error).message : 'It could not be edited here.' });
    if (!known) reportError(error);
  }
};

async function opener(what: EditedSheets): Promise<() => SheetEditor> {
  if ('text' in what) return () => new TableEditor(what.text, what.name);
  const answer = await fetch(what.address).catch(() => {
    throw new NoSuchEdit('The server does not answer. Try again.');
  });
  if (!answer.ok) {
    const said = (await answer.json().catch(() => ({}))) as { message?: string };
    throw new NoSuchEdit(said.message ?? 'The file could not be read. Reload the document.');
  }
  const bytes = new Uint8Array(await answer.arrayBuffer());
  return () => new WorkbookEditor(bytes);
}

function stateOf(sheet: number): SheetState {
  const { sheets } = editor;
  const shown = sheets[sheet]!;
  return {
    sheets: sheets.map(({ rows: _rows, ...facts }) => facts),
    rows: Array.from(shown.rows, (row, at) =>
      Array.from(row ?? [], (cell, column) => cell && { ...cell, input: editor.input(sheet, at, column) }),
    ),
    notes: [...editor.notes, ...shown.notes],
    locked: editor.locked(sheet),
    left:
      editor instanceof WorkbookEditor
        ? editor.left.map((one) => `${sheets[one.sheet]!.name} ${columnName(one.column)}${one.row + 1}`)
        : [],
    text: editor instanceof TableEditor ? editor.text() : '',
  };
}
