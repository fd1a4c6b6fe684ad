<script setup lang="ts">
import { useVirtualizer } from '@tanstack/vue-virtual';
import { computed, ref } from 'vue';
import type { PageView } from '../../../api/pages.ts';
import { fold } from '../../../core/find/marks.ts';
import { count, weight } from '../../parts/words.ts';
import AppButton from '../../kit/AppButton.vue';
import AppCheckbox from '../../kit/AppCheckbox.vue';
import AppInput from '../../kit/AppInput.vue';
import AppOption from '../../kit/AppOption.ts';
import AppSelect from '../../kit/AppSelect.vue';

/** The content files of the site, of any number: found by words, sorted by any of their facts. */
const props = defineProps<{ pages: readonly PageView[]; current: string; narrow: boolean }>();
const emit = defineEmits<{ open: [path: string] }>();

const SORTS = [
  ['path', 'by folder'],
  ['title', 'by title'],
  ['bytes', 'largest first'],
  ['placements', 'most placements first'],
  ['missingAlt', 'most without alt first'],
  ['broken', 'most broken first'],
] as const;
type Sort = (typeof SORTS)[number][0];
const words = ref('');
const sort = ref<Sort>('path');
const onlyCare = ref(false);
const onlyReading = ref(false);

const shown = computed(() => {
  const wanted = fold(words.value).split(/\s+/).filter(Boolean);
  const found = props.pages.filter((page) => {
    if (onlyCare.value && !page.broken && !page.missingAlt && !page.unread) return false;
    if (onlyReading.value && !/\.(x?html?|md|markdown)$/i.test(page.path)) return false;
    const text = fold(`${page.title} ${page.path}`);
    return wanted.every((word) => text.includes(word));
  });
  const by = sort.value;
  return found.sort((a, b) =>
    by === 'path' || by === 'title'
      ? a[by].localeCompare(b[by])
      : b[by] - a[by] || (a.path < b.path ? -1 : 1),
  );
});
const heaviest = computed(() => Math.max(1, ...props.pages.map((page) => page.bytes)));

const scroller = ref<HTMLElement>();
const virtual = useVirtualizer(
  computed(() => ({
    count: shown.value.length,
    getScrollElement: () => scroller.value ?? null,
    estimateSize: () => (props.narrow ? 44 : 34),
    overscan: 8,
    getItemKey: (index: number) => shown.value[index]!.path,
  })),
);
const rows = computed(() =>
  virtual.value.getVirtualItems().map((row) => ({ row, page: shown.value[row.index]! })),
);
function step(event: KeyboardEvent, index: number) {
  const to = { ArrowDown: index + 1, ArrowUp: index - 1, Home: 0, End: shown.value.length - 1 }[event.key];
  if (to === undefined || to < 0 || to >= shown.value.length) return;
  event.preventDefault();
  virtual.value.scrollToIndex(to);
  requestAnimationFrame(() =>
    scroller.value?.querySelector<HTMLElement>(`[data-index="${to}"] button`)?.focus(),
  );
}
</script>

<template>
  <div class="list" :class="{ narrow }">
    <div class="find">
      <label>
        <span class="hidden-words">Find pages</span>
        <AppInput v-model="words" type="search" placeholder="Search titles and paths" />
      </label>
      <label>
        <span class="hidden-words">Order of the pages</span>
        <AppSelect v-model="sort"
          ><AppOption v-for="[name, text] in SORTS" :key="name" :value="name" :label="text" />
        </AppSelect>
      </label>
      <AppCheckbox v-model="onlyCare"> With issues only</AppCheckbox>
      <AppCheckbox v-model="onlyReading"> HTML and Markdown only</AppCheckbox>
      <p class="soft figures" role="status">{{ count(shown.length, 'page') }}</p>
    </div>
    <div ref="scroller" class="scroller">
      <ul :style="{ height: `${virtual.getTotalSize()}px` }">
        <li
          v-for="{ row, page } in rows"
          :key="page.path"
          :data-index="row.index"
          :class="{ current: page.path === current }"
          :style="{ height: `${row.size}px`, transform: `translateY(${row.start}px)` }"
        >
          <AppButton
            look="tile"
            :aria-current="page.path === current ? 'page' : undefined"
            :title="`${page.title}\n${page.path}`"
            @click="emit('open', page.path)"
            @keydown="step($event, row.index)"
            ><span class="title">{{ page.title }}</span>
            <span class="mono soft path">{{ page.path }}</span>
            <template v-if="!narrow">
              <span class="bars"
                ><span
                  v-if="page.bytes"
                  class="bar"
                  :style="{ width: `${Math.max(2, (80 * page.bytes) / heaviest)}px` }"
                ></span
              ></span>
              <span class="figures">{{ page.bytes ? weight(page.bytes) : '' }}</span>
              <span class="figures">{{ page.placements ? count(page.placements, 'placement') : '' }}</span>
            </template>
            <span class="care figures"
              ><b v-if="page.unread" class="ochre">not read</b
              ><b v-else-if="page.missingAlt" class="ochre">{{ page.missingAlt }} without alt</b
              ><b v-if="page.broken" class="madder">{{ page.broken }} broken</b></span
            >
          </AppButton>
        </li>
      </ul>
    </div>
  </div>
</template>

<style scoped>
.list {
  display: flex;
  flex-direction: column;
  min-height: 0;
  flex: 1;
}
.find {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px 14px;
  padding: 8px 16px;
  border-bottom: 1px solid var(--rule);
}
.find p {
  margin: 0;
}
.find label:not(.app-checkbox) {
  width: 220px;
}
.narrow .find {
  padding: 8px 10px;
}
.narrow .find label {
  width: 100%;
}
.scroller {
  min-height: 0;
  flex: 1;
  overflow: auto;
}
ul {
  position: relative;
  margin: 0;
  padding: 0;
  list-style: none;
}
li {
  position: absolute;
  top: 0;
  left: 0;
  width: 100%;
  border-bottom: 1px solid var(--rule);
}
li.current {
  background: var(--verdigris-wash);
}
li button {
  display: grid;
  width: 100%;
  height: 100%;
  align-items: center;
  padding: 0 16px;
  border: 0;
  background: none;
  color: var(--ink);
  cursor: pointer;
  font: inherit;
  gap: 0 14px;
  grid-template-columns: minmax(0, 5fr) minmax(0, 4fr) 80px 64px 110px 190px;
  text-align: left;
}
.title,
.path {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.title {
  font-weight: 600;
}
.figures {
  text-align: right;
}
.care {
  display: flex;
  justify-content: flex-end;
  gap: 12px;
}
.narrow li button {
  align-content: center;
  padding: 0 10px;
  font-size: 13px;
  grid-template-columns: minmax(0, 1fr) auto;
  line-height: 1.3;
}
.narrow .title {
  grid-column: 1 / 3;
}
.narrow .path {
  font-size: 11.5px;
}
.narrow .care {
  font-size: 12px;
  gap: 8px;
}
.bar {
  display: inline-block;
  height: 8px;
  background: var(--rule-strong);
}
.ochre {
  color: var(--ochre);
}
.madder {
  color: var(--madder);
}
</style>
