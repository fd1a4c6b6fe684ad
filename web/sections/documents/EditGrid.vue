<script setup lang="ts">
import { defineCustomElements } from '@revolist/revogrid/loader';
import type { ColumnRegular, RevoGridCustomEvent } from '@revolist/revogrid';
import { onBeforeUnmount, onMounted, ref, useTemplateRef, watch } from 'vue';
import { lookOf } from '../../../core/sheet/cell-look.ts';
import { movedFormula } from '../../../core/sheet/formula.ts';
import { columnName, type SheetFacts } from '../../../core/sheet/sheet.ts';
import { widthsOf, type CellPlace } from '../../parts/reading/grid-layout.ts';
import type { EditedCell } from './sheet-worker.ts';
import { fieldIn, useTypedAhead } from './typed-ahead.ts';

/** Cells of a sheet that are edited as in any spreadsheet. Nothing changes in the grid itself: what is typed is told, and comes back made. */
const props = defineProps<{
  sheet: SheetFacts;
  rows: readonly (readonly (EditedCell | undefined)[])[];
  /** Rows that are shown, from 0; those beyond the last are empty. */
  shown: readonly number[];
  label: string;
  locked: boolean;
  found: ReadonlySet<string>;
}>();
const emit = defineEmits<{
  set: [cells: [number, number, string][]];
  at: [from: CellPlace, to: CellPlace];
}>();

/** Empty columns and rows that can be written in. */
const MORE = 3;
const FEWEST = 8;
type Line = { n: number } & Record<string, string | number>;
defineCustomElements();
const place = useTemplateRef('place');
/** What comes after the cells. */
const end = useTemplateRef('end');
const grid = document.createElement('revo-grid');
/** What was changed here, and has not come back made. */
let making = false;
const typedAhead = useTypedAhead(
  () => place.value,
  () => !making,
);
function change(cells: [number, number, string][]) {
  making = true;
  emit('set', cells);
}

const cellOf = (row: number, column: number) => props.rows[row]?.[column];
const columnCount = () => Math.max(FEWEST, props.sheet.columnCount + MORE);
const columnOf = (prop: unknown) => Number(String(prop).slice(1));
const lineOf = (row: number): Line => {
  const line: Line = { n: row };
  props.rows[row]?.forEach((cell, column) => {
    if (cell) line[`c${column}`] = cell.input;
  });
  return line;
};
/** Rows that stay in sight while the others are scrolled. */
const held = () => props.shown.filter((row) => row < props.sheet.frozenRows);
const others = () => props.shown.filter((row) => row >= props.sheet.frozenRows);
const rowAt = (at: number, type: string) => (type === 'rowPinStart' ? held() : others())[at];

function columns(): ColumnRegular[] {
  const widths = widthsOf({ ...props.sheet, columnCount: columnCount() }, props.rows);
  return widths.flatMap((size, column) =>
    size === 0
      ? []
      : [
          {
            prop: `c${column}`,
            name: columnName(column),
            filter: false,
            size,
            ...(column < props.sheet.frozenColumns ? { pin: 'colPinStart' as const } : {}),
            cellTemplate: (_h, { model }) => {
              const cell = cellOf((model as Line).n, column);
              return cell ? cell.text || cell.formula || '' : '';
            },
            cellProperties: ({ model }) => {
              const { n } = model as Line;
              const cell = cellOf(n, column);
              return {
                style: lookOf(cell),
                class: { fault: cell?.kind === 'fault', found: props.found.has(`${n} ${column}`) },
              };
            },
          },
        ],
  );
}
/** What the columns are of: they stay while somebody types, with what is chosen in them and how wide they were made. */
let columnsOf = '';
function fill() {
  const { widths, frozenColumns } = props.sheet;
  const key = JSON.stringify([columnCount(), widths, frozenColumns]);
  if (key !== columnsOf) grid.columns = columns();
  columnsOf = key;
  grid.pinnedTopSource = held().map(lineOf);
  grid.source = others().map(lineOf);
  making = false;
}
watch(() => [props.sheet, props.rows, props.shown, props.found], fill);
watch(
  () => props.locked,
  (locked) => (grid.readonly = locked),
);

