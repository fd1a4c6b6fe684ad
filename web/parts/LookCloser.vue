<script setup lang="ts">
import { followPointer } from '../kit/pointer.ts';
import { useEventListener } from '@vueuse/core';
import { PhX } from '@phosphor-icons/vue';
import { computed, onMounted, onUnmounted, ref, shallowRef, watch } from 'vue';
import type { ItemView } from '../../api/items.ts';
import type { Window } from '../../core/picture/windows.ts';
import { api, sentenceOf } from '../api/client.ts';
import { useSite } from '../stores/site.ts';
import ItemPicture from './ItemPicture.vue';
import DocumentReader from './reading/DocumentReader.vue';
import { differencesInWords, useDifferences } from './differences.ts';
import { count, moment, USE_WORDS, weight } from './words.ts';
import AppTable from '../kit/AppTable.vue';
import AppButton from '../kit/AppButton.vue';

/** One item filling the window, with the next and the one before; or two to four side by side on one zoom. */
const props = defineProps<{
  ids: readonly number[];
  /** Where to go on to: all that is shown behind. */
  among?: ArrayLike<number>;
  /** Bytes that the one item has or had, instead of several items. */
  bytes?: { sha256: string; title: string }[];
}>();
const emit = defineEmits<{ close: []; go: [id: number] }>();
const site = useSite();
const items = shallowRef<ItemView[]>([]);
const fault = ref('');
const frame = ref<HTMLElement>();
watch(
  () => props.ids,
  async (ids) => {
    try {
      items.value = await api.itemsSome(ids);
      fit();
    } catch (error) {
      fault.value = sentenceOf(error);
    }
  },
  { immediate: true },
);

/** Screen pixels to one pixel of the image; 0: it fits its pane. The middle of what is seen, in shares of the image. */
const zoom = ref(0);
const middle = ref({ x: 0.5, y: 0.5 });
function fit() {
  zoom.value = 0;
  middle.value = { x: 0.5, y: 0.5 };
}
/** Images are seen larger here; documents by their reader. */
const zoomable = computed(() => items.value.some((item) => item.kind === 'image'));
function zoomBy(factor: number) {
  const pane = frame.value?.querySelector('.pane');
  const item = items.value[0];
  if (!pane || !item?.width || !item.height) return;
  const fitting = Math.min(pane.clientWidth / item.width, pane.clientHeight / item.height);
  const next = (zoom.value || fitting) * factor;
  if (next <= fitting) fit();
  else zoom.value = Math.min(8, next);
}
function styleOf(item: ItemView): Record<string, string> {
  if (zoom.value === 0 || !item.width || !item.height) return {};
  // Side by side the same part is seen, so a smaller image is drawn as large as the first.
  const first = items.value[0]!;
  const width = (first.width ?? item.width) * zoom.value;
  const height = (width * item.height) / item.width;
  return {
    position: 'absolute',
    maxWidth: 'none',
    width: `${width}px`,
    height: `${height}px`,
    left: `calc(50% - ${middle.value.x * width}px)`,
    top: `calc(50% - ${middle.value.y * height}px)`,
    imageRendering: zoom.value >= 2 ? 'pixelated' : 'auto',
  };
}
function drag(event: PointerEvent) {
  const item = items.value[0];
  if (zoom.value === 0 || !item?.width || !item.height) return;
  const from = { x: event.clientX, y: event.clientY, ...{ start: { ...middle.value } } };
  const size = { x: item.width * zoom.value, y: item.height * zoom.value };
  const move = (to: PointerEvent) => {
    const share = (axis: 'x' | 'y', at: number) =>
      Math.min(1, Math.max(0, from.start[axis] - (at - from[axis]) / size[axis]));
    middle.value = { x: share('x', to.clientX), y: share('y', to.clientY) };
  };
  followPointer(move);
}

