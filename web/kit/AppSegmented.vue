<script setup lang="ts" generic="T extends string | number">
import { ElSegmented } from 'element-plus/es/components/segmented/index';
import 'element-plus/es/components/segmented/style/css';

/** A few ways to look at the same thing, of which one is taken. `label` says to screen readers what they are ways of. */
defineProps<{
  modelValue: T;
  options: readonly { value: T; label: string; count?: number }[];
  label: string;
}>();
const emit = defineEmits<{ 'update:modelValue': [value: T] }>();
</script>

<template>
  <ElSegmented
    class="app-segmented"
    :model-value="modelValue"
    :options="[...options]"
    :aria-label="label"
    @update:model-value="emit('update:modelValue', $event as T)"
  >
    <template #default="{ item }">
      {{ (item as { label: string }).label }}
      <span v-if="(item as { count?: number }).count !== undefined" class="figures soft">{{
        (item as { count: number }).count.toLocaleString('en')
      }}</span>
    </template>
  </ElSegmented>
</template>