/** The cells of what comes in, as by the grid: rows by their place, each with its columns. */
function told(data: Record<number, Record<string, unknown>>, type: string) {
  const cells: [number, number, string][] = [];
  for (const [at, line] of Object.entries(data)) {
    const row = rowAt(Number(at), type);
    if (row === undefined) continue;
    for (const [prop, value] of Object.entries(line)) {
      const column = columnOf(prop);
      const input = String(value ?? '');
      if (input !== (cellOf(row, column)?.input ?? '')) cells.push([row, column, input]);
    }
  }
  if (cells.length > 0) change(cells);
}

/** What was copied here last: pasted within the sheet, its formulas move along. */
let copied: { shown: string; cells: string[][]; from: CellPlace } | undefined;
const asTable = (rows: readonly (readonly string[])[]) => rows.map((row) => row.join('\t')).join('\n');

interface Area {
  x: number;
  y: number;
  x1: number;
  y1: number;
}
const listen = {
  beforeedit(event: RevoGridCustomEvent<{ model: Line; prop: string; val?: unknown }>) {
    event.preventDefault();
    const { model, prop, val } = event.detail;
    const [row, column, input] = [model.n, columnOf(prop), String(val ?? '')];
    if (input !== (cellOf(row, column)?.input ?? '')) change([[row, column, input]]);
  },
  beforerangeedit(
    event: RevoGridCustomEvent<{ data: Record<number, Record<string, unknown>>; type: string }>,
  ) {
    event.preventDefault();
    told(event.detail.data, event.detail.type);
  },
  beforeautofill(
    event: RevoGridCustomEvent<{
      type: string;
      mapping: Record<number, Record<string, { rowIndex: number; colProp: string }>>;
    }>,
  ) {
    event.preventDefault();
    const { mapping, type } = event.detail;
    const data: Record<number, Record<string, string>> = {};
    for (const [at, line] of Object.entries(mapping))
      for (const [prop, from] of Object.entries(line)) {
        const [row, old] = [rowAt(Number(at), type), rowAt(from.rowIndex, type)];
        if (row === undefined || old === undefined) continue;
        const [column, source] = [columnOf(prop), columnOf(from.colProp)];
        (data[Number(at)] ??= {})[prop] = moved(cellOf(old, source)?.input ?? '', row - old, column - source);
      }
    told(data, type);
  },
  clipboardrangecopy(
    event: RevoGridCustomEvent<{ data: unknown[][]; range: Area; type?: string; rowType?: string }>,
  ) {
    const { range } = event.detail;
    const type = event.detail.rowType ?? event.detail.type ?? 'rgRow';
    const rowsOf = Array.from({ length: range.y1 - range.y + 1 }, (_, at) => rowAt(range.y + at, type) ?? -1);
    const across = visibleColumns().slice(range.x, range.x1 + 1);
    const shown = rowsOf.map((row) =>
      across.map((column) => (cellOf(row, column)?.text ?? '').replace(/[\t\n]/g, ' ')),
    );
    copied = {
      shown: asTable(shown),
      cells: rowsOf.map((row) => across.map((column) => cellOf(row, column)?.input ?? '')),
      from: { row: rowsOf[0]!, column: across[0]! },
    };
    event.detail.data = shown;
  },
  async beforepasteapply(event: RevoGridCustomEvent<{ parsed: string[][] }>) {
    event.preventDefault();
    const { parsed } = event.detail;
    const at = await focused();
    if (!at || props.locked) return;
    const own = copied?.shown === asTable(parsed) ? copied : undefined;
    const below = props.shown.slice(props.shown.indexOf(at.row));
    const cells: [number, number, string][] = [];
    for (const [down, line] of parsed.entries())
      for (const [across, text] of line.entries()) {
        // Beyond the last row that is shown, they follow one another.
        const row = below[down] ?? (below.at(-1) ?? at.row) + down - below.length + 1;
        const column = at.column + across;
        const input = own
          ? moved(own.cells[down]![across]!, row - (own.from.row + down), column - (own.from.column + across))
          : text.trim();
        if (input !== (cellOf(row, column)?.input ?? '')) cells.push([row, column, input]);
      }
    if (cells.length > 0) change(cells);
  },
  aftergridrender() {
    // The number of the row is told with the cell.
    grid.querySelector('revogr-viewport-scroll[row-header]')?.setAttribute('aria-hidden', 'true');
  },
  // Any of these may move what is chosen.
  afterfocus: tell,
  setrange: tell,
  applyfocus: tell,
};
const moved = (input: string, rows: number, columnsOn: number) =>
  input.startsWith('=') ? movedFormula(input, rows, columnsOn) : input;
