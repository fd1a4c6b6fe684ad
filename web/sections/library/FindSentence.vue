<script setup lang="ts">
import { computed, ref, useTemplateRef, watch } from 'vue';
import { sentenceOf } from '../../../core/find/holds.ts';
import {
  conditionsOf,
  isGroup,
  writeQuery,
  type Condition,
  type Group,
  type Node,
} from '../../../core/find/query.ts';
import { api, type Query } from '../../api/client.ts';
import AppButton from '../../kit/AppButton.vue';
import AppMenu from '../../kit/AppMenu.vue';
import { laterPart } from '../../kit/later.ts';

const ConditionChooser = laterPart(() => import('./ConditionChooser.vue'));

/** The query as a sentence: each condition can be turned round, given another choice beside it, or taken out. */
const props = defineProps<{
  where: Group;
  query: Query;
  words: string;
  entry: boolean;
  /** The item whose record is open: others can be asked for that look like it. */
  focused?: number | undefined;
}>();
const emit = defineEmits<{ change: [where: Group]; drop: [what: 'q' | 'entry'] }>();

/** The chooser is open: for one more condition, for another choice beside one, or to change one. */
const choosing = ref<{ how: 'new' } | { how: 'beside' | 'change'; at: number }>();
const at = computed(() => (choosing.value && 'at' in choosing.value ? choosing.value.at : undefined));

/** Names of the items that conditions speak of. */
const names = ref(new Map<number, string>());
watch(
  () => [...conditionsOf(props.where)].filter((one) => one.test === 'like').map((one) => Number(one.value)),
  async (ids) => {
    const unknown = ids.filter((id) => !names.value.has(id));
    for (const item of await api.itemsSome(unknown)) names.value.set(item.id, item.name);
  },
  { immediate: true },
);
function wordsOf(node: Node): string {
  if (!isGroup(node)) {
    const name = node.test === 'like' ? names.value.get(Number(node.value)) : undefined;
    return name ? sentenceOf(node).replace(`item ${node.value}`, `“${name}”`) : sentenceOf(node);
  }
  const inner = node.of.map(wordsOf).join(node.join === 'all' ? ' and ' : ' or ');
  return node.not ? `not (${inner})` : inner;
}
const parts = computed(() => props.where.of.map(wordsOf));
/** The keyboard goes on from the filter at a place, or from “Add filter”. */
const sentence = useTemplateRef('sentence');
let next: number | undefined;
function set(of: Node[], place = of.length - 1) {
  choosing.value = undefined;
  next = place;
  emit('change', { ...props.where, of });
}
watch(
  parts,
  () => {
    if (next === undefined) return;
    const filters = sentence.value?.querySelectorAll<HTMLElement>('.condition');
    (filters?.[next] ?? sentence.value?.querySelector<HTMLElement>('.add'))?.focus();
    next = undefined;
  },
  { flush: 'post' },
);
const put = (place: number, node: Node) =>
  set(
    props.where.of.map((one, at) => (at === place ? node : one)),
    place,
  );
function add(condition: Condition) {
  const there = at.value === undefined ? undefined : props.where.of[at.value];
  if (there === undefined) set([...props.where.of, condition]);
  else if (choosing.value!.how === 'change') put(at.value!, condition);
  else
    put(
      at.value!,
      isGroup(there) && there.join === 'any' && !there.not
        ? { ...there, of: [...there.of, condition] }
        : { join: 'any', not: false, of: [there, condition] },
    );
}
const ACTS = {
  change: 'Change …',
  turn: 'Invert',
  beside: 'Add alternative …',
  remove: 'Remove',
} as const;
type Act = keyof typeof ACTS;
const actsOn = (node: Node) =>
  (Object.keys(ACTS) as Act[])
    .filter((key) => key !== 'change' || !isGroup(node))
    .map((key) => ({ key, label: ACTS[key] }));
function act(place: number, key: Act) {
  const there = props.where.of[place]!;
  if (key === 'turn') put(place, { ...there, not: !there.not });
  else if (key === 'remove') void set(props.where.of.filter((_, at) => at !== place));
  else choosing.value = { how: key, at: place };
}
function joined() {
  emit('change', { ...props.where, join: props.where.join === 'all' ? 'any' : 'all' });
}
/** The condition to begin with, when one is changed or gets another choice beside it. */
const start = computed<Condition | undefined>(() => {
  const there = at.value === undefined ? undefined : props.where.of[at.value];
  const first = there && isGroup(there) ? there.of[0] : there;
  return first && !isGroup(first) ? first : undefined;
});
/** What is counted: the query as it stands, but without the condition that is changed or gets a choice beside it. */
const counted = computed<Query>(() =>
  at.value === undefined
    ? props.query
    : {
        ...props.query,
        where: writeQuery({ ...props.where, of: props.where.of.filter((_, place) => place !== at.value) }),
      },
);
</script>

<template>
  <span ref="sentence" class="parts">
    <span v-if="words" class="part">
      matching “{{ words }}”
      <AppButton look="link" @click="emit('drop', 'q')">Remove</AppButton>
    </span>
    <span v-if="entry" class="part">
      from one change in the ledger
      <AppButton look="link" @click="emit('drop', 'entry')">Remove</AppButton>
    </span>
    <template v-for="(part, place) in parts" :key="place">
      <AppButton v-if="place > 0" look="link" class="join" title="Switch between and / or" @click="joined"
        >{{ where.join === 'all' ? 'and' : 'or' }}
      </AppButton>
      <AppMenu :items="actsOn(where.of[place]!)" :label="`Filter: ${part}`" @choose="(key) => act(place, key)"
        ><AppButton look="tile" class="condition">{{ part }}</AppButton>
      </AppMenu>
    </template>
    <span class="part">
      <AppButton
        look="link"
        class="add"
        :aria-expanded="choosing !== undefined"
        @click="choosing = choosing ? undefined : { how: 'new' }"
      >
        Add filter
      </AppButton>
      <ConditionChooser
        v-if="choosing"
        :key="`${choosing.how} ${at}`"
        :query="counted"
        :start="start"
        :changes="choosing.how === 'change'"
        :focused="focused"
        @choose="add"
        @close="choosing = undefined"
      />
    </span>
  </span>
</template>

<style scoped>
.parts {
  display: contents;
}
.part {
  position: relative;
  display: inline-flex;
  align-items: center;
  gap: 6px;
}
.condition {
  min-height: 26px;
  padding: 0 2px;
  border: 0;
  border-bottom: 1px solid var(--verdigris);
  background: none;
  color: var(--verdigris);
  cursor: pointer;
  font: inherit;
}
.join {
  text-decoration-style: dotted;
}
</style>
