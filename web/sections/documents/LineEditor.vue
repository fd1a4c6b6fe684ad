<script setup lang="ts">
import { computed, useTemplateRef } from 'vue';
import { findIn, replaceAt, type Found } from '../../../core/document/find.ts';
import AppInput from '../../kit/AppInput.vue';
import { count } from '../../parts/words.ts';
import type { Replaceable } from '../../parts/reading/findable.ts';

/** A text as it is written, line by line. */
const props = defineProps<{ path: string; text: string; locked: boolean }>();
const emit = defineEmits<{ write: [text: string] }>();
const lines = computed(() => props.text.split('\n').length - (props.text.endsWith('\n') ? 1 : 0));

const field = useTemplateRef('field');
let places: Found[] = [];
defineExpose<Replaceable>({
  find(wanted, options) {
    places = findIn(props.text, wanted, options);
    return places.length;
  },
  show(at) {
    const area = field.value?.element();
    const one = places[at];
    if (!one || !(area instanceof HTMLTextAreaElement)) return '';
    const line = props.text.slice(0, one.from).split('\n').length;
    area.setSelectionRange(one.from, one.to);
    const height = area.scrollHeight / Math.max(1, props.text.split('\n').length);
    area.scrollTop = Math.max(0, (line - 4) * height);
    return `line ${line.toLocaleString('en')}`;
  },
  replace(at, by) {
    const one = places[at];
    if (one) emit('write', replaceAt(props.text, [one], by));
  },
  replaceAll(by) {
    if (places.length > 0) emit('write', replaceAt(props.text, places, by));
  },
  end() {
    places = [];
  },
});
</script>

<template>
  <div class="lines">
    <p class="soft figures">{{ count(lines, 'line') }}</p>
    <AppInput
      ref="field"
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
