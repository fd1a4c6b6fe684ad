<script setup lang="ts">
import { ElOption, ElSelect } from 'element-plus/es/components/select/index';
import { ElTag } from 'element-plus/es/components/tag/index';
import 'element-plus/es/components/select/style/css';
import 'element-plus/es/components/option/style/css';
import 'element-plus/es/components/tag/style/css';
import { PhX } from '@phosphor-icons/vue';
import { useTemplateRef } from 'vue';
import { useScrollable } from './scrollable.ts';

/** Tags: those that are known are offered, others are made by typing them. Each says which one its cross removes. */
const { placeholder = 'Add a tag', pending = [] } = defineProps<{
  modelValue: string[];
  known: readonly string[];
  label: string;
  placeholder?: string;
  /** Those that somebody has still to agree to. */
  pending?: readonly string[];
}>();
const opened = useScrollable(useTemplateRef('list'));
const emit = defineEmits<{ 'update:modelValue': [tags: string[]]; change: [tags: string[]] }>();
</script>

<template>
  <ElSelect
    ref="list"
    append-to="#menus"
    class="app-select app-tags"
    multiple
    filterable
    allow-create
    default-first-option
    :reserve-keyword="false"
    :model-value="modelValue"
    :aria-label="label"
    :placeholder="placeholder"
    no-data-text="Type a tag and press Enter"
    @update:model-value="emit('update:modelValue', $event as string[])"
    @visible-change="opened"
    @change="emit('change', $event as string[])"
  >
    <template #tag="{ data, deleteTag }">
      <ElTag
        v-for="one in data"
        :key="String(one.value)"
        type="info"
        :class="{ pending: pending.includes(String(one.value)) }"
        disable-transitions
      >
        {{ one.currentLabel
        }}<span v-if="pending.includes(String(one.value))" class="hidden-words"> (suggested)</span>
        <button
          class="remove"
          type="button"
          :aria-label="`Remove tag ${one.currentLabel}`"
          @click.stop="deleteTag($event, one)"
        >
          <PhX :size="11" />
        </button>
      </ElTag>
    </template>
    <ElOption v-for="tag in known" :key="tag" :label="tag" :value="tag" />
  </ElSelect>
</template>
