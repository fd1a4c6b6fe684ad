<script setup lang="ts">
import { useVirtualizer } from '@tanstack/vue-virtual';
import { computed, nextTick, ref, watch } from 'vue';
import type { ItemView } from '../../../api/items.ts';
import { api, sentenceOf } from '../../api/client.ts';
import CareMarks from '../../parts/CareMarks.vue';
import ItemPicture from '../../parts/ItemPicture.vue';
import { useSite } from '../../stores/site.ts';
import { useTray } from '../../stores/tray.ts';
import { COLUMNS, useColumns, type Column } from './columns.ts';

/** The same items as ruled lines: columns are chosen, moved and sized; words are written in place. */
const props = defineProps<{
  ids: Uint32Array;
  items: ReadonlyMap<number, ItemView>;
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
const { shown, chosen, toggle, move, resize } = useColumns();
const choosing = ref(false);
const fault = ref('');

const LINE = 44;
const scroller = ref<HTMLElement>();
const virtual = useVirtualizer(
  computed(() => ({
    count: props.ids.length,
    getScrollElement: () => scroller.value ?? null,
    estimateSize: () => LINE,
    overscan: 8,
  })),
);
watch(
  () => virtual.value.getVirtualItems(),
  (lines) => emit('need', lines[0]?.index ?? 0, (lines.at(-1)?.index ?? 0) + 1),
  { immediate: true },
);
const grid = computed(() => ({
  gridTemplateColumns: `28px 56px ${shown.value.map((one) => `${one.width}px`).join(' ')}`,
}));
const width = computed(() => 84 + shown.value.reduce((sum, one) => sum + one.width, 0));

function order(column: Column) {
  if (!column.sort) return;
  emit('sort', column.sort, props.sort === column.sort ? !props.turned : false);
}

/** The cell that is being written. */
const writing = ref<{ id: number; field: 'title' | 'alt' | 'caption' | 'tags'; text: string }>();
async function write(item: ItemView, column: Column) {
  if (!column.field) return;
  const value = item.words[column.field];
  writing.value = {
    id: item.id,
    field: column.field,
    text: Array.isArray(value) ? value.join(', ') : value,
  };
  await nextTick();
  scroller.value?.querySelector<HTMLInputElement>('.cell input')?.select();
}
async function save(): Promise<void> {
  const cell = writing.value;
  const item = cell && props.items.get(cell.id);
  writing.value = undefined;
  if (!cell || !item) return;
  const value =
    cell.field === 'tags'
      ? cell.text
          .split(',')
          .map((tag) => tag.trim())
          .filter(Boolean)
      : cell.text;
  if (JSON.stringify(value) === JSON.stringify(item.words[cell.field])) return;
  try {
    fault.value = '';
    await api.saveWords(item.id, { rowVersion: item.rowVersion, words: { [cell.field]: value } });
    await site.changed();
  } catch (error) {
    fault.value = `“${cell.text}” was not saved for ${item.name}: ${sentenceOf(error)}`;
  }
}
/** Enter goes on to the same column of the next line. */
async function next(index: number, column: Column) {
  await save();
  const id = props.ids[index + 1];
  const item = id === undefined ? undefined : props.items.get(id);
  virtual.value.scrollToIndex(Math.min(props.ids.length - 1, index + 1));
  if (item) await write(item, column);
}

let dragged = '';
function drag(event: PointerEvent, column: Column) {
  const from = event.clientX;
  const before = column.width;
  const moveTo = (at: PointerEvent) => resize(column.key, before + at.clientX - from);
  window.addEventListener('pointermove', moveTo);
  window.addEventListener('pointerup', () => window.removeEventListener('pointermove', moveTo), {
    once: true,
  });
}
let anchor = 0;
function tick(index: number, event: MouseEvent) {
  if (event.shiftKey) tray.add(props.ids.subarray(Math.min(anchor, index), Math.max(anchor, index) + 1));
  else tray.toggle(props.ids[index]!);
  anchor = index;
}
</script>

<template>
  <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
  <div ref="scroller" class="scroller">
    <div role="table" aria-label="Items" :aria-rowcount="ids.length + 1" :style="{ width: `${width}px` }">
      <div class="line titles" role="row" :style="grid">
        <span role="columnheader"><span class="hidden-words">Gathered</span></span>
        <span role="columnheader">
          <button class="link" type="button" :aria-expanded="choosing" @click="choosing = !choosing">
            Columns
          </button>
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
          <button v-if="column.sort" type="button" @click="order(column)">
            {{ column.title }}
            <span v-if="column.sort === sort" aria-hidden="true">{{ turned ? '↑' : '↓' }}</span>
          </button>
          <template v-else>{{ column.title }}</template>
          <span class="edge" aria-hidden="true" @pointerdown.prevent.stop="drag($event, column)"></span>
        </span>
      </div>
      <div v-if="choosing" class="choices" role="group" aria-label="Columns to show">
        <span v-for="column in COLUMNS" :key="column.key">
          <label
            ><input type="checkbox" :checked="chosen.includes(column.key)" @change="toggle(column.key)" />
            {{ column.title }}</label
          >
          <button
            v-if="chosen.indexOf(column.key) > 0"
            class="link"
            type="button"
            :aria-label="`${column.title} further to the left`"
            @click="move(column.key, chosen[chosen.indexOf(column.key) - 1]!)"
          >
            ←
          </button>
        </span>
        <button class="link" type="button" @click="choosing = false">Done</button>
      </div>
      <div role="rowgroup" :style="{ height: `${virtual.getTotalSize()}px`, position: 'relative' }">
        <div
          v-for="{ index, start } in virtual.getVirtualItems()"
          :key="ids[index]!"
          class="line"
          role="row"
          :aria-rowindex="index + 2"
          :class="{ open: ids[index] === focused, gathered: tray.has(ids[index]!) }"
          :style="{ ...grid, transform: `translateY(${start}px)` }"
        >
          <template v-for="item in [items.get(ids[index]!)]" :key="item?.id ?? 0">
            <span role="cell">
              <input
                v-if="item"
                type="checkbox"
                :checked="tray.has(item.id)"
                :aria-label="`Gather ${item.name}`"
                @click="tick(index, $event)"
              />
            </span>
            <span role="cell">
              <button
                v-if="item"
                class="picture"
                type="button"
                :aria-label="`Open ${item.name}`"
                @click="emit('open', item.id)"
              >
                <ItemPicture
                  :sha256="item.sha256"
                  :kind="item.kind"
                  :name="item.name"
                  :placeholder="item.placeholder"
                />
              </button>
            </span>
            <span
              v-for="column in shown"
              :key="column.key"
              role="cell"
              class="cell"
              :class="[column.look, { writable: column.field }]"
            >
              <template v-if="item">
                <input
                  v-if="writing?.id === item.id && writing.field === column.field"
                  v-model="writing.text"
                  :aria-label="`${column.title} of ${item.name}`"
                  @blur="save"
                  @keydown.enter.prevent="next(index, column)"
                  @keydown.escape.stop="writing = undefined"
                />
                <button
                  v-else-if="column.field"
                  type="button"
                  :aria-label="`${column.title} of ${item.name}: ${column.text(item) || 'empty'}`"
                  @click="write(item, column)"
                >
                  {{ column.text(item) }}
                </button>
                <CareMarks v-else-if="column.key === 'marks'" :marks="item.marks" />
                <template v-else>{{ column.text(item) }}</template>
              </template>
            </span>
          </template>
        </div>
      </div>
    </div>
  </div>
</template>

<style scoped>
.scroller {
  flex: 1;
  overflow: auto;
}
.line {
  display: grid;
  width: 100%;
  height: 44px;
  align-items: center;
  border-bottom: 1px solid var(--rule);
}
.line > span {
  min-width: 0;
  padding: 0 8px;
}
[role='rowgroup'] .line {
  position: absolute;
  top: 0;
  left: 0;
}
.titles {
  position: sticky;
  z-index: 2;
  top: 0;
  height: 34px;
  border-bottom: 1px solid var(--rule-strong);
  background: var(--paper);
  font-size: 12.5px;
  font-weight: 650;
}
.titles .title {
  position: relative;
  white-space: nowrap;
}
.titles button {
  padding: 0;
  border: 0;
  background: none;
  color: var(--ink);
  cursor: pointer;
  font: inherit;
}
.titles .link {
  color: var(--verdigris);
}
.edge {
  position: absolute;
  top: -6px;
  right: 0;
  width: 9px;
  height: 30px;
  border-right: 1px solid var(--rule);
  cursor: col-resize;
}
.choices {
  display: flex;
  flex-wrap: wrap;
  padding: 8px 12px;
  border-bottom: 1px solid var(--rule-strong);
  background: var(--paper-raised);
  gap: 6px 16px;
}
.open {
  background: var(--verdigris-wash);
}
.gathered {
  box-shadow: inset 3px 0 0 var(--verdigris);
}
.picture {
  width: 44px;
  height: 38px;
  padding: 0;
  border: 0;
  background: none;
  cursor: pointer;
}
.cell {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.cell.number {
  font-variant-numeric: tabular-nums;
  text-align: right;
}
.cell.mono {
  font-family: var(--mono);
  font-size: 12.5px;
}
.cell button {
  display: block;
  width: 100%;
  height: 36px;
  padding: 0;
  border: 0;
  background: none;
  color: inherit;
  cursor: text;
  font: inherit;
  overflow: hidden;
  text-align: left;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.cell.writable:hover {
  background: var(--paper-raised);
}
.cell input {
  width: 100%;
  height: 34px;
  padding: 0 6px;
  border: 1px solid var(--verdigris);
  background: var(--paper-raised);
}
</style>
