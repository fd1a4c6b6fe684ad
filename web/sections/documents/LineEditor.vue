<script setup lang="ts">
import { computed } from 'vue';
import AppInput from '../../kit/AppInput.vue';
import { count } from '../../parts/words.ts';

/** A text as it is written, line by line. */
const props = defineProps<{ path: string; text: string; locked: boolean }>();
const emit = defineEmits<{ write: [text: string] }>();
const lines = computed(() => props.text.split('\n').length - (props.text.endsWith('\n') ? 1 : 0));
</script>

<template>
  <div class="lines">
    <p class="soft figures">{{ count(lines, 'line') }}</p>
    <AppInput
      :model-value="text"
      :rows="20"
      :readonly="locked"
      spellcheck="false"
      :aria-label="`Text of ${path}`"
      @update:model-value="emit('write', $event)"
    />
  </div>
</template>

<style scoped>
.lines {
  display: flex;
  min-width: 0;
  min-height: 0;
  flex-direction: column;
  padding: 8px 24px 16px;
  gap: 8px;
}
.lines > p {
  margin: 0;
}
.lines :deep(.el-textarea) {
  min-height: 0;
  flex: 1;
}
.lines :deep(textarea) {
  height: 100% !important;
  max-height: none;
  font: 14px/1.5 var(--mono);
  resize: none;
  white-space: pre;
}
</style>
