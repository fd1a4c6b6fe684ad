<script setup lang="ts" generic="T extends string | number | boolean">
import { ElRadio } from 'element-plus/es/components/radio/index';
import 'element-plus/es/components/radio/style/css';

/** One of a few, with its words beside it. Those of one `name` are one choice. */
defineProps<{ modelValue?: T; value: T; name: string; disabled?: boolean }>();
const emit = defineEmits<{ 'update:modelValue': [value: T]; change: [value: T] }>();
</script>

<template>
  <ElRadio
    class="app-radio"
    :model-value="modelValue"
    :value="value"
    :name="name"
    :disabled="disabled"
    @update:model-value="emit('update:modelValue', $event as T)"
    @change="emit('change', $event as T)"
  >
    <slot></slot>
  </ElRadio>
</template>
