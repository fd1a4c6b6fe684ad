<script setup lang="ts">
import { computed, onBeforeUnmount, ref, watch } from 'vue';
import AppButton from '../../kit/AppButton.vue';
import AppCheckbox from '../../kit/AppCheckbox.vue';
import AppInput from '../../kit/AppInput.vue';
import type { Findable, Replaceable } from './findable.ts';

/** Finds words in a document and, where it can be edited, puts others in their place. */
const props = defineProps<{
  document: Findable;
  /** What is written in it now. */
  text?: string;
  editor?: Replaceable | undefined;
}>();
const emit = defineEmits<{ close: [] }>();
const words = ref('');
const by = ref('');
const exact = ref(false);
const whole = ref(false);
const total = ref(0);
const at = ref(0);
const where = ref('');
const searching = ref(false);
let asked = 0;
async function look(from = at.value) {
  const mine = ++asked;
  const answer = props.document.find(words.value, { exact: exact.value, whole: whole.value }, (found) => {
    if (mine === asked) ({ total: total.value, at: at.value, where: where.value } = found);
  });
  if (typeof answer !== 'number') {
    searching.value = true;
    const found = await answer;
    if (mine !== asked) return;
    searching.value = false;
    total.value = found;
  } else total.value = answer;
  at.value = total.value === 0 ? 0 : ((from % total.value) + total.value) % total.value;
  where.value = total.value === 0 ? '' : props.document.show(at.value);
}
watch([words, exact, whole], () => void look(0));
// What is written meanwhile counts too.
watch(
  () => props.text,
  () => void look(),
  // The editor has it only then.
  { flush: 'post' },
);
const said = computed(() => {
  if (words.value === '') return '';
  if (total.value === 0) return searching.value ? 'Searching …' : 'Not found';
  return `${(at.value + 1).toLocaleString('en')} of ${total.value.toLocaleString('en')}${where.value ? `, ${where.value}` : ''}`;
});
function replace() {
  props.editor?.replace(at.value, by.value);
}
onBeforeUnmount(() => {
  asked++;
  props.document.end();
});
</script>

<template>
  <form
    class="find"
    role="search"
    :aria-label="editor ? 'Find and replace' : 'Find'"
    @submit.prevent="void look(at + 1)"
    @keydown.escape.stop.prevent="emit('close')"
  >
    <label
      ><span class="hidden-words">Words in this document</span
      ><AppInput v-model="words" focused :chars="16" placeholder="Find"
    /></label>
    <AppButton type="submit" :disabled="total === 0">Next</AppButton>
    <AppButton :disabled="total === 0" @click="void look(at - 1)">Previous</AppButton>
    <template v-if="editor">
      <label
        ><span class="hidden-words">Replace with</span
        ><AppInput v-model="by" :chars="16" placeholder="Replace with"
      /></label>
      <AppButton :disabled="total === 0" @click="replace">Replace</AppButton>
      <AppButton :disabled="total === 0" @click="editor.replaceAll(by)">Replace all</AppButton>
    </template>
    <AppCheckbox v-model="exact">Match case</AppCheckbox>
    <AppCheckbox v-model="whole">Whole words</AppCheckbox>
    <span class="soft figures" role="status">{{ said }}</span>
    <AppButton look="link" @click="emit('close')">Close search</AppButton>
  </form>
</template>

<style scoped>
.find {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  padding: 8px 24px;
  border-bottom: 1px solid var(--rule);
  gap: 6px 10px;
}
</style>
