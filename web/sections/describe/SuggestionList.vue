<script setup lang="ts">
import { computed, ref } from 'vue';
import type { DescribeView } from '../../../api/items.ts';
import AppButton from '../../kit/AppButton.vue';

/** Words from real sources, as quotations with where they come from: taken by a click, by Enter, or by their number. */
const props = defineProps<{
  suggestions: DescribeView['suggestions'];
  field: 'alt' | 'title' | 'caption';
  unnumbered?: boolean;
}>();
const emit = defineEmits<{ take: [text: string]; leave: [] }>();
const list = ref<HTMLElement>();
const shown = computed(() =>
  props.suggestions.filter((one) => one.field === props.field).slice(0, props.unnumbered ? 2 : 6),
);
const buttons = () => [...(list.value?.querySelectorAll<HTMLElement>('button') ?? [])];
function walk(event: KeyboardEvent) {
  const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
  if (event.key === 'Escape') emit('leave');
  else if (step !== undefined) {
    const all = buttons();
    const at = all.indexOf(document.activeElement as HTMLElement) + step;
    if (at < 0) emit('leave');
    else all[Math.min(all.length - 1, at)]?.focus();
  } else return;
  event.preventDefault();
  event.stopPropagation();
}
/** Goes to the first of them. False: there is none. */
function enter(): boolean {
  const [first] = buttons();
  first?.focus();
  return first !== undefined;
}
/** Takes the nth, from 1. */
function take(number: number): boolean {
  const one = shown.value[number - 1];
  if (one) emit('take', one.text);
  return one !== undefined;
}
defineExpose({ enter, take });
</script>

<template>
  <ol
    v-if="shown.length"
    ref="list"
    class="suggestions"
    :aria-label="`Suggestions for the ${field === 'alt' ? 'alt text' : field}`"
    @keydown="walk"
  >
    <li v-for="(one, index) in shown" :key="one.text">
      <AppButton look="tile" @click="emit('take', one.text)"
        ><kbd v-if="!unnumbered">{{ index + 1 }}</kbd
        ><span v-else aria-hidden="true">↥</span>
        <span
          ><q>{{ one.text }}</q>
          <span class="soft source"
            >{{ one.source }}, {{ Math.round(one.confidence * 100) }} % sure</span
          ></span
        >
      </AppButton>
    </li>
  </ol>
</template>

<style scoped>
.suggestions {
  padding: 0;
  margin: 0;
  list-style: none;
}
button {
  display: grid;
  width: 100%;
  min-height: 30px;
  align-items: baseline;
  padding: 3px 6px;
  border: 0;
  border-bottom: 1px solid var(--rule);
  background: none;
  cursor: pointer;
  font-size: 13.5px;
  gap: 8px;
  grid-template-columns: 22px 1fr;
  text-align: left;
}
button:hover {
  background: var(--verdigris-wash);
}
.source {
  margin-left: 6px;
  font-size: 12.5px;
}
</style>
