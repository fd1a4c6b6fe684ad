<script setup lang="ts">
import { useElementSize } from '@vueuse/core';
import { computed, onMounted, ref, shallowReactive, useTemplateRef, watch } from 'vue';
import { lookOf } from '../../../core/sheet/cell-look.ts';
import { columnName, type Cell, type Merge, type Row, type SheetFacts } from '../../../core/sheet/sheet.ts';
import { columnsOf, HEIGHT, rowsOf, type CellPlace } from './grid-layout.ts';

/** The cells of a sheet, of which only those in sight are drawn; it is gone through as spreadsheets are. */
const props = defineProps<{
  sheet: SheetFacts;
  label: string;
  rowsFrom: (from: number, count: number) => Promise<(Row | undefined)[]>;
  found: ReadonlySet<string>;
}>();
const emit = defineEmits<{ at: [place: CellPlace, cell: Cell | undefined]; fault: [error: unknown] }>();

/** Rows that are asked for at once. */
const BLOCK = 200;
/** Rows of one merged cell that are drawn as one. */
const TALLEST_MERGE = 2000;
/** Blocks that are kept. */
const KEPT = 60;
const blocks = shallowReactive(new Map<number, readonly (Row | undefined)[]>());
const asked = new Set<number>();
async function need(block: number) {
  if (blocks.has(block) || asked.has(block)) return;
  asked.add(block);
  try {
    blocks.set(block, await props.rowsFrom(block * BLOCK, BLOCK));
    for (const old of blocks.keys()) {
      if (blocks.size <= KEPT) break;
      if (Math.abs(old - block) > 2 && old !== 0) blocks.delete(old);
    }
  } catch (error) {
    emit('fault', error);
  } finally {
    asked.delete(block);
  }
}
const rowAt = (row: number): Row | undefined => blocks.get(Math.floor(row / BLOCK))?.[row % BLOCK];
const cellAt = ({ row, column }: CellPlace) => rowAt(row)?.[column];

const frame = useTemplateRef('frame');
const { width, height } = useElementSize(frame);
const scroll = ref({ left: 0, top: 0 });
const columns = computed(() => columnsOf(props.sheet, blocks.get(0)));
const rows = computed(() => rowsOf(props.sheet));
/** What stands in each column's and row's first place, in pixels from the corner. */
const below = computed(() => HEIGHT * (1 + rows.value.frozen));
const seenRows = computed(() => rows.value.seen(scroll.value.top, Math.max(0, height.value - below.value)));
const seenColumns = computed(() => columns.value.seen(scroll.value.left, width.value));
watch(
  [seenRows, () => props.sheet],
  ([seen]) => {
    void need(0);
    for (const { row } of [...seen.slice(0, 1), ...seen.slice(-1)]) void need(Math.floor(row / BLOCK));
  },
  { immediate: true },
);

const active = ref<CellPlace>({ row: 0, column: 0 });
/** The other corner of what is chosen. */
const anchor = ref<CellPlace>({ row: 0, column: 0 });
const chosen = computed(() => ({
  top: Math.min(active.value.row, anchor.value.row),
  bottom: Math.max(active.value.row, anchor.value.row),
  left: Math.min(active.value.column, anchor.value.column),
  right: Math.max(active.value.column, anchor.value.column),
}));
const isChosen = (row: number, column: number) => {
  const { top, bottom, left, right } = chosen.value;
  return row >= top && row <= bottom && column >= left && column <= right;
};
const isActive = (row: number, column: number) => active.value.row === row && active.value.column === column;
const merges = computed(() => new Map(props.sheet.merges.map((one) => [`${one.row} ${one.column}`, one])));
/** Cells that are one, by the rows that they go through. */
const mergesAt = computed(() => {
  const rowsOfMerges = new Map<number, Merge[]>();
  for (const one of props.sheet.merges)
    for (let row = one.row; row < Math.min(one.row + one.rows, one.row + TALLEST_MERGE); row++) {
      const there = rowsOfMerges.get(row);
      if (there) there.push(one);
      else rowsOfMerges.set(row, [one]);
    }
  return rowsOfMerges;
});
/** Whether a cell is part of another one. */
const isCovered = (row: number, column: number) =>
  mergesAt.value
    .get(row)
    ?.some(
      (one) =>
        column >= one.column &&
        column < one.column + one.columns &&
        (row !== one.row || column !== one.column),
    );
