<script setup lang="ts">
import { followPointer } from '../../kit/pointer.ts';
import { useVirtualizer } from '@tanstack/vue-virtual';
import { computed, nextTick, ref, watch } from 'vue';
import type { ItemView } from '../../../api/items.ts';
import { api, sentenceOf } from '../../api/client.ts';
import CareMarks from '../../parts/CareMarks.vue';
import ItemPicture from '../../parts/ItemPicture.vue';
import MarkedText from '../../parts/MarkedText.vue';
import { count } from '../../parts/words.ts';
import { useSite } from '../../stores/site.ts';
import { useTray } from '../../stores/tray.ts';
import { cellFault } from './cell-checks.ts';
import { useColumns, type Column } from './columns.ts';
import type { Group } from './groups.ts';
import { useSheetCells } from './useSheetCells.ts';
import AppButton from '../../kit/AppButton.vue';
import AppCheckbox from '../../kit/AppCheckbox.vue';
import AppInput from '../../kit/AppInput.vue';

/** The same items as ruled lines: columns are chosen, moved and sized; words are written in place. */
const props = defineProps<{
  ids: Uint32Array;
  items: ReadonlyMap<number, ItemView>;
  groups: readonly Group[];
  /** What was searched for. */
  words: readonly string[];
  focused: number | undefined;
  sort: string;
  turned: boolean;
}>();
const emit = defineEmits<{
  open: [id: number | undefined];
  need: [from: number, to: number];
  sort: [sort: string, turned: boolean];
}>();
const tray = useTray();
const site = useSite();
const { all, shown, chosen, toggle, move, resize } = useColumns();
const choosing = ref(false);
const fault = ref('');

const LINE = 44;
const scroller = ref<HTMLElement>();
/** Lines are items, and before the first of each group its heading. */
const starts = computed(() => props.groups.map((group, at) => group.from + at));
function groupsBefore(line: number): number {
  let [low, high] = [0, starts.value.length];
  while (low < high) {
    const middle = (low + high) >> 1;
    if (starts.value[middle]! <= line) low = middle + 1;
    else high = middle;
  }
  return low;
}
const headAt = (line: number): Group | undefined => {
  const before = groupsBefore(line);
  return before > 0 && starts.value[before - 1] === line ? props.groups[before - 1] : undefined;
};
const itemAt = (line: number): number => line - groupsBefore(line);
function lineOf(index: number): number {
  return index + props.groups.filter((group) => group.from <= index).length;
}
const virtual = useVirtualizer(
  computed(() => ({
    count: props.ids.length + props.groups.length,
    getScrollElement: () => scroller.value ?? null,
    estimateSize: () => LINE,
    overscan: 8,
  })),
);
watch(
  () => virtual.value.getVirtualItems(),
  (lines) => emit('need', itemAt(lines[0]?.index ?? 0), itemAt(lines.at(-1)?.index ?? 0) + 1),
  { immediate: true },
);
/** Takes what a wide window leaves over. */
const widest = computed(() =>
  shown.value.reduce((most, one) => (one.width > (most?.width ?? 0) ? one : most), shown.value[0]),
);
const grid = computed(() => ({
  gridTemplateColumns: `28px 56px ${shown.value
    .map((one) => (one === widest.value ? `minmax(${one.width}px, 1fr)` : `${one.width}px`))
    .join(' ')}`,
}));
const width = computed(() => 84 + shown.value.reduce((sum, one) => sum + one.width, 0));

function order(column: Column) {
  if (!column.sort) return;
  emit('sort', column.sort, props.sort === column.sort ? !props.turned : false);
}

/** The cell that is being written. */
const writing = ref<{ id: number; column: Column; text: string }>();
async function write(item: ItemView, column: Column) {
  if (!column.cell) return;
  writing.value = { id: item.id, column, text: column.text(item) };
  await nextTick();
  scroller.value?.querySelector<HTMLInputElement>('.cell input')?.select();
}
async function save(): Promise<void> {
  const cell = writing.value;
  const item = cell && props.items.get(cell.id);
  writing.value = undefined;
  if (!cell?.column.cell || !item || cell.text === cell.column.text(item)) return;
  const why = cell.column.cell.fault?.(cell.text);
  if (why) {
    fault.value = `“${cell.text}” wasn’t saved for ${item.name}: ${why}`;
    return;
  }
  const { own, ...words } = cell.column.cell.set(cell.text);
  const owns = Object.entries({ ...item.words.own, ...own }).filter(([, value]) => value !== '');
  try {
    fault.value = '';
    await api.saveWords(item.id, {
      rowVersion: item.rowVersion,
      words: { ...words, ...(own ? { own: Object.fromEntries(owns) } : {}) },
    });
    await site.changed();
  } catch (error) {
    fault.value = `“${cell.text}” wasn’t saved for ${item.name}: ${sentenceOf(error)}`;
  }
}
const { cellWithFocus, below, focusOn, fillDown } = useSheetCells(
  () => props.ids,
  () => props.items,
  shown,
  () => writing.value !== undefined,
);
const today = new Date().toISOString().slice(0, 10);

