<script setup lang="ts">
import { computed, useTemplateRef, watchEffect } from 'vue';
import type { Levels, Tone } from '../../../core/picture/recipe/recipe.ts';
import AppCheckbox from '../../kit/AppCheckbox.vue';
import AppNumber from '../../kit/AppNumber.vue';

/** Black point, mid-tone and white point beside how bright the image is. */
const props = defineProps<{
  modelValue: Tone['levels'];
  histogram: Uint32Array | undefined;
  /** Those that were found, where they are automatic. */
  found: Levels | undefined;
}>();
const emit = defineEmits<{ 'update:modelValue': [levels: Tone['levels']] }>();
const shown = computed<Levels>(() =>
  props.modelValue === 'auto'
    ? (props.found ?? { black: 0, mid: 128, white: 255 })
    : (props.modelValue ?? { black: 0, mid: 128, white: 255 }),
);
function set(which: keyof Levels, value: number | null) {
  if (value === null) return;
  const next = { ...shown.value, [which]: value };
  // The mid-tone stays where it was between the two others.
  if (which !== 'mid') {
    const { black, mid, white } = shown.value;
    next.mid = Math.round(next.black + ((mid - black) / (white - black)) * (next.white - next.black));
  }
  const black = Math.min(253, Math.max(0, next.black));
  const white = Math.min(255, Math.max(black + 2, next.white));
  emit('update:modelValue', { black, white, mid: Math.min(white - 1, Math.max(black + 1, next.mid)) });
}

const canvas = useTemplateRef('canvas');
watchEffect(
  () => {
    const context = canvas.value?.getContext('2d');
    const counts = props.histogram;
    if (!context || !counts) return;
    const { width, height } = context.canvas;
    context.clearRect(0, 0, width, height);
    const ink = getComputedStyle(context.canvas).color;
    context.fillStyle = ink;
    // The ends hold what is clipped and would press down all else.
    const most = Math.max(1, ...counts.subarray(1, 255));
    for (let level = 0; level < 256; level++) {
      const high = Math.min(height, (height * Math.sqrt(counts[level]! / most)) | 0);
      context.fillRect(level, height - high, 1, high);
    }
    const marks = getComputedStyle(context.canvas).getPropertyValue('--verdigris');
    context.fillStyle = marks;
    for (const at of [shown.value.black, shown.value.mid, shown.value.white])
      context.fillRect(at, 0, 1, height);
  },
  { flush: 'post' },
);
const WHICH = [
  ['black', 'Black'],
  ['mid', 'Mid-tone'],
  ['white', 'White'],
] as const;
</script>

<template>
  <div class="levels">
    <canvas
      ref="canvas"
      width="256"
      height="64"
      role="img"
      aria-label="How many pixels have each brightness"
    ></canvas>
    <div class="numbers">
      <label v-for="[which, name] in WHICH" :key="which"
        >{{ name }}
        <AppNumber :model-value="shown[which]" :min="0" :max="255" @update:model-value="set(which, $event)" />
      </label>
    </div>
    <AppCheckbox
      :model-value="modelValue === 'auto'"
      @update:model-value="emit('update:modelValue', $event ? 'auto' : undefined)"
      >Automatic</AppCheckbox
    >
  </div>
</template>

<style scoped>
canvas {
  display: block;
  width: 100%;
  height: 64px;
  background: var(--paper-sunk);
  color: var(--ink-soft);
}
.numbers {
  display: grid;
  grid-template-columns: repeat(3, 1fr);
  padding: 6px 0;
  gap: 8px;
}
label {
  font-size: 12.5px;
}
</style>