watch([active, blocks], () => emit('at', active.value, cellAt(active.value)), { immediate: true });

/** Cells of a row that are drawn, with where they stand. */
function cellsOf(row: number) {
  const own = rowAt(row);
  return seenColumns.value.flatMap(({ column, left, wide, frozen }) => {
    if (isCovered(row, column)) return [];
    const cell = own?.[column];
    const merge = merges.value.get(`${row} ${column}`);
    return [
      {
        key: column,
        cell,
        frozen,
        place: {
          left: `${left}px`,
          width: `${merge ? columns.value.wide(column, merge.columns) : wide}px`,
          height: `${merge ? HEIGHT * merge.rows : HEIGHT}px`,
          ...lookOf(cell),
        },
      },
    ];
  });
}

function onScroll() {
  const at = frame.value;
  if (at) scroll.value = { left: at.scrollLeft, top: at.scrollTop };
}
function bringIn({ row, column }: CellPlace) {
  const at = frame.value;
  if (!at) return;
  at.scrollTop = rows.value.scrollFor(row, at.scrollTop, at.clientHeight - below.value);
  at.scrollLeft = columns.value.scrollFor(column, at.scrollLeft, at.clientWidth);
  onScroll();
}
function go(row: number, column: number, further = false) {
  const { rowCount, columnCount } = props.sheet;
  if (rowCount === 0 || columnCount === 0) return;
  active.value = {
    row: Math.min(rowCount - 1, Math.max(0, row)),
    column: Math.min(columnCount - 1, Math.max(0, column)),
  };
  if (!further) anchor.value = active.value;
  bringIn(active.value);
}
/** The next one that is not hidden. */
function step(by: { row?: number; column?: number }, further: boolean) {
  const { row, column } = active.value;
  go(rows.value.next(row, by.row ?? 0), columns.value.next(column, by.column ?? 0), further);
}
function onKey(event: KeyboardEvent) {
  const whole = event.ctrlKey || event.metaKey;
  const page = Math.max(1, seenRows.value.length - 2);
  const far = Infinity;
  const by = {
    ArrowDown: { row: whole ? far : 1 },
    ArrowUp: { row: whole ? -far : -1 },
    ArrowRight: { column: whole ? far : 1 },
    ArrowLeft: { column: whole ? -far : -1 },
    PageDown: { row: page },
    PageUp: { row: -page },
    Home: whole ? { row: -far, column: -far } : { column: -far },
    End: whole ? { row: far, column: far } : { column: far },
  }[event.key];
  if (!by || event.altKey) return;
  event.preventDefault();
  step(by, event.shiftKey);
}
function choose(event: PointerEvent, row: number, column: number) {
  if (event.button === 0) go(row, column, event.shiftKey);
}
function extend(event: PointerEvent, row: number, column: number) {
  if (event.buttons === 1) active.value = { row, column };
}
/** Cells that are copied at most. */
const MOST_COPIED = 200_000;
function onCopy(event: ClipboardEvent) {
  const { top, bottom, left, right } = chosen.value;
  const lines: string[] = [];
  for (let row = top; row <= bottom && lines.length * (right - left + 1) < MOST_COPIED; row++)
    lines.push(
      Array.from({ length: right - left + 1 }, (_, at) =>
        (rowAt(row)?.[left + at]?.text ?? '').replace(/[\t\n]/g, ' '),
      ).join('\t'),
    );
  event.clipboardData?.setData('text/plain', lines.join('\n'));
  event.preventDefault();
}
defineExpose({ go, focus: () => frame.value?.focus() });
onMounted(onScroll);
</script>

