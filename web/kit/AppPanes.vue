<script setup lang="ts">
import { ElSplitter, ElSplitterPanel } from 'element-plus/es/components/splitter/index';
import 'element-plus/es/components/splitter/style/css';
import 'element-plus/es/components/splitter-panel/style/css';
import { useLocalStorage } from '@vueuse/core';
import { computed, provide, reactive, toRef } from 'vue';
import { PANE_EDGE } from './panes.ts';

/**
 * The work, and a pane before or after it whose width people set: by the pointer, or by the arrow keys on its edge, which
 * the pane draws (AppPaneEdge). The width is kept in this browser.
 */
const props = defineProps<{
  /** What the width is kept by. */
  name: string;
  side: 'start' | 'end';
  /** What the edge is called. */
  label: string;
  shown: boolean;
  /** In pixels, before anyone has set it. */
  width: number;
  min: number;
  max: number;
}>();
const size = useLocalStorage(`iconomos.width.${props.name}`, props.width);
const slots = computed(() =>
  !props.shown ? ['work'] : props.side === 'start' ? ['pane', 'work'] : ['work', 'pane'],
);
function resize(to: number | string | undefined) {
  size.value = Math.round(Math.min(props.max, Math.max(props.min, Number(to))));
}
function onKey(event: KeyboardEvent) {
  const by = { ArrowLeft: -16, ArrowRight: 16 }[event.key];
  if (by === undefined) return;
  event.preventDefault();
  event.stopPropagation();
  resize(size.value + (props.side === 'start' ? by : -by));
}
provide(
  PANE_EDGE,
  reactive({
    side: toRef(() => props.side),
    label: toRef(() => props.label),
    min: toRef(() => props.min),
    max: toRef(() => props.max),
    size,
    onKey,
  }),
);
</script>

<template>
  <ElSplitter class="app-panes">
    <template v-for="slot in slots" :key="slot">
      <ElSplitterPanel v-if="slot === 'work'" class="work"><slot></slot></ElSplitterPanel>
      <ElSplitterPanel
        v-else
        class="pane"
        :class="side"
        :size="size"
        :min="min"
        :max="max"
        :style="{ flexBasis: `${size}px` }"
        @update:size="resize"
      >
        <slot name="pane"></slot>
      </ElSplitterPanel>
    </template>
  </ElSplitter>
</template>