const visibleColumns = () => (grid.columns as ColumnRegular[]).map(({ prop }) => columnOf(prop));

async function focused(): Promise<CellPlace | undefined> {
  const focus = await grid.getFocused();
  if (!focus) return undefined;
  const row = rowAt(focus.cell.y, focus.rowType);
  const column = columnOf(focus.column?.prop);
  return row === undefined || Number.isNaN(column) ? undefined : { row, column };
}
function tell() {
  // Once the grid knows it itself.
  setTimeout(async () => {
    const at = await focused();
    if (!at) return;
    last = at;
    const focus = await grid.getFocused();
    const range = await grid.getSelectedRange();
    if (!range || !focus) return emit('at', at, at);
    const inRange = [rowAt(range.y, focus.rowType), rowAt(range.y1, focus.rowType)];
    const across = visibleColumns().filter(
      (column) => column < props.sheet.frozenColumns === at.column < props.sheet.frozenColumns,
    );
    emit(
      'at',
      { row: inRange[0] ?? at.row, column: across[range.x] ?? at.column },
      { row: inRange[1] ?? at.row, column: across[range.x1] ?? at.column },
    );
  }, 30);
}

/** Puts the keyboard on cells, from one to another. */
async function choose(from: CellPlace, to: CellPlace = from) {
  const pinned = from.row < props.sheet.frozenRows;
  const list = pinned ? held() : others();
  const [still, across] = [from.column < props.sheet.frozenColumns, visibleColumns()];
  const beside = across.filter((column) => column < props.sheet.frozenColumns === still);
  const at = ({ row, column }: CellPlace) => ({ y: list.indexOf(row), x: beside.indexOf(column) });
  const [first, last] = [at(from), at(to)];
  if (first.x < 0 || first.y < 0) return;
  place.value?.focus({ preventScroll: true });
  await grid.setCellsFocus(
    first,
    last.x < 0 || last.y < 0 ? first : last,
    still ? 'colPinStart' : 'rgCol',
    pinned ? 'rowPinStart' : 'rgRow',
  );
  tell();
}
/** Brings a cell into sight; the keyboard stays where it is. */
async function reveal({ row, column }: CellPlace) {
  const y = others().indexOf(row);
  if (y >= 0) await grid.scrollToRow(Math.max(0, y - 3));
  await grid.scrollToColumnIndex(Math.max(0, visibleColumns().indexOf(column) - 1));
}
/** A cell is being typed in, or what was typed is not told yet. */
const typing = ref(false);
async function typed() {
  await typedAhead.closed();
  typing.value = fieldIn(place.value) !== null;
}
/** What is typed in a cell is told, as with Enter: a field that only loses the keyboard stays open. */
async function leave() {
  const enter = new KeyboardEvent('keydown', {
    key: 'Enter',
    code: 'Enter',
    bubbles: true,
    cancelable: true,
  });
  fieldIn(place.value)?.dispatchEvent(enter);
  await typedAhead.closed();
}
defineExpose({ choose, reveal, typing, leave });