<template>
  <div
    ref="frame"
    class="grid"
    role="grid"
    tabindex="0"
    :aria-label="label"
    :aria-rowcount="sheet.rowCount + 1"
    :aria-colcount="sheet.columnCount + 1"
    :aria-activedescendant="`cell-${active.row}-${active.column}`"
    @scroll.passive="onScroll"
    @keydown="onKey"
    @copy="onCopy"
  >
    <div
      class="all"
      role="presentation"
      :style="{ width: `${columns.all}px`, height: `${rows.all + below}px` }"
    >
      <div class="seen" role="presentation" :style="{ width: `${width}px`, height: `${height}px` }">
        <div class="row names" role="row" aria-rowindex="1">
          <span class="name corner" role="columnheader" aria-colindex="1"
            ><span class="hidden-words">Row</span></span
          >
          <span
            v-for="{ column, left, wide, frozen } in seenColumns"
            :key="column"
            class="name"
            :class="{ frozen, now: column === active.column }"
            role="columnheader"
            :aria-colindex="column + 2"
            :style="{ left: `${left}px`, width: `${wide}px` }"
            >{{ columnName(column) }}</span
          >
        </div>
        <div
          v-for="{ row, top, frozen: above } in seenRows"
          :key="row"
          class="row"
          :class="{ above }"
          role="row"
          :aria-rowindex="row + 2"
          :style="{ top: `${top}px` }"
        >
          <span class="name line" :class="{ now: row === active.row }" role="rowheader" aria-colindex="1">{{
            (row + 1).toLocaleString('en')
          }}</span>
          <span
            v-for="{ key, cell, frozen, place } in cellsOf(row)"
            :id="`cell-${row}-${key}`"
            :key="key"
            class="cell"
            :class="[
              cell && `is-${cell.kind}`,
              {
                frozen,
                chosen: isChosen(row, key),
                active: isActive(row, key),
                found: found.has(`${row} ${key}`),
              },
            ]"
            role="gridcell"
            :aria-colindex="key + 2"
            :aria-selected="isChosen(row, key)"
            :style="place"
            @pointerdown="choose($event, row, key)"
            @pointerenter="extend($event, row, key)"
            >{{ cell?.text || cell?.formula }}</span
          >
        </div>
      </div>
    </div>
  </div>
</template>

<style scoped>
/* A sheet is a document: it has its own colours, on white, in whatever light the rest is seen. */
.grid {
  position: relative;
  min-height: 0;
  flex: 1;
  background: #fff;
  color: #1c1c1c;
  color-scheme: light;
  font: 14px/20px var(--sans);
  overflow: auto;
}
.seen {
  position: sticky;
  top: 0;
  left: 0;
  overflow: hidden;
}
.row {
  position: absolute;
  right: 0;
  left: 0;
  height: 27px;
}
.names,
.above {
  z-index: 3;
}
.names {
  z-index: 4;
}
.name,
.cell {
  position: absolute;
  top: 0;
  overflow: hidden;
  padding: 3px 6px;
  border-right: 1px solid #dcdcd8;
  border-bottom: 1px solid #dcdcd8;
  background: #fff;
  text-overflow: ellipsis;
  white-space: pre;
}
.name {
  height: 27px;
  background: #f1f0ec;
  color: #55534d;
  font-variant-numeric: tabular-nums;
  text-align: center;
}
.name.now {
  background: #dfe6e2;
  color: #1c1c1c;
}
.corner,
.line {
  z-index: 2;
  left: 0;
  width: 64px;
}
.line {
  text-align: right;
}
.frozen {
  z-index: 1;
}
.above .cell {
  border-bottom-color: #8f8d86;
}
.is-number {
  font-variant-numeric: tabular-nums;
}
.is-truth,
.is-fault {
  text-align: center;
}
.is-fault {
  color: #a4262c;
}
.found {
  background: #fff1a8 !important;
}
.chosen {
  box-shadow: inset 0 0 0 999px rgb(27 107 87 / 12%);
}
.active {
  z-index: 1;
  outline: 2px solid #1b6b57;
  outline-offset: -2px;
}
</style>