const place = computed(() => (props.among ? Array.prototype.indexOf.call(props.among, props.ids[0]) : -1));
function step(by: 1 | -1) {
  const next = props.among?.[place.value + by];
  if (place.value >= 0 && next !== undefined) emit('go', next);
}
function onKey(event: KeyboardEvent) {
  if (event.ctrlKey || event.metaKey || event.altKey) return;
  // Within a document, its keys come first.
  if (reading.value?.some((one) => one.takes(event))) {
    if (!(event.target as HTMLElement).closest('input')) reading.value.some((one) => one.onKey(event));
    return;
  }
  const act = {
    Escape: () => emit('close'),
    ArrowRight: () => step(1),
    ArrowLeft: () => step(-1),
    ...(zoomable.value
      ? { '+': () => zoomBy(1.5), '-': () => zoomBy(1 / 1.5), '1': () => (zoom.value = 1), '0': fit }
      : {}),
    ...(comparable.value ? { d: mark } : {}),
  }[event.key];
  if (!act) {
    reading.value?.forEach((one) => one.onKey(event));
    return;
  }
  // In a field, only Escape is ours.
  if ((event.target as HTMLElement).closest?.('input') && event.key !== 'Escape') return;
  event.preventDefault();
  event.stopPropagation();
  act();
}
const before = document.activeElement as HTMLElement | null;
useEventListener('keydown', onKey, { capture: true });
onMounted(() => frame.value?.focus());
onUnmounted(() => before?.focus());

/** What stands side by side: several items, or one item's bytes of several times. */
const panes = computed(() =>
  props.bytes && items.value[0]
    ? props.bytes.map((one) => ({
        key: one.sha256,
        item: items.value[0]!,
        title: one.title,
        src: `/api/items/${items.value[0]!.id}/versions/${one.sha256}/file`,
        sha256: one.sha256,
      }))
    : items.value.map((item) => ({
        key: String(item.id),
        item,
        title: '',
        src: site.contentAddress(item),
        sha256: item.sha256,
      })),
);
/** What differs, laid over each other: of each image against the first. */
const comparable = computed(
  () => !props.bytes && items.value.length > 1 && items.value.every((item) => item.kind === 'image'),
);
const {
  shown: marked,
  busy: marking,
  fault: markFault,
  of: differing,
  toggle: mark,
} = useDifferences(() => props.ids);
/** Outlines over one image: places that differ, and the part of it that the other shows. */
function outlines(at: number) {
  if (!marked.value) return [];
  const part = (window: Window | undefined) => (window ? [{ ...window, part: true }] : []);
  if (at > 0) {
    const one = differing.value[at - 1];
    return one
      ? [...part(one.exchanged ? one.window : undefined), ...one.marks.map(({ other }) => other)]
      : [];
  }
  // On the first, the parts of it that others show; places only where there is but one other: those of several would be a muddle.
  const others = differing.value.filter((one) => one !== null);
  const places = items.value.length === 2 ? others.flatMap((one) => one.marks.map((mark) => mark.one)) : [];
  return [...others.flatMap((one) => part(one.exchanged ? undefined : one.window)), ...places];
}
const seen = computed(() =>
  marked.value
    ? ['', ...differing.value.map((one) => (one === undefined ? '' : differencesInWords(one)))]
    : undefined,
);
const reading = ref<InstanceType<typeof DocumentReader>[]>();
const SHOWN_BY_BROWSERS = /^image\/(jpeg|png|apng|gif|webp|avif|svg\+xml|bmp|vnd\.microsoft\.icon)$/;

/** Facts side by side; those that differ are told apart. */
const facts = computed(() => {
  const rows: [string, (item: ItemView) => string][] = [
    ['Dimensions', (item) => (item.width ? `${item.width} × ${item.height}` : '')],
    ['File size', (item) => weight(item.bytes)],
    ['Kind', (item) => item.mime],
    ['Folder', (item) => item.folder],
    ['Title', (item) => item.words.title],
    ['Alt text', (item) => item.words.alt],
    ['Tags', (item) => item.words.tags.join(', ')],
    ['Licence', (item) => item.words.licence],
    ['Use', (item) => (item.placements ? count(item.placements, 'placement') : USE_WORDS[item.use])],
    ['Added', (item) => moment(item.addedAt)],
  ];
  return rows.map(([name, of]) => {
    const values = items.value.map(of);
    return { name, values, differs: new Set(values).size > 1 };
  });
});
/** The same as lines of a table, the item's number naming its column. */
const compared = computed(() => {
  const lines = facts.value.map(({ name, values, differs }) => ({ name, differs, cells: values }));
  const all = seen.value ? [{ name: 'Seen', differs: true, cells: seen.value }, ...lines] : lines;
  return all.map(({ name, differs, cells }) => ({ name, differs, ...cells.map((cell) => cell || '–') }));
});
</script>

