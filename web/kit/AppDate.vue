<script setup lang="ts">
import { ElInput } from 'element-plus/es/components/input/index';
import 'element-plus/es/components/input/style/css';

/** A day as 2026-11-27, or nothing. Typed or chosen as the browser's own language writes days. */
defineProps<{ modelValue?: string | null; disabled?: boolean }>();
const emit = defineEmits<{ 'update:modelValue': [value: string]; change: [value: string] }>();
</script>

<template>
  <ElInput
    class="app-input app-date"
    type="date"
    :model-value="modelValue ?? ''"
    :disabled="disabled"
    @update:model-value="emit('update:modelValue', $event)"
    @change="emit('change', $event)"
  />
</template>
