import { computed, ref, shallowRef } from 'vue';
import type { SheetEdit } from '../../../core/sheet/edits.ts';
import { askWorker, type Question } from '../../parts/reading/ask-worker.ts';
import type { EditedSheets, FromSheets, SheetState, ToSheets } from './sheet-worker.ts';

interface Step {
  question: Question<ToSheets>;
  made?: readonly SheetEdit[];
  undone?: readonly SheetEdit[];
}

/** Sheets that are edited, each change one step that can be undone. @param write is told all changes, and what a table says with them */
export function useSheets(write: (edits: readonly SheetEdit[], table: string) => void) {
  const ask = askWorker<ToSheets, FromSheets>(
    new Worker(new URL('./sheet-worker.ts', import.meta.url), { type: 'module' }),
    'It could not be edited here. Reload the document.',
  );
  const state = shallowRef<SheetState>();
  const sheet = ref(0);
  const edits = shallowRef<readonly SheetEdit[]>([]);
  const undone = shallowRef<readonly SheetEdit[]>([]);
  const fault = ref('');
  const busy = ref(0);
  /** One question after the other: each answer is of all that was asked before. */
  let turn: Promise<void> = Promise.resolve();

  /** @param step what is asked, and the changes that hold when it is done; undefined: there is nothing to do */
  function run(step: () => Step | undefined): Promise<void> {
    busy.value++;
    turn = turn.then(async () => {
      const next = step();
      try {
        if (!next) return;
        fault.value = '';
        state.value = (await ask<{ number: number; state: SheetState }>(next.question)).state;
        if (!next.made) return;
        [edits.value, undone.value] = [next.made, next.undone ?? []];
        write(next.made, state.value.text);
      } catch (error) {
        fault.value = (error as Error).message;
      } finally {
        busy.value--;
      }
    });
    return turn;
  }
  return {
    state,
    sheet,
    fault,
    busy: computed(() => busy.value > 0),
    canUndo: computed(() => edits.value.length > 0),
    canRedo: computed(() => undone.value.length > 0),
    /** All that was asked until now is done. */
    idle: () => turn,
    open(what: EditedSheets, begun: readonly SheetEdit[]) {
      edits.value = begun;
      return run(() => ({ question: { open: what, edits: begun, sheet: sheet.value } }));
    },
    show(at: number) {
      sheet.value = at;
      return run(() => ({ question: { sheet: sheet.value } }));
    },
    apply: (edit: SheetEdit) =>
      run(() => ({ question: { add: edit, sheet: sheet.value }, made: [...edits.value, edit] })),
    undo: () =>
      run(() => {
        const last = edits.value.at(-1);
        const made = edits.value.slice(0, -1);
        return (
          last && { question: { edits: made, sheet: sheet.value }, made, undone: [...undone.value, last] }
        );
      }),
    redo: () =>
      run(() => {
        const next = undone.value.at(-1);
        return (
          next && {
            question: { add: next, sheet: sheet.value },
            made: [...edits.value, next],
            undone: undone.value.slice(0, -1),
          }
        );
      }),
  };
}
