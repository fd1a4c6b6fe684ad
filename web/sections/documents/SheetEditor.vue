<script setup lang="ts">
import {
  PhArrowArcLeft,
  PhArrowArcRight,
  PhSortAscending,
  PhSortDescending,
  PhTextB,
  PhTextItalic,
} from '@phosphor-icons/vue';
import { useEventListener } from '@vueuse/core';
import { computed, ref, useTemplateRef, watch } from 'vue';
import type { DocumentView } from '../../../api/documents.ts';
import { holds, replaceAt, findIn } from '../../../core/document/find.ts';
import { draftAsText, draftOfText, type SheetEdit } from '../../../core/sheet/edits.ts';
import { orderBy, rowsAround } from '../../../core/sheet/order.ts';
import { columnName } from '../../../core/sheet/sheet.ts';
import { documentsApi } from '../../api/documents.ts';
import AppButton from '../../kit/AppButton.vue';
import AppInput from '../../kit/AppInput.vue';
import AppMenu from '../../kit/AppMenu.vue';
import AppOption from '../../kit/AppOption.ts';
import AppSelect from '../../kit/AppSelect.vue';
import type { Replaceable } from '../../parts/reading/findable.ts';
import type { CellPlace } from '../../parts/reading/grid-layout.ts';
import { count } from '../../parts/words.ts';
import EditGrid from './EditGrid.vue';
import { useSheets } from './useSheets.ts';

/** A table in text, or the sheets of a workbook, edited cell by cell. */
const props = defineProps<{ document: DocumentView; base: string; text: string; locked: boolean }>();
const emit = defineEmits<{ write: [text: string] }>();
const isTable = computed(() => props.document.kind === 'table');
/** What was changed when it was opened. */
const unread = ref('');
function begun() {
  try {
    return draftOfText(props.text);
  } catch (error) {
    // They stay where they are kept until something else is written.
    unread.value = (error as Error).message;
    return draftOfText('');
  }
}
const draft = isTable.value ? undefined : begun();
const { state, sheet, fault, busy, canUndo, canRedo, idle, open, show, apply, undo, redo } = useSheets(
  (edits, table) => emit('write', draft ? draftAsText({ from: draft.from, edits }) : table),
);
void (draft
  ? open({ address: documentsApi.bytes(props.document.path, draft.from ?? props.base) }, draft.edits)
  : open({ text: props.text, name: props.document.name }, []));

const facts = computed(() => state.value?.sheets[sheet.value]);
const grid = useTemplateRef('grid');
const closed = computed(() => props.locked || !!state.value?.locked);
/** Sheets that were hidden come last. */
const order = computed(() =>
  (state.value?.sheets ?? [])
    .map((one, at) => ({ ...one, at }))
    .sort((one, other) => Number(one.hidden) - Number(other.hidden)),
);

const from = ref<CellPlace>({ row: 0, column: 0 });
const to = ref<CellPlace>({ row: 0, column: 0 });
function onAt(first: CellPlace, last: CellPlace) {
  [from.value, to.value] = [first, last];
}
const area = computed(() => ({
  row: Math.min(from.value.row, to.value.row),
  column: Math.min(from.value.column, to.value.column),
  rows: Math.abs(from.value.row - to.value.row) + 1,
  columns: Math.abs(from.value.column - to.value.column) + 1,
}));
const nameOf = ({ row, column }: CellPlace) => `${columnName(column)}${row + 1}`;
const chosen = computed(() => {
  const { row, column, rows, columns } = area.value;
  const last = { row: row + rows - 1, column: column + columns - 1 };
  return rows * columns === 1 ? nameOf({ row, column }) : `${nameOf({ row, column })}:${nameOf(last)}`;
});
const cell = computed(() => state.value?.rows[area.value.row]?.[area.value.column]);
/** What stands in the field above the cells; it is put in the cell when it is left. */
const content = ref('');
watch([cell, area], () => (content.value = cell.value?.input ?? ''), { immediate: true });
const differs = computed(() => content.value !== (cell.value?.input ?? ''));
function put() {
  if (differs.value) void set([[area.value.row, area.value.column, content.value]]);
}
/** Makes a change, and goes on in the cells. */
async function act(edit: SheetEdit) {
  await apply(edit);
  await grid.value?.choose(from.value, to.value);
}
const set = (cells: [number, number, string][]) => apply({ do: 'set', sheet: sheet.value, cells });