/** The keyboard comes in by Tab to where it was, and goes out by Escape. */
let last: CellPlace = { row: 0, column: 0 };
const isField = (target: EventTarget | null) => (target as HTMLElement).matches('input, textarea');
async function onFocus(event: FocusEvent) {
  if (isField(event.target)) typing.value = true;
  if (!isField(event.target) && !(await grid.getFocused())) await choose(last);
}
function onKey(event: KeyboardEvent) {
  if (event.key === 'Escape' && !isField(event.target)) end.value?.focus();
}
function onLeave({ relatedTarget: next }: FocusEvent) {
  if (typing.value) void typed();
  if (next) {
    if (!place.value?.contains(next as Node)) void grid.clearFocus();
    return;
  }
  // The field of a cell goes when it is left: the keyboard stays with the cells.
  setTimeout(() => document.activeElement === document.body && place.value?.focus({ preventScroll: true }));
}
function onPress(event: PointerEvent) {
  if (!isField(event.target)) place.value?.focus({ preventScroll: true });
}

onMounted(() => {
  Object.assign(grid, {
    theme: 'compact',
    range: true,
    resize: true,
    rowSize: 28,
    readonly: props.locked,
    hideAttribution: true,
    // The parts that it names for screen readers don't belong together as they must: where one is and what stands there is told above.
    accessible: false,
    filter: false,
    canMoveColumns: false,
    applyOnClose: true,
    rowHeaders: {
      size: 56,
      prop: 'n',
      cellTemplate: (_h: unknown, { model }: { model: Line }) => (model.n + 1).toLocaleString('en'),
    },
  });
  grid.setAttribute('aria-label', props.label);
  for (const [name, act] of Object.entries(listen))
    grid.addEventListener(name, act as (event: Event) => void);
  fill();
  place.value?.append(grid);
});
onBeforeUnmount(() => grid.remove());
</script>

<template>
  <div class="around">
    <div
      ref="place"
      class="place"
      role="group"
      tabindex="0"
      :aria-label="`${label}. Press Escape to leave the cells.`"
      @focusin="onFocus"
      @focusout="onLeave"
      @keydown="onKey"
      @pointerdown="onPress"
    ></div>
    <span ref="end" class="hidden-words" tabindex="-1">End of the cells</span>
  </div>
</template>

<style scoped>
/* A sheet is a document: it has its own colours, on white, in whatever light the rest is seen. */
.around {
  display: flex;
  min-height: 0;
  flex: 1;
  flex-direction: column;
}
.place {
  min-height: 0;
  flex: 1;
  border: 1px solid var(--rule);
  background: #fff;
  color: #1c1c1c;
  color-scheme: light;
}
.place :deep(revo-grid) {
  --revo-grid-header-bg: #f1f0ec;
  --revo-grid-header-color: #55534d;
  --revo-grid-header-border: #dcdcd8;
  --revo-grid-header-height: 28px;
  --revo-grid-header-font-weight: 400;
  --revo-grid-header-text-align: center;
  --revo-grid-header-padding: 0 6px;
  --revo-grid-row-headers-bg: #f1f0ec;
  --revo-grid-row-headers-color: #55534d;
  --revo-grid-row-hover: transparent;
  --revo-grid-cell-border: #dcdcd8;
  --revo-grid-cell-padding: 0 6px;
  --revo-grid-text: #1c1c1c;
  --revo-grid-font-size: 14px;
  --revo-grid-primary: #1b6b57;
  --rg-theme-cell-vertical-border: 1px solid #dcdcd8;
  --rg-theme-selection-bg: rgb(27 107 87 / 12%);
  --rg-theme-selection-border: #1b6b57;

  height: 100%;
  min-height: 0;
  font: 14px/20px var(--sans);
}
.place :deep(.rowHeaders .rgCell),
.place :deep(.rgHeaderCell) {
  font-family: var(--sans);
  font-size: 14px;
  font-variant-numeric: tabular-nums;
}
.place :deep(.rowHeaders .rgCell) {
  text-align: right;
}
.place :deep(.rgHeaderCell),
.place :deep(.rgCell) {
  border-right: 1px solid #dcdcd8;
}
.place :deep(.fault) {
  color: #a4262c;
}
.place :deep(.found) {
  background: #fff1a8;
}
</style>
