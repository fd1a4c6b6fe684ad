<script setup lang="ts">
import { useTemplateRef } from 'vue';
import AppButton from './AppButton.vue';

/** A button that asks the machine for files. */
defineProps<{
  accept?: string;
  multiple?: boolean;
  folder?: boolean;
  look?: 'main' | 'plain' | 'link';
  disabled?: boolean;
}>();
const emit = defineEmits<{ files: [files: File[]] }>();
const field = useTemplateRef('field');
function chosen() {
  const files = [...(field.value?.files ?? [])];
  // The same file may be chosen again.
  if (field.value) field.value.value = '';
  if (files.length > 0) emit('files', files);
}
</script>

<template>
  <span class="app-file">
    <AppButton :look="look" :disabled="disabled" @click="field?.click()"><slot></slot></AppButton>
    <input
      ref="field"
      class="hidden-words"
      type="file"
      tabindex="-1"
      aria-hidden="true"
      :accept="accept"
      :multiple="multiple"
      :webkitdirectory="folder"
      :disabled="disabled"
      @change="chosen"
    />
  </span>
</template>