const MORE_ROWS = 30;
const filter = ref('');
/** '': in any column. */
const filterIn = ref('');
const shown = computed(() => {
  const rows = state.value?.rows ?? [];
  const all = Array.from({ length: rows.length }, (_, at) => at).filter(
    (row) => !facts.value?.hiddenRows.includes(row),
  );
  if (filter.value.trim() === '')
    return [...all, ...Array.from({ length: MORE_ROWS }, (_, at) => rows.length + at)];
  const wanted = holds(filter.value.trim(), { exact: false, whole: false });
  const columns = filterIn.value === '' ? undefined : Number(filterIn.value);
  return all.filter(
    (row) =>
      row < (facts.value?.frozenRows ?? 0) ||
      rows[row]!.some((one, column) => one && (columns ?? column) === column && wanted(one.text)),
  );
});
const filtered = computed(() => filter.value.trim() !== '');
watch(sheet, () => (filter.value = ''));

const ROWS = computed(() => {
  const many = area.value.rows;
  return [
    { key: 'above', label: many === 1 ? 'Insert row above' : `Insert ${many} rows above` },
    { key: 'below', label: many === 1 ? 'Insert row below' : `Insert ${many} rows below` },
    { key: 'remove', label: many === 1 ? 'Delete row' : `Delete ${many} rows`, danger: true, divided: true },
  ] as const;
});
const COLUMNS = computed(() => {
  const many = area.value.columns;
  return [
    { key: 'above', label: many === 1 ? 'Insert column to the left' : `Insert ${many} columns to the left` },
    {
      key: 'below',
      label: many === 1 ? 'Insert column to the right' : `Insert ${many} columns to the right`,
    },
    {
      key: 'remove',
      label: many === 1 ? 'Delete column' : `Delete ${many} columns`,
      danger: true,
      divided: true,
    },
  ] as const;
});
function shift(axis: 'row' | 'column', how: 'above' | 'below' | 'remove') {
  const { row, column, rows, columns } = area.value;
  const [first, many] = axis === 'row' ? [row, rows] : [column, columns];
  const at = how === 'below' ? first + many : first;
  void act({ do: how === 'remove' ? 'remove' : 'insert', sheet: sheet.value, axis, at, count: many });
}
function sort(descending: boolean) {
  const rows = state.value?.rows ?? [];
  const block =
    area.value.rows > 1
      ? { from: area.value.row, count: Math.min(area.value.rows, rows.length - area.value.row) }
      : rowsAround(rows, area.value.row, facts.value?.frozenRows ?? 0);
  if (block.count < 2) return;
  const now = orderBy(rows, block, area.value.column, descending);
  if (now.some((one, at) => one !== at))
    void act({ do: 'order', sheet: sheet.value, from: block.from, order: now });
}
const FORMATS = [
  ['General', 'General'],
  ['#,##0', 'Number (1,235)'],
  ['#,##0.00', 'Number (1,234.50)'],
  ['0%', 'Percent (12%)'],
  ['0.00%', 'Percent (12.35%)'],
  ['yyyy-mm-dd', 'Date (2026-11-30)'],
  ['d mmm yyyy', 'Date (30 Nov 2026)'],
  ['h:mm', 'Time (19:30)'],
  ['@', 'Text'],
] as const;
const pattern = computed(() => cell.value?.pattern ?? 'General');
const look = (it: Extract<SheetEdit, { do: 'style' }>['look']) =>
  act({ do: 'style', sheet: sheet.value, ...area.value, look: it });

