<script setup lang="ts">
import { ElInput } from 'element-plus/es/components/input/index';
import 'element-plus/es/components/input/style/css';
import { onMounted, useTemplateRef } from 'vue';

/** A line of text, or several with `rows`; those grow with what is typed. `chars` makes it as wide as so many characters. */
const props = defineProps<{
  modelValue?: string | null;
  modelModifiers?: { trim?: true; lazy?: true };
  rows?: number;
  chars?: number;
  type?: 'text' | 'search' | 'url' | 'color' | 'password';
  /** When it is more than a field, as 'combobox'. */
  role?: string;
  disabled?: boolean;
  /** Takes the keyboard as soon as it stands there. */
  focused?: boolean;
}>();
const emit = defineEmits<{
  'update:modelValue': [value: string];
  input: [value: string];
  change: [value: string];
}>();
const field = useTemplateRef('field');
// The library keeps a role for itself.
onMounted(() => props.focused && field.value?.focus());
onMounted(() => props.role && field.value?.input?.setAttribute('role', props.role));
defineExpose({
  focus: () => field.value?.focus(),
  select: () => field.value?.select(),
  /** The element itself, to ask where its caret stands. */
  element: () => field.value?.textarea ?? field.value?.input,
});
</script>

<template>
  <ElInput
    ref="field"
    class="app-input"
    :model-value="modelValue"
    :model-modifiers="modelModifiers"
    :type="rows ? 'textarea' : (type ?? 'text')"
    :autosize="rows ? { minRows: rows, maxRows: 14 } : false"
    :style="{ width: chars ? `calc(${chars}ch + 20px)` : undefined, '--rows': rows }"
    :disabled="disabled"
    @update:model-value="emit('update:modelValue', $event)"
    @input="emit('input', $event)"
    @change="emit('change', $event)"
  >
    <template v-if="$slots['suffix']" #suffix><slot name="suffix"></slot></template>
  </ElInput>
</template>
