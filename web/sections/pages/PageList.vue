<script setup lang="ts">
import { useVirtualizer } from '@tanstack/vue-virtual';
import { computed, ref } from 'vue';
import type { PageView } from '../../../api/pages.ts';
import { folderOf } from '../../../core/address/path.ts';
import { fold } from '../../../core/find/marks.ts';
import { count, weight } from '../../parts/words.ts';

/** The content files of the site, of any number: found by words, sorted by any of their facts. */
const props = defineProps<{ pages: readonly PageView[]; current: string; narrow: boolean }>();
const emit = defineEmits<{ open: [path: string] }>();

const SORTS = [
  ['path', 'by folder'],
  ['title', 'by title'],
  ['bytes', 'heaviest first'],
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
    estimateSize: () => 58,
    overscan: 8,
    getItemKey: (index: number) => shown.value[index]!.path,
  })),
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
        <input v-model="words" type="search" placeholder="Words in titles and paths" />
      </label>
      <label>
        <span class="hidden-words">Order of the pages</span>
        <select v-model="sort">
          <option v-for="[name, text] in SORTS" :key="name" :value="name">{{ text }}</option>
        </select>
      </label>
      <label class="tick"><input v-model="onlyCare" type="checkbox" /> only those that need care</label>
      <label class="tick"><input v-model="onlyReading" type="checkbox" /> only HTML and Markdown</label>
      <p class="soft figures" role="status">{{ count(shown.length, 'page') }}</p>
    </div>
    <div ref="scroller" class="scroller">
      <ul :style="{ height: `${virtual.getTotalSize()}px` }">
        <li
          v-for="row in virtual.getVirtualItems()"
          :key="String(row.key)"
          :data-index="row.index"
          :class="{ current: shown[row.index]!.path === current }"
          :style="{ transform: `translateY(${row.start}px)` }"
        >
          <button
            type="button"
            :aria-current="shown[row.index]!.path === current ? 'page' : undefined"
            @click="emit('open', shown[row.index]!.path)"
            @keydown="step($event, row.index)"
          >
            <span class="title">{{ shown[row.index]!.title }}</span>
            <span class="mono soft path">{{
              narrow ? shown[row.index]!.path : folderOf(shown[row.index]!.path) || '/'
            }}</span>
            <span class="facts figures">
              <span class="bars"
                ><span
                  v-if="shown[row.index]!.bytes"
                  class="bar"
                  :style="{
                    width: `${Math.max(2, ((narrow ? 40 : 120) * shown[row.index]!.bytes) / heaviest)}px`,
                  }"
                ></span
              ></span>
              <span>{{ shown[row.index]!.bytes ? weight(shown[row.index]!.bytes) : '' }}</span>
              <span>{{
                shown[row.index]!.placements ? count(shown[row.index]!.placements, 'placement') : ''
              }}</span>
              <b class="ochre">{{
                shown[row.index]!.unread
                  ? 'not read'
                  : shown[row.index]!.missingAlt
                    ? `${shown[row.index]!.missingAlt} without alt`
                    : ''
              }}</b>
              <b class="madder">{{ shown[row.index]!.broken ? `${shown[row.index]!.broken} broken` : '' }}</b>
            </span>
          </button>
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
.find input[type='search'] {
  width: 240px;
  padding: 4px 8px;
}
.find p {
  margin: 0;
}
.narrow .find input[type='search'] {
  width: 100%;
}
.narrow .find label:not(.tick) {
  flex: 1;
  min-width: 100px;
}
.narrow .find select {
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
  height: 58px;
  border-bottom: 1px solid var(--rule);
}
li.current {
  background: var(--verdigris-wash);
}
li button {
  display: grid;
  width: 100%;
  height: 100%;
  padding: 4px 16px;
  grid-template-columns: minmax(0, 1fr) auto;
  align-content: center;
  border: 0;
  background: none;
  color: var(--ink);
  font: inherit;
  text-align: left;
  cursor: pointer;
}
.title {
  overflow: hidden;
  font-weight: 600;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.path {
  grid-row: 2;
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.facts {
  display: grid;
  grid-column: 2;
  grid-row: 1 / 3;
  grid-template-columns: 124px 64px 110px 104px 76px;
  align-items: center;
  align-self: center;
  gap: 12px;
  text-align: right;
}
.bars {
  text-align: left;
}
.narrow li {
  height: 58px;
}
.narrow .facts {
  display: flex;
  grid-column: 1 / 3;
  grid-row: 3;
  gap: 8px;
  font-size: 12px;
}
.narrow li button {
  line-height: 1.25;
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
