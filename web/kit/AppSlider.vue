<script setup lang="ts">
import { ElSlider } from 'element-plus/es/components/slider/index';
import 'element-plus/es/components/slider/style/css';

/** A number between two ends, where the exact one does not matter. */
defineProps<{ modelValue: number; min: number; max: number; step: number; label: string }>();
const emit = defineEmits<{ 'update:modelValue': [value: number] }>();
</script>

<template>
  <ElSlider
    class="app-slider"
    :model-value="modelValue"
    :min="min"
    :max="max"
    :step="step"
    :aria-label="label"
    :show-tooltip="false"
    @update:model-value="emit('update:modelValue', $event as number)"
  />
</template>