/** Enter goes on to the same column of the next line. */
async function next(index: number, column: Column) {
  await save();
  const id = props.ids[index + 1];
  const item = id === undefined ? undefined : props.items.get(id);
  virtual.value.scrollToIndex(lineOf(Math.min(props.ids.length - 1, index + 1)));
  if (item) await write(item, column);
}

/** Up and down stay in the column; Home and End go to the first and the last line. */
async function onKey(event: KeyboardEvent) {
  const cell = (event.target as HTMLElement).closest<HTMLElement>('[data-column]');
  const step = { ArrowDown: 1, ArrowUp: -1, PageDown: 12, PageUp: -12, Home: -1e9, End: 1e9 }[event.key];
  if (!cell || !step || event.ctrlKey || event.metaKey || event.altKey) return;
  // Within a text that is being written, these keys belong to the text.
  if (writing.value && !['ArrowDown', 'ArrowUp'].includes(event.key)) return;
  event.preventDefault();
  const index = Math.min(props.ids.length - 1, Math.max(0, Number(cell.dataset['at']) + step));
  if (event.shiftKey) tray.add([props.ids[Number(cell.dataset['at'])]!, props.ids[index]!]);
  virtual.value.scrollToIndex(lineOf(index));
  await nextTick();
  const column = cell.dataset['column'];
  const next = () =>
    scroller.value?.querySelector<HTMLElement>(
      `[data-at="${index}"][data-column="${column}"] :is(button, input)`,
    );
  // A line far away is drawn a frame later.
  if (!next()) await new Promise(requestAnimationFrame);
  next()?.focus();
}

let dragged = '';
function drag(event: PointerEvent, column: Column) {
  const from = event.clientX;
  const before = column.width;
  followPointer((at) => resize(column.key, before + at.clientX - from));
}
const WIDTHS = [
  ['–', -30, 'narrower'],
  ['+', 30, 'wider'],
] as const;
let anchor = 0;
function tick(index: number, event: MouseEvent) {
  if (event.shiftKey) tray.add(props.ids.subarray(Math.min(anchor, index), Math.max(anchor, index) + 1));
  else tray.toggle(props.ids[index]!);
  anchor = index;
}
</script>

