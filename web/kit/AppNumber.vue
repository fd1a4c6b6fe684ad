<script setup lang="ts">
import { ElInputNumber } from 'element-plus/es/components/input-number/index';
import 'element-plus/es/components/input-number/style/css';
import 'element-plus/es/components/input/style/css';

/** A number, or nothing. It is told while it is typed; up and down arrows change it by one step. */
defineProps<{
  modelValue?: number | null;
  min?: number;
  max?: number;
  step?: number;
  /** How many digits may follow the point. */
  precision?: number;
  disabled?: boolean;
}>();
const emit = defineEmits<{ 'update:modelValue': [value: number | null]; change: [value: number | null] }>();
</script>

<template>
  <ElInputNumber
    class="app-number"
    :model-value="modelValue"
    :min="min"
    :max="max"
    :step="step"
    :precision="precision ?? 0"
    :disabled="disabled"
    :controls="false"
    align="left"
    @update:model-value="emit('update:modelValue', $event ?? null)"
    @change="emit('change', $event ?? null)"
  />
</template>