useEventListener(window, 'keydown', (event) => {
  if (!(event.ctrlKey || event.metaKey) || event.altKey || closed.value) return;
  // Within a field, typing is undone.
  if ((event.target as HTMLElement).matches('input, textarea')) return;
  const key = event.key.toLowerCase();
  const act = key === 'z' ? (event.shiftKey ? redo : undo) : key === 'y' ? redo : undefined;
  if (!act) return;
  event.preventDefault();
  void act();
});

let places: CellPlace[] = [];
let looked: { words: string; options: Parameters<typeof holds>[1] } | undefined;
const found = ref<ReadonlySet<string>>(new Set());
function findAgain() {
  const wanted = looked && holds(looked.words, looked.options);
  places = [];
  if (wanted)
    state.value?.rows.forEach((row, at) =>
      row.forEach((one, column) => {
        if (one && wanted(one.text)) places.push({ row: at, column });
      }),
    );
  found.value = new Set(places.map(({ row, column }) => `${row} ${column}`));
}
watch(state, findAgain);
const replaced = ({ row, column }: CellPlace, by: string): [number, number, string] => {
  const input = state.value?.rows[row]?.[column]?.input ?? '';
  const { words, options } = looked!;
  return [row, column, replaceAt(input, findIn(input, words, options), by)];
};
const changes = ([row, column, input]: [number, number, string]) =>
  input !== (state.value?.rows[row]?.[column]?.input ?? '');
defineExpose<Replaceable>({
  async settle() {
    put();
    await grid.value?.leave();
    await idle();
  },
  get waiting() {
    return differs.value || (state.value !== undefined && busy.value) || grid.value?.typing === true;
  },
  find(words, options) {
    looked = { words, options };
    findAgain();
    return places.length;
  },
  show(at) {
    const one = places[at];
    if (!one) return '';
    void grid.value?.reveal(one);
    return nameOf(one);
  },
  replace(at, by) {
    const one = places[at];
    if (one) void set([replaced(one, by)].filter(changes));
  },
  replaceAll(by) {
    const cells = places.map((one) => replaced(one, by)).filter(changes);
    if (cells.length > 0) void set(cells);
  },
  end() {
    looked = undefined;
    findAgain();
  },
});
</script>

