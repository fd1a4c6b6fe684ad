<script setup lang="ts">
import { ref, watch } from 'vue';
import type { TextField } from '../../../core/describe/fields.ts';
import type { Words } from '../../../api/items.ts';
import AppDate from '../../kit/AppDate.vue';
import AppInput from '../../kit/AppInput.vue';

/** Words of one arrival, or of many at once. A field is told only once it has been changed. */
const props = defineProps<{
  fields: readonly (readonly [TextField | 'tags', string])[];
  values: Partial<Words>;
  /** Fields whose values differ among the arrivals that are meant. */
  differing?: readonly string[];
  /** Whose words they are, for names of fields that are read aloud. */
  whose: string;
}>();
const emit = defineEmits<{ change: [words: Partial<Words>] }>();

const texts = ref<Record<string, string>>({});
/** Being typed: what the server answers meanwhile may not take its place. */
const typing = ref('');
watch(
  () => props.values,
  (values) => {
    for (const [field] of props.fields)
      if (field !== typing.value)
        texts.value[field] = field === 'tags' ? (values.tags ?? []).join(', ') : (values[field] ?? '');
  },
  { immediate: true, deep: true },
);
function told(field: TextField | 'tags') {
  const text = texts.value[field] ?? '';
  typing.value = '';
  if (field === 'tags')
    emit('change', {
      tags: text
        .split(',')
        .map((tag) => tag.replace(/\s+/g, ' ').trim().slice(0, 80))
        .filter(Boolean),
    });
  else emit('change', { [field]: text.trim() });
}
</script>

<template>
  <div class="fields">
    <label v-for="[field, name] in fields" :key="field" :class="field">
      <span
        >{{ name }}<span class="hidden-words">{{ ` ${whose}` }}</span></span
      >
      <AppInput
        v-if="field === 'alt'"
        v-model="texts[field]"
        maxlength="2000"
        :rows="2"
        @input="typing = field"
        @change="told(field)"
      />
      <AppDate
        v-else-if="field === 'licenceEnd'"
        v-model="texts[field]"
        :placeholder="differing?.includes(field) ? '(different values)' : undefined"
        @change="told(field)"
      />
      <AppInput
        v-else
        v-model="texts[field]"
        maxlength="1000"
        :placeholder="
          differing?.includes(field)
            ? '(different values)'
            : field === 'tags'
              ? 'moon, open night'
              : undefined
        "
        @input="typing = field"
        @change="told(field)"
      />
    </label>
  </div>
</template>

<style scoped>
.fields {
  display: grid;
  flex: 1;
  gap: 8px 12px;
  grid-template-columns: repeat(auto-fill, minmax(150px, 1fr));
}
label {
  display: flex;
  min-width: 0;
  flex-direction: column;
  gap: 2px;
  font-size: 12.5px;
}
.alt {
  grid-column: span 2;
  grid-row: span 2;
}
</style>
