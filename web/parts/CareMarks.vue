<script setup lang="ts">
import type { Marks } from '../../api/items.ts';
import { MARK_WORDS } from './words.ts';

defineProps<{ marks: Marks }>();
const NAMES = ['described', 'named', 'filed', 'placed'] as const;
/** One family: the shape tells the mark, the fill tells done. */
const SHAPES = {
  described: 'M1.5 2.5h10v6h-6l-2.5 2.5v-2.5h-1.5z',
  named: 'M1.5 3.5h6.5l3.5 3-3.5 3h-6.5z',
  filed: 'M1.5 3h4l1.2 1.5h4.8v6h-10z',
  placed: 'M6.5 1.2a3.6 3.6 0 0 1 3.6 3.6c0 2.6-3.6 6.6-3.6 6.6s-3.6-4-3.6-6.6a3.6 3.6 0 0 1 3.6-3.6z',
};
</script>

<template>
  <span
    class="marks"
    role="img"
    :aria-label="NAMES.map((name) => MARK_WORDS[name][marks[name] ? 0 : 1]).join(', ')"
  >
    <svg
      v-for="name in NAMES"
      :key="name"
      viewBox="0 0 13 13"
      width="13"
      height="13"
      :class="{ done: marks[name] }"
      aria-hidden="true"
    >
      <title>{{ MARK_WORDS[name][marks[name] ? 0 : 1] }}</title>
      <path :d="SHAPES[name]" />
    </svg>
  </span>
</template>

<style scoped>
.marks {
  display: inline-flex;
  flex: none;
  gap: 2px;
}
path {
  fill: none;
  stroke: var(--ochre);
  stroke-width: 1.2;
}
.done path {
  fill: var(--verdigris);
  stroke: var(--verdigris);
}
</style>
