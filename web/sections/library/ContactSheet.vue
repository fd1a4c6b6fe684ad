<script setup lang="ts">
import { useVirtualizer } from '@tanstack/vue-virtual';
import { computed, nextTick, onMounted, onUnmounted, ref, watch } from 'vue';
import type { ItemView } from '../../../api/items.ts';
import { justifiedRows, placeWidth, rowOf, type Row } from '../../../core/picture/rows.ts';
import { useTray } from '../../stores/tray.ts';
import SheetItem from './SheetItem.vue';
import { useBand } from './useBand.ts';

const props = defineProps<{
  ids: Uint32Array;
  ratios: Uint16Array;
  items: ReadonlyMap<number, ItemView>;
  focused: number | undefined;
  /** Wished height of a row in pixels. */
  size: number;
}>();
const emit = defineEmits<{
  open: [id: number | undefined];
  look: [id: number];
  need: [from: number, to: number];
}>();
const tray = useTray();

const GAP = 14;
const WORDS = 42;
const PADDING = { x: 20, y: 16 };
const scroller = ref<HTMLElement>();
const width = ref(0);
const observer = new ResizeObserver(([entry]) => (width.value = entry?.contentRect.width ?? 0));
onMounted(() => observer.observe(scroller.value!));
onUnmounted(() => observer.disconnect());

const layout = computed(() => ({
  width: width.value,
  wished: props.size,
  gap: GAP,
  least: Math.max(96, props.size),
}));
const aspect = (index: number) => props.ratios[index]! / 1000;
const rows = computed<Row[]>(() =>
  width.value < 100 ? [] : justifiedRows(props.ids.length, aspect, layout.value),
);
const virtual = useVirtualizer(
  computed(() => ({
    count: rows.value.length,
    getScrollElement: () => scroller.value ?? null,
    estimateSize: (index: number) => (rows.value[index]?.height ?? props.size) + WORDS + GAP,
    overscan: 3,
  })),
);
watch(rows, () => virtual.value.measure());
const inSight = computed(() => {
  const lines = virtual.value.getVirtualItems();
  const [first, last] = [rows.value[lines[0]?.index ?? 0], rows.value[lines.at(-1)?.index ?? 0]];
  return { from: first?.start ?? 0, to: last?.end ?? 0 };
});
watch(inSight, ({ from, to }) => emit('need', from, to), { immediate: true });
/** The places of a row: which item, how far from the left, how wide. */
function placesOf(row: Row): { index: number; x: number; width: number }[] {
  const places: { index: number; x: number; width: number }[] = [];
  let x = 0;
  for (let index = row.start; index < row.end; index++) {
    const wide = placeWidth(aspect(index), row, layout.value);
    places.push({ index, x, width: wide });
    x += wide + GAP;
  }
  return places;
}

/** Index of the item that the keys are on, and where a range began. */
const current = ref(0);
let anchor = 0;
watch(
  () => [props.focused, props.ids] as const,
  ([id]) => {
    const index = id === undefined ? -1 : props.ids.indexOf(id);
    if (index >= 0) current.value = index;
    else if (current.value >= props.ids.length) current.value = 0;
  },
  { immediate: true },
);