<template>
  <div class="sheets">
    <div v-if="state && !locked" class="tools" role="toolbar" aria-label="Table">
      <span class="group">
        <AppButton look="glyph" title="Undo" aria-label="Undo" :disabled="!canUndo" @click="undo"
          ><PhArrowArcLeft :size="18"
        /></AppButton>
        <AppButton look="glyph" title="Redo" aria-label="Redo" :disabled="!canRedo" @click="redo"
          ><PhArrowArcRight :size="18"
        /></AppButton>
      </span>
      <span class="group">
        <AppMenu :items="ROWS" label="Rows" @choose="(how) => shift('row', how)">
          <AppButton :disabled="closed || filtered">Rows …</AppButton>
        </AppMenu>
        <AppMenu :items="COLUMNS" label="Columns" @choose="(how) => shift('column', how)">
          <AppButton :disabled="closed || filtered">Columns …</AppButton>
        </AppMenu>
      </span>
      <span class="group">
        <AppButton
          look="glyph"
          :title="`Sort by column ${columnName(area.column)}, smallest first`"
          aria-label="Sort ascending"
          :disabled="closed || filtered"
          @click="sort(false)"
          ><PhSortAscending :size="18"
        /></AppButton>
        <AppButton
          look="glyph"
          :title="`Sort by column ${columnName(area.column)}, largest first`"
          aria-label="Sort descending"
          :disabled="closed || filtered"
          @click="sort(true)"
          ><PhSortDescending :size="18"
        /></AppButton>
      </span>
      <span v-if="!isTable" class="group">
        <AppButton
          look="glyph"
          title="Bold"
          aria-label="Bold"
          :aria-pressed="!!cell?.style?.bold"
          :disabled="closed"
          @click="look({ bold: !cell?.style?.bold })"
          ><PhTextB :size="18"
        /></AppButton>
        <AppButton
          look="glyph"
          title="Italic"
          aria-label="Italic"
          :aria-pressed="!!cell?.style?.italic"
          :disabled="closed"
          @click="look({ italic: !cell?.style?.italic })"
          ><PhTextItalic :size="18"
        /></AppButton>
        <AppSelect
          :model-value="pattern"
          :chars="19"
          aria-label="Number format"
          :disabled="closed"
          @change="look({ pattern: $event })"
        >
          <AppOption v-for="[of, label] in FORMATS" :key="of" :value="of" :label="label" />
          <AppOption
            v-if="!FORMATS.some(([of]) => of === pattern)"
            :value="pattern"
            :label="`Custom (${pattern})`"
          />
        </AppSelect>
      </span>
      <span class="group filter">
        <AppInput
          v-model="filter"
          type="search"
          :chars="16"
          placeholder="Show rows with …"
          aria-label="Show rows with"
        />
        <AppSelect v-if="filtered" v-model="filterIn" :chars="10" aria-label="In column">
          <AppOption value="" label="any column" />
          <AppOption
            v-for="at in facts?.columnCount ?? 0"
            :key="at"
            :value="String(at - 1)"
            :label="`column ${columnName(at - 1)}`"
          />
        </AppSelect>
      </span>
    </div>
    <div v-if="state" class="line">
      <AppSelect
        v-if="state.sheets.length > 1"
        :model-value="sheet"
        :chars="16"
        aria-label="Sheet"
        @change="show"
      >
        <AppOption
          v-for="one in order"
          :key="one.at"
          :value="one.at"
          :label="one.hidden ? `${one.name} (hidden)` : one.name"
        />
      </AppSelect>
      <span class="mono place" role="status"
        >{{ chosen }}<span class="hidden-words"> {{ cell?.text ?? 'empty' }}</span></span
      >
      <AppInput
        v-model="content"
        :disabled="closed"
        aria-label="Content of the cell"
        @change="put"
        @keydown.enter="grid?.choose(from, to)"
        @keydown.esc="content = cell?.input ?? ''"
      />
      <span class="soft figures"
        >{{ filtered ? `${shown.length} of ` : '' }}{{ count(facts?.rowCount ?? 0, 'row') }},
        {{ count(facts?.columnCount ?? 0, 'column') }}</span
      >
    </div>
    <p v-if="fault || unread" class="note losing" role="alert">{{ fault || unread }}</p>
    <p v-if="state?.locked" class="note">{{ state.locked }}</p>
    <p v-for="note in state?.notes" :key="note" class="soft told">{{ note }}</p>
    <p v-if="state?.left.length" class="soft told">
      {{
        state.left.length === 1
          ? `The formula in ${state.left[0]} isn’t calculated here. It keeps its saved value until a spreadsheet program opens the file.`
          : `${state.left.length.toLocaleString('en')} formulas, such as in ${state.left[0]}, aren’t calculated here. They keep their saved values until a spreadsheet program opens the file.`
      }}
    </p>
    <EditGrid
      v-if="state && facts"
      ref="grid"
      :key="sheet"
      :sheet="facts"
      :rows="state.rows"
      :shown="shown"
      :label="state.sheets.length > 1 ? `${facts.name} of ${document.name}` : document.name"
      :locked="closed"
      :found="found"
      :aria-busy="busy"
      @set="set"
      @at="onAt"
    />
  </div>
</template>

<style scoped>
.sheets {
  display: flex;
  min-width: 0;
  min-height: 0;
  flex-direction: column;
}
.tools,
.line {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  padding: 6px 24px;
  gap: 6px 14px;
}
.line {
  flex-wrap: nowrap;
  padding-top: 0;
}
.line > .figures {
  white-space: nowrap;
}
.group {
  display: inline-flex;
  align-items: center;
  gap: 4px;
}
.filter {
  margin-left: auto;
}
.place {
  min-width: 5ch;
}
.tools :deep([aria-pressed='true']) {
  background: var(--verdigris-wash);
}
.told,
.note {
  margin: 0;
  padding: 2px 24px 6px;
}
</style>
