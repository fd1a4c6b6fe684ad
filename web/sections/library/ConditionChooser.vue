<script setup lang="ts">
import { computed, nextTick, onMounted, ref } from 'vue';
import type { FacetsView } from '../../../api/items.ts';
import type { Condition } from '../../../core/find/query.ts';
import { takes, TESTS, type Test, type TestName } from '../../../core/find/tests.ts';
import { api, sentenceOf, type Query } from '../../api/client.ts';
import { choiceText, TEST_GROUPS, unitOf } from './labels.ts';

/** Chooses a condition: first what to ask, then the answer, with how many items would remain. */
const props = defineProps<{ query: Query; start?: TestName | undefined }>();
const emit = defineEmits<{ choose: [condition: Condition]; close: [] }>();
const test = ref<TestName | undefined>(props.start);
const not = ref(false);
const text = ref('');
const facets = ref<FacetsView>();
const fault = ref('');
const panel = ref<HTMLElement>();

onMounted(async () => {
  void focusFirst();
  try {
    facets.value = await api.facets(props.query);
  } catch (error) {
    fault.value = sentenceOf(error);
  }
});
async function focusFirst() {
  await nextTick();
  panel.value?.querySelector<HTMLElement>('.first, input:not([type=checkbox])')?.focus();
}
function ask(name: TestName) {
  test.value = name;
  text.value = '';
  void focusFirst();
}
const spec = computed<Test | undefined>(() => test.value && TESTS[test.value]);
const label = computed(
  () => TEST_GROUPS.flatMap(([, tests]) => tests).find(([name]) => name === test.value)?.[1] ?? '',
);
const listed = computed(() =>
  ['choice', 'tag', 'folder', 'month', 'person', 'none'].includes(spec.value?.value ?? ''),
);
const choices = computed(() => {
  const found = (test.value && facets.value?.[test.value]) ?? [];
  const word = text.value.trim().toLowerCase();
  return word ? found.filter((one) => one.value.toLowerCase().includes(word)) : found;
});
const typed = computed(() => {
  const value = text.value.trim();
  if (spec.value?.value === 'bytes') return value === '' ? '' : String(Math.round(Number(value) * 1e6));
  return value;
});
const ready = computed(() => test.value !== undefined && takes(test.value, typed.value));
function choose(value: string) {
  emit('choose', { test: test.value!, value, not: not.value });
}
/** Arrow keys walk through the choices. */
function walk(event: KeyboardEvent) {
  const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
  if (!step) return;
  const all = [...panel.value!.querySelectorAll<HTMLElement>('button.choice')];
  const at = all.indexOf(document.activeElement as HTMLElement);
  all[Math.min(all.length - 1, Math.max(0, at + step))]?.focus();
  event.preventDefault();
}
</script>

<template>
  <div
    ref="panel"
    class="chooser"
    role="dialog"
    aria-label="A condition"
    @keydown.escape.stop="emit('close')"
    @keydown="walk"
  >
    <div v-if="!test" class="tests">
      <div v-for="([group, tests], at) in TEST_GROUPS" :key="group">
        <h2>{{ group }}</h2>
        <button
          v-for="([name, words], place) in tests"
          :key="name"
          class="choice"
          :class="{ first: at === 0 && place === 0 }"
          type="button"
          @click="ask(name)"
        >
          {{ words }}
        </button>
      </div>
    </div>
    <div v-else class="values">
      <div class="head">
        <button class="link" type="button" @click="((test = undefined), focusFirst())">Back</button>
        <strong>{{ label }}</strong>
        <label><input v-model="not" type="checkbox" /> turned round (not)</label>
      </div>
      <form v-if="!listed || choices.length > 12 || text" @submit.prevent="ready && choose(typed)">
        <input
          v-model="text"
          :type="
            spec!.value === 'date'
              ? 'date'
              : ['pixels', 'bytes', 'seconds'].includes(spec!.value)
                ? 'number'
                : 'text'
          "
          min="0"
          step="any"
          :aria-label="`${label}${unitOf(test) ? `, in ${unitOf(test)}` : ''}`"
        />
        <span class="soft">{{ unitOf(test) }}</span>
        <button v-if="!listed" class="act" type="submit" :disabled="!ready">Add</button>
      </form>
      <p v-if="fault" class="note losing">{{ fault }}</p>
      <p v-else-if="listed && !facets" class="soft">Counting …</p>
      <div v-else-if="listed" class="list">
        <button
          v-for="(one, at) in choices"
          :key="one.value"
          class="choice"
          :class="{ first: at === 0 }"
          type="button"
          :disabled="one.items === 0 && !not"
          @click="choose(one.value)"
        >
          <span>{{ choiceText(test, one.value) }}</span><span class="figures soft">{{
            one.items.toLocaleString('en')
          }}</span>
        </button>
        <p v-if="choices.length === 0" class="soft">None of these items has one.</p>
      </div>
    </div>
    <button class="link close" type="button" @click="emit('close')">Close</button>
  </div>
</template>

<style scoped>
.chooser {
  position: absolute;
  z-index: 5;
  top: 100%;
  left: 0;
  display: flex;
  max-width: min(640px, 90vw);
  flex-direction: column;
  padding: 12px 14px;
  border: 1px solid var(--rule-strong);
  background: var(--paper-raised);
  gap: 8px;
}
.tests {
  display: flex;
  gap: 22px;
}
.tests > div {
  display: flex;
  flex-direction: column;
  align-items: stretch;
  white-space: nowrap;
}
h2 {
  font-size: 12.5px;
  letter-spacing: 0.03em;
  padding-bottom: 4px;
  color: var(--ink-soft);
}
.choice {
  display: flex;
  min-height: 26px;
  align-items: center;
  justify-content: space-between;
  padding: 2px 6px;
  border: 0;
  background: none;
  color: var(--verdigris);
  cursor: pointer;
  font: inherit;
  gap: 18px;
  text-align: left;
}
.choice:hover:not(:disabled) {
  background: var(--verdigris-wash);
}
.choice:disabled {
  color: var(--ink-soft);
  cursor: default;
}
.values {
  display: flex;
  min-width: 280px;
  flex-direction: column;
  gap: 8px;
}
.head {
  display: flex;
  align-items: center;
  gap: 12px;
}
.head label {
  margin-left: auto;
  white-space: nowrap;
}
form {
  display: flex;
  align-items: center;
  gap: 8px;
}
form input {
  height: 30px;
  flex: 1;
  padding: 0 8px;
  border: 1px solid var(--rule-strong);
  border-radius: 2px;
  background: var(--paper);
}
.list {
  display: flex;
  max-height: 320px;
  flex-direction: column;
  overflow: auto;
}
.close {
  align-self: flex-end;
}
</style>
