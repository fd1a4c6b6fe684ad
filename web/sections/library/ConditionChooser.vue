<script setup lang="ts">
import { computed, nextTick, onMounted, ref, shallowRef, watch } from 'vue';
import type { FacetsView, ItemView } from '../../../api/items.ts';
import { readQuery, writeQuery, type Condition } from '../../../core/find/query.ts';
import { takes, TESTS, type Test, type TestName } from '../../../core/find/tests.ts';
import { api, sentenceOf, type Query } from '../../api/client.ts';
import { useTray } from '../../stores/tray.ts';
import { choiceText, TEST_GROUPS, unitOf } from './labels.ts';

/** Chooses a condition: first what to ask, then the answer, with how many items would remain. */
const props = defineProps<{
  query: Query;
  start?: TestName | undefined;
  /** The item whose record is open. */
  focused?: number | undefined;
}>();
const tray = useTray();
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
  ['choice', 'tag', 'own', 'folder', 'month', 'person', 'none', 'item'].includes(spec.value?.value ?? ''),
);
/** Items that others can be asked to look like: the open one, and the newest of the tray. */
const models = computed(() => {
  const pictures = tray.last.filter((item) => item.kind === 'image').reverse();
  const open = pictures.find((item) => item.id === props.focused) ?? opened.value;
  return [...new Map([...(open ? [open] : []), ...pictures].map((item) => [item.id, item])).values()].slice(
    0,
    8,
  );
});
const opened = shallowRef<ItemView>();
watch(
  () => props.focused,
  async (id) => {
    const [item] = id === undefined ? [] : await api.itemsSome([id]);
    opened.value = item?.kind === 'image' ? item : undefined;
  },
  { immediate: true },
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
/** How many would remain with what is typed, or with an item to look like. */
const remaining = ref(new Map<string, number>());
let counting: ReturnType<typeof setTimeout> | undefined;
const wanted = computed(() =>
  spec.value?.value === 'item'
    ? models.value.map((item) => String(item.id))
    : ready.value && !listed.value
      ? [typed.value]
      : [],
);
const keyOf = (value: string) => `${test.value}:${value}:${not.value}`;
watch([wanted, not], () => {
  clearTimeout(counting);
  counting = setTimeout(async () => {
    for (const value of wanted.value) {
      const key = keyOf(value);
      if (remaining.value.has(key)) continue;
      const { of, ...where } = readQuery(String(props.query['where'] ?? ''), takes);
      const more = {
        join: 'all',
        not: false,
        of: [
          { ...where, of },
          { test: test.value!, value, not: not.value },
        ],
      } as const;
      try {
        const { total } = await api.items({
          ...props.query,
          group: undefined,
          where: writeQuery({ ...more, of: [...more.of] }),
          limit: 1,
        });
        remaining.value.set(key, total);
      } catch (error) {
        fault.value = sentenceOf(error);
      }
    }
  }, 200);
});
const left = (value: string) => remaining.value.get(keyOf(value))?.toLocaleString('en') ?? '';
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
          :value="text"
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
          @input="text = ($event.target as HTMLInputElement).value"
        />
        <span class="soft">{{ unitOf(test) }}</span>
        <span v-if="!listed && ready" class="figures soft" role="status">{{
          left(typed) && `${left(typed)} ${left(typed) === '1' ? 'item' : 'items'}`
        }}</span>
        <button v-if="!listed" class="act" type="submit" :disabled="!ready">Add</button>
      </form>
      <p v-if="fault" class="note losing">{{ fault }}</p>
      <template v-else-if="spec!.value === 'item'">
        <button
          v-for="(item, at) in models"
          :key="item.id"
          class="choice"
          :class="{ first: at === 0 }"
          type="button"
          @click="choose(String(item.id))"
        >
          <span class="mono">{{ item.name }}</span>
          <span class="figures soft">{{ left(String(item.id)) }}</span>
        </button>
        <p v-if="models.length === 0" class="soft">
          Open a picture’s record, or gather it into the tray; then choose it here.
        </p>
      </template>
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
