<script setup lang="ts">
import { computed, nextTick, onMounted, ref, shallowRef, watch } from 'vue';
import type { FacetsView, ItemView } from '../../../api/items.ts';
import { readQuery, writeQuery, type Condition } from '../../../core/find/query.ts';
import { takes, TESTS, type Test, type TestName } from '../../../core/find/tests.ts';
import { api, sentenceOf, type Query } from '../../api/client.ts';
import { useTray } from '../../stores/tray.ts';
import { choiceText, TEST_GROUPS, unitOf } from './labels.ts';
import AppButton from '../../kit/AppButton.vue';
import AppCheckbox from '../../kit/AppCheckbox.vue';
import AppDate from '../../kit/AppDate.vue';
import AppOption from '../../kit/AppOption.ts';
import AppSelect from '../../kit/AppSelect.vue';
import AppInput from '../../kit/AppInput.vue';

/** Chooses a condition: first what to ask, then the answer, with how many items would remain. */
const props = defineProps<{
  query: Query;
  /** The condition to begin with: its test is asked again. */
  start?: Condition | undefined;
  /** That condition is changed: its answer stands there already. */
  changes?: boolean;
  /** The item whose record is open. */
  focused?: number | undefined;
}>();
const tray = useTray();
const emit = defineEmits<{ choose: [condition: Condition]; close: [] }>();
const test = ref<TestName | undefined>(props.start && (props.start.test as TestName));
const not = ref(props.changes ? props.start!.not : false);
/** File sizes are typed in a unit. */
const UNITS = { kB: 1e3, MB: 1e6, GB: 1e9 } as const;
const unit = ref<keyof typeof UNITS>('MB');
const text = ref(props.changes ? asTyped(props.start!) : '');
function asTyped({ test, value }: Condition): string {
  if (TESTS[test as TestName].value !== 'bytes') return isListed(test as TestName) ? '' : value;
  unit.value =
    (Object.keys(UNITS) as (keyof typeof UNITS)[]).findLast((one) => Number(value) >= UNITS[one]) ?? 'kB';
  return String(Number(value) / UNITS[unit.value]);
}
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
function isListed(name: TestName): boolean {
  return ['choice', 'tag', 'own', 'folder', 'month', 'person', 'none', 'item'].includes(TESTS[name].value);
}
const listed = computed(() => test.value !== undefined && isListed(test.value));
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
  if (spec.value?.value === 'bytes')
    return value === '' ? '' : String(Math.round(Number(value) * UNITS[unit.value]));
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
    aria-label="Add a filter"
    @keydown.escape.stop="emit('close')"
    @keydown="walk"
  >
    <div v-if="!test" class="tests">
      <div v-for="([group, tests], at) in TEST_GROUPS" :key="group">
        <h2>{{ group }}</h2>
        <AppButton
          v-for="([name, words], place) in tests"
          :key="name"
          look="tile"
          class="choice"
          :class="{ first: at === 0 && place === 0 }"
          @click="ask(name)"
          >{{ words }}
        </AppButton>
      </div>
    </div>
    <div v-else class="values">
      <div class="head">
        <AppButton look="link" @click="((test = undefined), focusFirst())">Back</AppButton>
        <strong>{{ label }}</strong>
        <AppCheckbox v-model="not"> is not</AppCheckbox>
      </div>
      <form v-if="!listed || choices.length > 12 || text" @submit.prevent="ready && choose(typed)">
        <AppDate v-if="spec!.value === 'date'" v-model="text" :aria-label="label" />
        <AppInput
          v-else
          v-model="text"
          :inputmode="['pixels', 'bytes', 'seconds'].includes(spec!.value) ? 'decimal' : undefined"
          :aria-label="`${label}${unitOf(test) ? `, in ${unitOf(test)}` : ''}`"
        />
        <AppSelect v-if="spec!.value === 'bytes'" v-model="unit" aria-label="Unit" :chars="3"
          ><AppOption v-for="(_, one) in UNITS" :key="one" :value="one" :label="one" />
        </AppSelect>
        <span v-else class="soft">{{ unitOf(test) }}</span>
        <span v-if="!listed && ready" class="figures soft" role="status">{{
          left(typed) && `${left(typed)} ${left(typed) === '1' ? 'item' : 'items'}`
        }}</span>
        <AppButton v-if="!listed" look="main" type="submit" :disabled="!ready">{{
          changes ? 'Change' : 'Add'
        }}</AppButton>
      </form>
      <p v-if="fault" class="note losing">{{ fault }}</p>
      <template v-else-if="spec!.value === 'item'">
        <AppButton
          v-for="(item, at) in models"
          :key="item.id"
          look="tile"
          class="choice"
          :class="{ first: at === 0 }"
          @click="choose(String(item.id))"
          ><span class="mono">{{ item.name }}</span>
          <span class="figures soft">{{ left(String(item.id)) }}</span>
        </AppButton>
        <p v-if="models.length === 0" class="soft">
          Open an image or add it to the tray, then choose it here.
        </p>
      </template>
      <p v-else-if="listed && !facets" class="soft">Counting …</p>
      <div v-else-if="listed" class="list">
        <AppButton
          v-for="(one, at) in choices"
          :key="one.value"
          look="tile"
          class="choice"
          :class="{ first: at === 0 }"
          :disabled="one.items === 0 && !not"
          @click="choose(one.value)"
          ><span>{{ choiceText(test, one.value) }}</span
          ><span class="figures soft">{{ one.items.toLocaleString('en') }}</span>
        </AppButton>
        <p v-if="choices.length === 0" class="soft">None of these items has a value.</p>
      </div>
    </div>
    <AppButton look="link" class="close" @click="emit('close')">Close</AppButton>
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
form :first-child {
  flex: 1;
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
