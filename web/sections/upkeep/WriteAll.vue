<script setup lang="ts">
import { computed, ref } from 'vue';
import { fieldFault, TEXT_FIELDS, type TextField } from '../../../core/describe/fields.ts';
import WordField from '../../parts/WordField.vue';
import { count } from '../../parts/words.ts';
import { usePlan } from '../../stores/plan.ts';
import AppButton from '../../kit/AppButton.vue';

/** What the records lack is written into all that are chosen; the plan shows each before it is written. */
const props = defineProps<{ field: TextField; ids: readonly number[] }>();
const plan = usePlan();
const text = ref('');
const ready = computed(
  () =>
    props.ids.length > 0 &&
    text.value.trim() !== '' &&
    fieldFault(props.field, text.value.trim()) === undefined,
);
async function write() {
  if (!ready.value) return;
  const edit = { edit: 'set' as const, text: text.value.trim() };
  await plan.propose({ kind: 'edit', itemIds: [...props.ids], field: props.field, edit });
}
</script>

<template>
  <form @submit.prevent="write">
    <WordField v-model="text" :field="field" />
    <AppButton look="main" type="submit" :disabled="!ready">
      Write {{ TEXT_FIELDS[field].name.toLowerCase() }} into {{ count(ids.length, 'item') }} …
    </AppButton>
  </form>
</template>

<style scoped>
form {
  display: flex;
  align-items: flex-end;
  gap: 10px;
}
form > :first-child {
  width: 220px;
}
</style>
