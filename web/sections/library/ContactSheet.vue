<script setup lang="ts">
import { useVirtualizer } from '@tanstack/vue-virtual';
import { computed, nextTick, onMounted, onUnmounted, ref, shallowRef, watch } from 'vue';
import type { ItemView } from '../../../api/items.ts';
import { justifiedRows, placeWidth, rowOf, type Row } from '../../../core/picture/rows.ts';
import { count } from '../../parts/words.ts';
import { useTray } from '../../stores/tray.ts';
import type { Group } from './groups.ts';
import SheetItem from './SheetItem.vue';
import { useBand } from './useBand.ts';
import AppButton from '../../kit/AppButton.vue';

const props = defineProps<{
  ids: Uint32Array;
  ratios: Uint16Array;
  items: ReadonlyMap<number, ItemView>;
  groups: readonly Group[];
  /** What was searched for. */
  words: readonly string[];
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
const WORDS = computed(() => (props.words.length > 0 ? 60 : 42));
const HEAD = 38;
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
  width.value < 100
    ? []
    : justifiedRows(
        props.ids.length,
        aspect,
        layout.value,
        props.groups.map((group) => group.from),
      ),
);
/** What stands one below the other: rows, and before the first of each group its heading. */
const lines = computed<{ row?: number; group?: Group }[]>(() => {
  const all: { row?: number; group?: Group }[] = [];
  let next = 0;
  rows.value.forEach((row, index) => {
    while (next < props.groups.length && props.groups[next]!.from <= row.start)
      all.push({ group: props.groups[next++]! });
    all.push({ row: index });
  });
  return all;
});
const lineOfRow = computed(() => {
  const at = new Int32Array(rows.value.length);
  lines.value.forEach(({ row }, index) => row !== undefined && (at[row] = index));
  return at;
});
const heightOf = (line: { row?: number } | undefined) =>
  line?.row === undefined ? HEAD : (rows.value[line.row]?.height ?? props.size) + WORDS.value + GAP;
const rowAt = (index: number) => rows.value[lines.value[index]?.row ?? -1];
const virtual = useVirtualizer(
  computed(() => ({
    count: lines.value.length,
    getScrollElement: () => scroller.value ?? null,
    estimateSize: (index: number) => heightOf(lines.value[index]),
    overscan: 2,
  })),
);
watch([lines, WORDS], () => virtual.value.measure());
const inSight = computed(() => {
  const seen = virtual.value.getVirtualItems().flatMap((line) => rowAt(line.index) ?? []);
  return { from: seen[0]?.start ?? 0, to: seen.at(-1)?.end ?? 0 };
});
/** What is passed over in a hurry need not be asked for. */
let asking: ReturnType<typeof setTimeout> | undefined;
let asked = -Infinity;
watch(
  inSight,
  () => {
    clearTimeout(asking);
    const wait = Math.max(0, 80 - (performance.now() - asked));
    asking = setTimeout(() => {
      asked = performance.now();
      emit('need', inSight.value.from, inSight.value.to);
    }, wait);
  },
  { immediate: true },
);
/** Lines that are drawn whole. A leap shows many new ones: they come a few in each frame, so that none takes long. */
const AT_ONCE = 2;
const whole = shallowRef<ReadonlySet<number>>(new Set());
let drawing = 0;
watch(
  () => virtual.value.getVirtualItems().map((line) => line.index),
  (seen) => {
    const kept = seen.filter((index) => whole.value.has(index));
    const fresh = seen.filter((index) => !whole.value.has(index));
    // After a leap none yet: the next one may follow at once.
    whole.value = new Set([...kept, ...fresh.splice(0, fresh.length > 2 * AT_ONCE ? 0 : AT_ONCE)]);
    cancelAnimationFrame(drawing);
    const more = () => {
      if (fresh.length === 0) return;
      whole.value = new Set([...whole.value, ...fresh.splice(0, AT_ONCE)]);
      drawing = requestAnimationFrame(more);
    };
    drawing = requestAnimationFrame(more);
  },
  { immediate: true },
);
onUnmounted(() => {
  cancelAnimationFrame(drawing);
  clearTimeout(asking);
});
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
  virtual.value.scrollToIndex(lineOfRow.value[rowOf(rows.value, current.value)] ?? 0);
  await nextTick();
  const card = () => scroller.value?.querySelector<HTMLElement>(`[data-index="${current.value}"]`);
  for (let frames = 0; !card() && frames < 60; frames++) await new Promise(requestAnimationFrame);
  card()?.focus({ preventScroll: true });
  // With the record open, the record follows.
  if (props.focused !== undefined && !gathering) emit('open', props.ids[current.value]);
}
/** The image above or below: the one whose middle is nearest. */
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
const page = () =>
  Math.max(1, Math.floor((scroller.value?.clientHeight ?? 0) / (props.size + WORDS.value + GAP)));
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
  for (const line of lines.value) {
    const row = line.row === undefined ? undefined : rows.value[line.row];
    const tall = heightOf(line) - GAP;
    if (row && y < bottom && y + tall > top)
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
        <h2 v-if="lines[line.index]?.group" class="group">
          {{ lines[line.index]!.group!.title }}
          <span class="mono soft">{{ lines[line.index]!.group!.more }}</span>
          <span class="figures soft">{{
            count(lines[line.index]!.group!.to - lines[line.index]!.group!.from, 'item')
          }}</span>
          <AppButton
            look="link"
            @click="gatherRange(lines[line.index]!.group!.from, lines[line.index]!.group!.to - 1)"
          >
            Add to tray
          </AppButton>
        </h2>
        <SheetItem
          v-for="place in rowAt(line.index) ? placesOf(rowAt(line.index)!) : []"
          :key="ids[place.index]!"
          :item="whole.has(line.index) ? items.get(ids[place.index]!) : undefined"
          :index="place.index"
          :width="place.width"
          :height="rowAt(line.index)!.height"
          :words="words"
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
.group {
  display: flex;
  align-items: baseline;
  padding-top: 8px;
  font-size: 15px;
  gap: 12px;
  white-space: nowrap;
}
.group .figures,
.group .link {
  font-size: 13px;
  font-weight: 400;
}
.band {
  position: absolute;
  z-index: 2;
  border: 1px solid var(--verdigris);
  background: color-mix(in srgb, var(--verdigris) 14%, transparent);
  pointer-events: none;
}
</style>
