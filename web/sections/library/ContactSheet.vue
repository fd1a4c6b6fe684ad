<script setup lang="ts">
import { useVirtualizer } from '@tanstack/vue-virtual';
import { computed, nextTick, onMounted, onUnmounted, ref, watch } from 'vue';
import type { ItemView } from '../../../api/items.ts';
import { justifiedRows } from '../../../core/picture/rows.ts';
import CareMarks from '../../parts/CareMarks.vue';
import ItemPicture from '../../parts/ItemPicture.vue';
import { count, USE_WORDS, weight } from '../../parts/words.ts';
import { useTray } from '../../stores/tray.ts';

const props = defineProps<{ items: ItemView[]; focused: number | undefined }>();
const emit = defineEmits<{ open: [item: ItemView | undefined]; more: [] }>();
const tray = useTray();

const scroller = ref<HTMLElement>();
const width = ref(0);
const observer = new ResizeObserver(([entry]) => (width.value = entry?.contentRect.width ?? 0));
onMounted(() => observer.observe(scroller.value!));
onUnmounted(() => observer.disconnect());
const GAP = 14;
const WORDS = 42;
const rows = computed(() =>
  width.value < 100
    ? []
    : justifiedRows(
        props.items.map((item) =>
          item.kind === 'image' && item.width && item.height ? item.width / item.height : 1,
        ),
        width.value,
        128,
        GAP,
        132,
      ),
);
const virtual = useVirtualizer(
  computed(() => ({
    count: rows.value.length,
    getScrollElement: () => scroller.value ?? null,
    estimateSize: (index: number) => (rows.value[index]?.height ?? 128) + WORDS + GAP,
    overscan: 4,
  })),
);
watch(rows, () => virtual.value.measure());
watch(
  () => virtual.value.getVirtualItems().at(-1)?.index,
  (last) => {
    if (last !== undefined && last >= rows.value.length - 3) emit('more');
  },
);

/** Index of the item that the keys are on. */
const current = ref(0);
watch(
  () => props.focused,
  (id) => {
    const index = props.items.findIndex((item) => item.id === id);
    if (index >= 0) current.value = index;
  },
  { immediate: true },
);

async function go(index: number) {
  current.value = Math.min(props.items.length - 1, Math.max(0, index));
  const row = rows.value.findIndex((one) => one.places.some((place) => place.index === current.value));
  virtual.value.scrollToIndex(row);
  await nextTick();
  const target = scroller.value?.querySelector<HTMLElement>(`[data-index="${current.value}"]`);
  target?.focus();
  // With the record open, the record follows.
  if (props.focused !== undefined) emit('open', props.items[current.value]);
}

/** The picture above or below: the one whose middle is nearest. */
function vertical(step: 1 | -1): number {
  const at = rows.value.findIndex((row) => row.places.some((place) => place.index === current.value));
  const to = rows.value[at + step];
  if (!to) return current.value;
  const middle = (row: (typeof rows.value)[number], index: number) => {
    let x = 0;
    for (const place of row.places) {
      if (place.index === index) return x + place.width / 2;
      x += place.width + GAP;
    }
    return x;
  };
  const from = middle(rows.value[at]!, current.value);
  return to.places.reduce(
    (best, place) =>
      Math.abs(middle(to, place.index) - from) < Math.abs(middle(to, best) - from) ? place.index : best,
    to.places[0]!.index,
  );
}

function onKey(event: KeyboardEvent) {
  const item = props.items[current.value];
  const act = {
    ArrowRight: () => go(current.value + 1),
    ArrowLeft: () => go(current.value - 1),
    ArrowDown: () => go(vertical(1)),
    ArrowUp: () => go(vertical(-1)),
    Home: () => go(0),
    End: () => go(props.items.length - 1),
    ' ': () => item && tray.toggle(item),
  }[event.key];
  if (!act || event.ctrlKey || event.metaKey || event.altKey) return;
  event.preventDefault();
  void act();
}
</script>

<template>
  <div ref="scroller" class="scroller" role="group" aria-label="Items" @keydown="onKey">
    <div :style="{ height: `${virtual.getTotalSize()}px`, position: 'relative' }">
      <div
        v-for="line in virtual.getVirtualItems()"
        :key="line.index"
        class="row"
        :style="{ transform: `translateY(${line.start}px)` }"
      >
        <div
          v-for="place in rows[line.index]?.places ?? []"
          :key="items[place.index]?.id ?? place.index"
          class="place"
          :style="{ width: `${place.width}px` }"
        >
          <template v-if="items[place.index]">
            <button
              type="button"
              class="picture"
              :class="{
                open: items[place.index]!.id === focused,
                gathered: tray.has(items[place.index]!.id),
              }"
              :data-index="place.index"
              :tabindex="place.index === current ? 0 : -1"
              :aria-label="`${items[place.index]!.name}, ${items[place.index]!.words.alt || 'no alt text'}, ${USE_WORDS[items[place.index]!.use]}`"
              :aria-pressed="items[place.index]!.id === focused"
              :style="{ height: `${rows[line.index]!.height}px` }"
              :title="`${items[place.index]!.path}\n${weight(items[place.index]!.bytes)}${items[place.index]!.width ? `, ${items[place.index]!.width} × ${items[place.index]!.height} px` : ''}, ${count(items[place.index]!.placements, 'placement')}`"
              @click="((current = place.index), emit('open', items[place.index]))"
            >
              <ItemPicture
                :sha256="items[place.index]!.sha256"
                :kind="items[place.index]!.kind"
                :name="items[place.index]!.name"
                :placeholder="items[place.index]!.placeholder"
              />
            </button>
            <label class="tick">
              <input
                type="checkbox"
                :checked="tray.has(items[place.index]!.id)"
                tabindex="-1"
                :aria-label="`Gather ${items[place.index]!.name}`"
                @change="tray.toggle(items[place.index]!)"
              />
            </label>
            <div class="words">
              <span class="mono name">{{ items[place.index]!.name }}</span>
              <span class="line figures soft">
                <CareMarks :marks="items[place.index]!.marks" />
                {{
                  items[place.index]!.width && items[place.index]!.kind !== 'document'
                    ? `${items[place.index]!.width} × ${items[place.index]!.height}`
                    : weight(items[place.index]!.bytes)
                }}
              </span>
            </div>
          </template>
        </div>
      </div>
    </div>
  </div>
</template>

<style scoped>
.scroller {
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
.place {
  position: relative;
  flex: none;
}
.picture {
  display: block;
  width: 100%;
  padding: 0;
  border: 0;
  background: none;
  cursor: pointer;
}
.picture.open {
  outline: 3px solid var(--verdigris);
  outline-offset: 1px;
}
.picture.gathered {
  box-shadow: 0 0 0 3px var(--verdigris);
}
.tick {
  position: absolute;
  top: 0;
  left: 0;
  display: none;
  width: 28px;
  height: 28px;
  place-items: center;
}
.tick input {
  width: 18px;
  height: 18px;
  margin: 0;
  accent-color: var(--verdigris);
}
.place:hover .tick,
.place:focus-within .tick,
.tick:has(:checked) {
  display: grid;
}
.words {
  padding-top: 3px;
}
.name {
  display: block;
  overflow: hidden;
  font-size: 11.5px;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.line {
  display: flex;
  align-items: center;
  justify-content: space-between;
  font-size: 11.5px;
}
</style>
