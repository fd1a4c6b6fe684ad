<script setup lang="ts" generic="T extends string | number | null | undefined">
import { ElSelect } from 'element-plus/es/components/select/index';
import 'element-plus/es/components/select/style/css';
import 'element-plus/es/components/tag/style/css';
import { useTemplateRef } from 'vue';
import { useScrollable } from './scrollable.ts';

/** One of a few, given as AppOption. `chars` makes it as wide as so many characters; otherwise it takes the width that there is. */
defineProps<{ modelValue?: T; chars?: number; disabled?: boolean }>();
const opened = useScrollable(useTemplateRef('list'));
const emit = defineEmits<{ 'update:modelValue': [value: NonNullable<T>]; change: [value: NonNullable<T>] }>();
</script>

<template>
  <ElSelect
    ref="list"
    append-to="#menus"
    :persistent="false"
    class="app-select"
    :model-value="modelValue"
    :empty-values="[null, undefined]"
    :style="chars ? { width: `calc(${chars}ch + 44px)` } : undefined"
    :disabled="disabled"
    @update:model-value="emit('update:modelValue', $event)"
    @visible-change="opened"
    @change="emit('change', $event)"
  >
    <slot></slot>
  </ElSelect>
</template>