function gatherRange(from: number, to: number) {
  tray.add(props.ids.subarray(Math.min(from, to), Math.max(from, to) + 1));
}
async function go(index: number, gathering: boolean) {
  const before = current.value;
  current.value = Math.min(props.ids.length - 1, Math.max(0, index));
  if (gathering) gatherRange(before, current.value);
  else anchor = current.value;
  virtual.value.scrollToIndex(rowOf(rows.value, current.value));
  await nextTick();
  scroller.value
    ?.querySelector<HTMLElement>(`[data-index="${current.value}"]`)
    ?.focus({ preventScroll: true });
  // With the record open, the record follows.
  if (props.focused !== undefined && !gathering) emit('open', props.ids[current.value]);
}
/** The picture above or below: the one whose middle is nearest. */
function vertical(step: 1 | -1): number {
  const at = rowOf(rows.value, current.value);
  const to = rows.value[at + step];
  if (!to) return current.value;
  const middle = ({ x, width: wide }: { x: number; width: number }) => x + wide / 2;
  const from = middle(placesOf(rows.value[at]!)[current.value - rows.value[at]!.start]!);
  const nearest = placesOf(to).reduce((best, place) =>
    Math.abs(middle(place) - from) < Math.abs(middle(best) - from) ? place : best,
  );
  return nearest.index;
}
/** Rows that fit on the screen. */
const page = () => Math.max(1, Math.floor((scroller.value?.clientHeight ?? 0) / (props.size + WORDS + GAP)));
function pages(step: 1 | -1): number {
  const at = rowOf(rows.value, current.value) + step * page();
  return rows.value[Math.min(rows.value.length - 1, Math.max(0, at))]?.start ?? 0;
}
function onKey(event: KeyboardEvent) {
  if (event.ctrlKey || event.metaKey || event.altKey) return;
  const gathering = event.shiftKey;
  const id = props.ids[current.value];
  const act = {
    ArrowRight: () => go(current.value + 1, gathering),
    ArrowLeft: () => go(current.value - 1, gathering),
    ArrowDown: () => go(vertical(1), gathering),
    ArrowUp: () => go(vertical(-1), gathering),
    PageDown: () => go(pages(1), gathering),
    PageUp: () => go(pages(-1), gathering),
    Home: () => go(0, gathering),
    End: () => go(props.ids.length - 1, gathering),
    ' ': () => id !== undefined && tray.toggle(id),
    l: () => id !== undefined && emit('look', id),
  }[event.key];
  if (!act) return;
  event.preventDefault();
  void act();
}

/** The keys go on from wherever the focus is. */
function focusedIn(event: FocusEvent) {
  const index = (event.target as HTMLElement).dataset['index'];
  if (index !== undefined) current.value = Number(index);
}
function clicked(index: number, event: MouseEvent) {
  if (band.justDrawn()) return;
  const before = anchor;
  current.value = index;
  if (event.shiftKey) return gatherRange(before, index);
  anchor = index;
  if (event.ctrlKey || event.metaKey) tray.toggle(props.ids[index]!);
  else emit('open', props.ids[index]);
}
function ticked(index: number, event: MouseEvent) {
  if (event.shiftKey) gatherRange(anchor, index);
  else tray.toggle(props.ids[index]!);
  anchor = current.value = index;
}

/** A frame drawn over the sheet gathers what it touches. */
const band = useBand(scroller, ({ left, top, right, bottom }) => {
  const found: number[] = [];
  let y = PADDING.y;
  for (const row of rows.value) {
    const tall = row.height + WORDS;
    if (y < bottom && y + tall > top)
      for (const place of placesOf(row)) {
        const x = PADDING.x + place.x;
        if (x < right && x + place.width > left) found.push(props.ids[place.index]!);
      }
    y += tall + GAP;
    if (y > bottom) break;
  }
  tray.add(found);
});
defineExpose({ focus: () => go(current.value, false) });
</script>

<template>
  <div
    ref="scroller"
    class="scroller"
    role="group"
    aria-label="Items"
    @keydown="onKey"
    @focusin="focusedIn"
    @pointerdown="band.start"
  >
    <div :style="{ height: `${virtual.getTotalSize()}px`, position: 'relative' }">
      <div
        v-for="line in virtual.getVirtualItems()"
        :key="line.index"
        class="row"
        :style="{ transform: `translateY(${line.start}px)` }"
      >
        <SheetItem
          v-for="place in rows[line.index] ? placesOf(rows[line.index]!) : []"
          :key="ids[place.index]!"
          :item="items.get(ids[place.index]!)"
          :index="place.index"
          :width="place.width"
          :height="rows[line.index]!.height"
          :open="ids[place.index] === focused"
          :gathered="tray.has(ids[place.index]!)"
          :current="place.index === current"
          @act="clicked(place.index, $event)"
          @dblclick="emit('look', ids[place.index]!)"
          @tick="ticked(place.index, $event)"
        />
      </div>
    </div>
    <div v-if="band.frame.value" class="band" :style="band.frame.value"></div>
  </div>
</template>

<style scoped>
.scroller {
  position: relative;
  flex: 1;
  padding: 16px 20px;
  overflow: auto;
}
.row {
  position: absolute;
  top: 0;
  left: 0;
  display: flex;
  gap: 14px;
}
.band {
  position: absolute;
  z-index: 2;
  border: 1px solid var(--verdigris);
  background: color-mix(in srgb, var(--verdigris) 14%, transparent);
  pointer-events: none;
}
</style>
