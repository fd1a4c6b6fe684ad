<script setup lang="ts">
import { ElCheckbox } from 'element-plus/es/components/checkbox/index';
import 'element-plus/es/components/checkbox/style/css';

/** Yes or no, with its words beside it. */
defineProps<{ modelValue?: boolean; indeterminate?: boolean; disabled?: boolean }>();
const emit = defineEmits<{ 'update:modelValue': [value: boolean]; change: [value: boolean] }>();
</script>

<template>
  <ElCheckbox
    class="app-checkbox"
    :model-value="modelValue"
    :indeterminate="indeterminate"
    :disabled="disabled"
    @update:model-value="emit('update:modelValue', $event === true)"
    @change="emit('change', $event === true)"
  >
    <slot></slot>
  </ElCheckbox>
</template>
