<script setup lang="ts">
import { computed, nextTick, ref, useTemplateRef } from 'vue';
import type { FoundCell } from '../../../core/sheet/book.ts';
import { MOST_PRINTED, sheetOnPaper } from '../../../core/sheet/sheet-on-paper.ts';
import { columnName, type Cell, type SheetFacts } from '../../../core/sheet/sheet.ts';
import AppOption from '../../kit/AppOption.ts';
import AppSelect from '../../kit/AppSelect.vue';
import { count } from '../words.ts';
import type { Findable } from './findable.ts';
import type { CellPlace } from './grid-layout.ts';
import { printHtml } from './printing.ts';
import SheetGrid from './SheetGrid.vue';
import type { useReader } from './useReader.ts';

/** The sheets of a workbook, or a table in text. */
const props = defineProps<{
  name: string;
  sheets: readonly SheetFacts[];
  reader: ReturnType<typeof useReader>;
}>();
const emit = defineEmits<{ fault: [error: unknown] }>();
/** Those that were hidden come last. */
const order = computed(() =>
  props.sheets
    .map((sheet, at) => ({ sheet, at }))
    .sort((one, other) => Number(one.sheet.hidden) - Number(other.sheet.hidden)),
);
const shown = ref(order.value[0]!.at);
const sheet = computed(() => props.sheets[shown.value]!);
const grid = useTemplateRef('grid');
const place = ref<CellPlace>({ row: 0, column: 0 });
const cell = ref<Cell>();
function onAt(at: CellPlace, there: Cell | undefined) {
  place.value = at;
  cell.value = there;
}
const nameOf = ({ row, column }: CellPlace) => `${columnName(column)}${row + 1}`;

let places: FoundCell[] = [];
const found = ref<ReadonlySet<string>>(new Set());
/** What was looked for last, and where: moving on is no new search. */
let looked = '';
async function print() {
  try {
    const rows = await props.reader.rows(shown.value, 0, Math.min(sheet.value.rowCount, MOST_PRINTED));
    printHtml(sheetOnPaper(sheet.value, rows), props.name);
  } catch (error) {
    emit('fault', error);
  }
}
defineExpose<Findable & { print: () => void }>({
  print: () => void print(),
  async find(words, options) {
    const key = JSON.stringify([words, options, shown.value]);
    if (key === looked) return places.length;
    const answer = await props.reader.find(shown.value, words, options);
    looked = key;
    places = answer;
    found.value = new Set(places.map(({ row, column }) => `${row} ${column}`));
    return places.length;
  },
  show(at) {
    const one = places[at];
    if (!one) return '';
    grid.value?.go(one.row, one.column);
    return nameOf(one);
  },
  end() {
    looked = '';
    places = [];
    found.value = new Set();
  },
});
function choose(at: number) {
  shown.value = at;
  looked = '';
  found.value = new Set();
  void nextTick(() => grid.value?.go(0, 0));
}
</script>

<template>
  <div class="sheet">
    <div class="bar">
      <slot></slot>
      <label v-if="sheets.length > 1"
        >Sheet
        <AppSelect :model-value="shown" :chars="18" aria-label="Sheet" @update:model-value="choose">
          <AppOption
            v-for="one in order"
            :key="one.at"
            :value="one.at"
            :label="one.sheet.hidden ? `${one.sheet.name} (hidden)` : one.sheet.name"
          />
        </AppSelect>
      </label>
      <span class="soft figures"
        >{{ count(sheet.rowCount, 'row') }}, {{ count(sheet.columnCount, 'column') }}</span
      >
      <p class="content" role="status">
        <span class="mono">{{ nameOf(place) }}</span>
        <span class="words">{{ cell?.formula ?? cell?.text ?? '' }}</span>
        <span v-if="cell?.formula && cell.text" class="words">gives {{ cell.text }}</span>
        <span v-else-if="cell?.formula" class="soft">The file holds no result of it.</span>
      </p>
    </div>
    <p v-if="sheet.rowCount === 0" class="soft">This sheet is empty.</p>
    <SheetGrid
      v-else
      ref="grid"
      :key="shown"
      :sheet="sheet"
      :label="sheets.length > 1 ? `${sheet.name} of ${name}` : name"
      :rows-from="(from, many) => reader.rows(shown, from, many)"
      :found="found"
      @at="onAt"
      @fault="emit('fault', $event)"
    />
    <p v-for="note in sheet.notes" :key="note" class="soft">{{ note }}</p>
  </div>
</template>

<style scoped>
.sheet {
  display: flex;
  width: 100%;
  min-height: 0;
  flex: 1;
  flex-direction: column;
  gap: 6px;
}
.bar {
  display: flex;
  align-items: center;
  gap: 14px;
}
.bar label {
  display: flex;
  align-items: center;
  gap: 8px;
}
.bar > .figures {
  white-space: nowrap;
}
.content {
  display: flex;
  overflow: hidden;
  min-width: 0;
  max-height: 3.2em;
  flex: 1;
  margin: 0;
  gap: 10px;
}
.words {
  overflow: auto;
  overflow-wrap: anywhere;
  white-space: pre-wrap;
}
p {
  margin: 0;
}
</style>
