<script setup lang="ts">
import { computed } from 'vue';
import { TEXT_FIELDS, fieldFault, type FieldKind, type TextField } from '../../core/describe/fields.ts';
import AppDate from '../kit/AppDate.vue';
import AppInput from '../kit/AppInput.vue';

/** One text of a record, as its kind is written. What cannot be kept is told, and not told on. */
const props = defineProps<{ field: TextField }>();
const emit = defineEmits<{ touch: []; save: [] }>();
const text = defineModel<string>({ required: true });
const kind = computed<FieldKind>(() => TEXT_FIELDS[props.field]);
const fault = computed(() => fieldFault(props.field, text.value.trim()));
const LANGUAGES = ['en', 'de', 'fr', 'es', 'it', 'pt', 'nl', 'da', 'sv', 'nb', 'fi', 'pl', 'cs', 'ja', 'zh'];
const names = new Intl.DisplayNames('en', { type: 'language' });
const hints: Partial<Record<FieldKind['form'], string>> = {
  moment: '2026-08-12 or 2026-08-12T23:14',
  language: 'en, de-CH …',
};
</script>

<template>
  <label>
    <span>{{ kind.name }}</span>
    <AppInput
      v-if="kind.form === 'lines'"
      v-model="text"
      :maxlength="kind.longest"
      :rows="2"
      @input="emit('touch')"
      @change="emit('save')"
    />
    <AppDate
      v-else-if="kind.form === 'day'"
      v-model="text"
      :aria-label="kind.name"
      @change="fault || (emit('touch'), emit('save'))"
    />
    <AppInput
      v-else
      v-model="text"
      :maxlength="kind.longest"
      :placeholder="hints[kind.form] ?? ''"
      :list="kind.form === 'language' ? 'languages' : undefined"
      :aria-invalid="fault !== undefined"
      @input="fault || emit('touch')"
      @change="fault || emit('save')"
    />
    <datalist v-if="kind.form === 'language'" id="languages">
      <option v-for="one in LANGUAGES" :key="one" :value="one">{{ names.of(one) }}</option>
    </datalist>
    <span v-if="fault" class="fault" role="alert">{{ fault }}</span>
  </label>
</template>

<style scoped>
label {
  display: flex;
  flex-direction: column;
  gap: 2px;
}
label > span:first-child {
  font-size: 12.5px;
  font-weight: 600;
}
.fault {
  color: var(--madder);
  font-size: 12.5px;
}
</style>