<template>
  <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
  <p v-if="tray.size && site.may('describe')" class="fill soft">
    <template v-if="!cellWithFocus || below.length === 0"
      >You can fill a cell down into the selected items below it.</template
    >
    <AppButton v-else look="link" @click="fillDown">
      Fill “{{ cellWithFocus.column.title }}” down into {{ count(below.length, 'selected item') }} below
    </AppButton>
  </p>
  <div ref="scroller" class="scroller" @keydown="onKey" @focusin="focusOn">
    <div role="table" aria-label="Items" :aria-rowcount="ids.length + 1" :style="{ minWidth: `${width}px` }">
      <div class="line titles" role="row" :style="grid">
        <span role="columnheader"><span class="hidden-words">Gathered</span></span>
        <span role="columnheader">
          <AppButton look="link" :aria-expanded="choosing" @click="choosing = !choosing"> Columns </AppButton>
        </span>
        <span
          v-for="column in shown"
          :key="column.key"
          role="columnheader"
          class="title"
          draggable="true"
          :aria-sort="column.sort === sort ? (turned ? 'descending' : 'ascending') : undefined"
          @dragstart="dragged = column.key"
          @dragover.prevent
          @drop.prevent="move(dragged, column.key)"
        >
          <AppButton v-if="column.sort" look="tile" @click="order(column)"
            >{{ column.title }}
            <span v-if="column.sort === sort" aria-hidden="true">{{ turned ? '↑' : '↓' }}</span>
          </AppButton>
          <template v-else>{{ column.title }}</template>
          <span class="edge" aria-hidden="true" @pointerdown.prevent.stop="drag($event, column)"></span>
        </span>
      </div>
      <div v-if="choosing" class="choices" role="group" aria-label="Columns to show">
        <span v-for="column in all" :key="column.key">
          <AppCheckbox :model-value="chosen.includes(column.key)" @change="toggle(column.key)">
            {{ column.title }}</AppCheckbox
          >
          <template v-if="chosen.includes(column.key)">
            <AppButton
              v-for="[sign, by, how] in WIDTHS"
              :key="sign"
              look="link"
              :aria-label="`${column.title} ${how}`"
              @click="resize(column.key, (shown.find((one) => one.key === column.key)?.width ?? 100) + by)"
              >{{ sign }}
            </AppButton>
          </template>
          <AppButton
            v-if="chosen.indexOf(column.key) > 0"
            look="link"
            :aria-label="`Move ${column.title} left`"
            @click="move(column.key, chosen[chosen.indexOf(column.key) - 1]!)"
          >
            ←
          </AppButton>
        </span>
        <AppButton look="link" @click="choosing = false">Done</AppButton>
      </div>
      <div role="rowgroup" :style="{ height: `${virtual.getTotalSize()}px`, position: 'relative' }">
        <div
          v-for="line in virtual.getVirtualItems()"
          :key="line.index"
          class="line"
          role="row"
          :aria-rowindex="line.index + 2"
          :class="{
            heading: headAt(line.index),
            open: !headAt(line.index) && ids[itemAt(line.index)] === focused,
            gathered: !headAt(line.index) && tray.has(ids[itemAt(line.index)]!),
          }"
          :style="{ ...(headAt(line.index) ? {} : grid), transform: `translateY(${line.start}px)` }"
        >
          <span v-if="headAt(line.index)" role="cell">
            <strong>{{ headAt(line.index)!.title }}</strong>
            <span class="figures soft">{{
              count(headAt(line.index)!.to - headAt(line.index)!.from, 'item')
            }}</span>
          </span>
          <template v-for="index in headAt(line.index) ? [] : [itemAt(line.index)]" :key="index">
            <template v-for="item in [items.get(ids[index]!)]" :key="item?.id ?? 0">
              <span role="cell" :data-at="index" data-column="tick">
                <AppCheckbox
                  v-if="item"
                  :model-value="tray.has(item.id)"
                  :aria-label="`Add ${item.name} to tray`"
                  @click="tick(index, $event)"
                />
              </span>
              <span role="cell" :data-at="index" data-column="picture">
                <AppButton
                  v-if="item"
                  look="tile"
                  class="picture"
                  :data-item="item.id"
                  :aria-label="`Open ${item.name}`"
                  @click="emit('open', item.id)"
                  ><ItemPicture
                    :sha256="item.sha256"
                    :kind="item.kind"
                    :name="item.name"
                    :placeholder="item.placeholder"
                  />
                </AppButton>
              </span>
              <span
                v-for="column in shown"
                :key="column.key"
                role="cell"
                :data-at="index"
                :data-column="column.key"
                class="cell"
                :class="[column.look, { writable: column.cell }]"
              >
                <template v-if="item">
                  <AppInput
                    v-if="writing?.id === item.id && writing.column.key === column.key"
                    v-model="writing.text"
                    :aria-label="`${column.title} of ${item.name}`"
                    @blur="save"
                    @keydown.enter.prevent="next(index, column)"
                    @keydown.escape.stop="writing = undefined"
                  />
                  <AppButton
                    v-else-if="column.cell"
                    look="tile"
                    :aria-label="`${column.title} of ${item.name}: ${column.text(item) || 'empty'}`"
                    @click="write(item, column)"
                    ><MarkedText :text="column.text(item)" :words="words" />
                  </AppButton>
                  <CareMarks v-else-if="column.key === 'marks'" :marks="item.marks" />
                  <MarkedText v-else-if="column.key === 'name'" :text="item.name" :words="words" />
                  <template v-else>{{ column.text(item) }}</template>
                  <span
                    v-if="cellFault(item, column, today)"
                    class="sign"
                    role="img"
                    :aria-label="cellFault(item, column, today)"
                    :title="cellFault(item, column, today)"
                    >◐</span
                  >
                </template>
              </span>
            </template>
          </template>
        </div>
      </div>
    </div>
  </div>
</template>

<style scoped src="./ItemTable.css"></style>