<template>
  <div
    ref="frame"
    class="closer"
    role="dialog"
    aria-modal="true"
    :aria-label="ids.length > 1 ? `${ids.length} items side by side` : 'Look closer'"
    tabindex="-1"
    @wheel.prevent="zoomBy($event.deltaY < 0 ? 1.2 : 1 / 1.2)"
  >
    <header>
      <strong v-if="ids.length > 1">{{ ids.length }} items side by side</strong>
      <strong v-else class="mono">{{ items[0]?.path }}</strong>
      <span v-if="place >= 0" class="figures soft"
        >{{ place + 1 }} of {{ among!.length.toLocaleString('en') }}</span
      >
      <span class="tools">
        <AppButton v-if="place >= 0" look="link" :disabled="place <= 0" @click="step(-1)">
          ← Previous
        </AppButton>
        <AppButton v-if="place >= 0" look="link" :disabled="place + 1 >= among!.length" @click="step(1)">
          Next →
        </AppButton>
        <template v-if="zoomable">
          <AppButton look="link" @click="zoomBy(1 / 1.5)">Smaller (-)</AppButton>
          <AppButton look="link" @click="zoomBy(1.5)">Larger (+)</AppButton>
          <AppButton look="link" :aria-pressed="zoom === 1" @click="zoom = 1"> Actual size (1) </AppButton>
          <AppButton look="link" :aria-pressed="zoom === 0" @click="fit">Fit to window (0)</AppButton>
          <AppButton v-if="comparable" look="link" :aria-pressed="marked" :disabled="marking" @click="mark">
            Show differences (d)
          </AppButton>
          <span class="figures soft">{{ zoom ? `${Math.round(zoom * 100)} %` : 'whole' }}</span>
        </template>
        <AppButton look="glyph" aria-label="Close (Escape)" title="Close (Escape)" @click="emit('close')"
          ><PhX :size="18" />
        </AppButton>
      </span>
    </header>
    <p v-if="fault || markFault" class="note losing" role="alert">{{ fault || markFault }}</p>
    <p v-if="marking" class="marking soft" role="status">Comparing …</p>
    <div class="panes">
      <div
        v-for="({ key, item, title, src, sha256 }, at) in panes"
        :key="key"
        class="pane"
        :class="{ movable: zoom > 0 }"
        @pointerdown="drag"
      >
        <span v-if="title" class="when figures">{{ title }}</span>
        <video v-if="item.kind === 'video'" :src="src" controls></video>
        <audio v-else-if="item.kind === 'audio'" :src="src" controls></audio>
        <img
          v-else-if="SHOWN_BY_BROWSERS.test(item.mime)"
          :src="src"
          :alt="title ? `${item.name}, ${title}` : item.words.alt || item.name"
          :style="styleOf(item)"
          draggable="false"
        />
        <DocumentReader v-else-if="item.kind === 'document' && !bytes" ref="reading" :item="item" />
        <ItemPicture
          v-else
          :sha256="sha256"
          :kind="item.kind"
          :name="item.name"
          :size="1280"
          :alt="item.words.alt || item.name"
        />
        <svg
          v-if="item.width && item.height && outlines(at).length > 0"
          class="marks"
          :viewBox="`0 0 ${item.width} ${item.height}`"
          :style="zoom ? styleOf(item) : { maxWidth: `${item.width}px`, maxHeight: `${item.height}px` }"
          aria-hidden="true"
        >
          <g v-for="(outline, number) in outlines(at)" :key="number" :class="{ part: 'part' in outline }">
            <rect
              v-for="line in ['edge', 'line']"
              :key="line"
              :class="line"
              :x="outline.x * item.width"
              :y="outline.y * item.height"
              :width="outline.w * item.width"
              :height="outline.h * item.height"
            />
          </g>
        </svg>
      </div>
    </div>
    <AppTable
      v-if="ids.length > 1"
      class="facts"
      role="status"
      label="Facts compared"
      :rows="compared"
      :columns="[
        { key: 'name', label: 'Fact', width: 120, silent: true },
        ...items.map((item, at) => ({ key: String(at), label: item.name, mono: true })),
      ]"
      :row-key="(row) => row.name"
      :row-class="(row) => (row.differs ? '' : 'same')"
    />
  </div>
</template>

<style scoped src="./LookCloser.css"></style>
