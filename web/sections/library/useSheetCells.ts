import { useEventListener } from '@vueuse/core';
import { computed, ref, type Ref } from 'vue';
import type { ItemView } from '../../../api/items.ts';
import { blockOf } from '../../../core/describe/table.ts';
import { api } from '../../api/client.ts';
import { usePlan } from '../../stores/plan.ts';
import { useTray } from '../../stores/tray.ts';
import { together, type Column } from './columns.ts';

/** So many items are asked for at once. */
const MOST_ASKED = 500;

/** The table as a working sheet: blocks put down from a spreadsheet program, cells filled down; each as a plan. */
export function useSheetCells(
  ids: () => Uint32Array,
  items: () => ReadonlyMap<number, ItemView>,
  shown: Readonly<Ref<readonly Column[]>>,
  writing: () => boolean,
) {
  const plan = usePlan();
  const tray = useTray();

  /** To the right and downwards from the cell that has the focus. */
  async function paste(event: ClipboardEvent) {
    const cell = document.activeElement?.closest<HTMLElement>('[data-column]');
    const text = event.clipboardData?.getData('text/plain') ?? '';
    if (!cell || writing() || text === '' || !shown.value.some((one) => one.cell)) return;
    event.preventDefault();
    const rows = blockOf(text);
    const first = Number(cell.dataset['at']);
    const columns = shown.value.slice(shown.value.findIndex((one) => one.key === cell.dataset['column']));
    const wanted = [...ids().subarray(first, first + rows.length)];
    const some: ItemView[] = [];
    for (let at = 0; at < wanted.length; at += MOST_ASKED)
      some.push(...(await api.itemsSome(wanted.slice(at, at + MOST_ASKED))));
    const cells = some.map((item) => ({
      itemId: item.id,
      rowVersion: item.rowVersion,
      set: together(
        rows[wanted.indexOf(item.id)]!.flatMap((value, index) => {
          const cell = columns[index]?.cell;
          return cell ? [cell.set(value)] : [];
        }),
      ),
    }));
    await plan.propose({ kind: 'cells', cells });
  }
  useEventListener('paste', paste);

  const cellWithFocus = ref<{ at: number; column: Column }>();
  function focusOn(event: FocusEvent) {
    const cell = (event.target as HTMLElement).closest<HTMLElement>('[data-column]');
    const column = shown.value.find((one) => one.key === cell?.dataset['column']);
    cellWithFocus.value = cell && column?.cell ? { at: Number(cell.dataset['at']), column } : undefined;
  }
  /** The gathered items that stand below the cell with the focus. */
  const below = computed(() => {
    const from = cellWithFocus.value?.at;
    if (from === undefined || tray.size === 0) return [];
    return [...ids().subarray(from + 1)].filter((id) => tray.has(id));
  });
  /** What stands in the cell is put into the same column of all gathered items below. */
  async function fillDown() {
    const cell = cellWithFocus.value;
    const item = cell && items().get(ids()[cell.at]!);
    const set = item && cell.column.cell?.set(cell.column.text(item));
    if (!set) return;
    await plan.propose({ kind: 'cells', cells: below.value.map((itemId) => ({ itemId, set })) });
  }
  return { cellWithFocus, below, focusOn, fillDown };
}
