<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import { sentenceOf } from '../../../core/find/holds.ts';
import {
  conditionsOf,
  isGroup,
  writeQuery,
  type Condition,
  type Group,
  type Node,
} from '../../../core/find/query.ts';
import type { TestName } from '../../../core/find/tests.ts';
import { api, type Query } from '../../api/client.ts';
import ConditionChooser from './ConditionChooser.vue';

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

/** Which condition's menu is open; 'new': the chooser for one more. */
const open = ref<number | 'new'>();
/** The condition that gets another choice beside it. */
const beside = ref<number>();

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
function set(of: Node[]) {
  open.value = beside.value = undefined;
  emit('change', { ...props.where, of });
}
function add(condition: Condition) {
  const at = beside.value;
  if (at === undefined) return set([...props.where.of, condition]);
  const there = props.where.of[at]!;
  const group: Group =
    isGroup(there) && there.join === 'any' && !there.not
      ? { ...there, of: [...there.of, condition] }
      : { join: 'any', not: false, of: [there, condition] };
  set(props.where.of.map((one, place) => (place === at ? group : one)));
}
function turn(at: number) {
  set(props.where.of.map((one, place) => (place === at ? { ...one, not: !one.not } : one)));
}
function take(at: number) {
  set(props.where.of.filter((_, place) => place !== at));
}
function joined() {
  emit('change', { ...props.where, join: props.where.join === 'all' ? 'any' : 'all' });
}
/** The test to begin with when a choice is put beside a condition. */
const start = computed<TestName | undefined>(() => {
  const there = beside.value === undefined ? undefined : props.where.of[beside.value];
  const first = there && isGroup(there) ? there.of[0] : there;
  return first && !isGroup(first) ? first.test : undefined;
});
/** What is counted: the query as it stands, but without the condition that gets a choice beside it. */
const counted = computed<Query>(() =>
  beside.value === undefined
    ? props.query
    : {
        ...props.query,
        where: writeQuery({ ...props.where, of: props.where.of.filter((_, at) => at !== beside.value) }),
      },
);
</script>

<template>
  <span class="parts">
    <span v-if="words" class="part">
      with the words “{{ words }}”
      <button class="link" type="button" @click="emit('drop', 'q')">leave out</button>
    </span>
    <span v-if="entry" class="part">
      of one change in the Ledger
      <button class="link" type="button" @click="emit('drop', 'entry')">leave out</button>
    </span>
    <template v-for="(part, at) in parts" :key="at">
      <button v-if="at > 0" class="link join" type="button" title="Change between and, or" @click="joined">
        {{ where.join === 'all' ? 'and' : 'or' }}
      </button>
      <span class="part">
        <button
          class="condition"
          type="button"
          :aria-expanded="open === at"
          @click="open = open === at ? undefined : at"
        >
          {{ part }}
        </button>
        <span v-if="open === at" class="menu" @keydown.escape.stop="open = undefined">
          <button class="link" type="button" @click="turn(at)">Turn round</button>
          <button class="link" type="button" @click="((beside = at), (open = 'new'))">Or another …</button>
          <button class="link" type="button" @click="take(at)">Take out</button>
        </span>
      </span>
    </template>
    <span class="part">
      <button
        class="link"
        type="button"
        :aria-expanded="open === 'new'"
        @click="((beside = undefined), (open = open === 'new' ? undefined : 'new'))"
      >
        + condition
      </button>
      <ConditionChooser
        v-if="open === 'new'"
        :query="counted"
        :start="start"
        :focused="focused"
        @choose="add"
        @close="open = undefined"
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
.menu {
  position: absolute;
  z-index: 5;
  top: 100%;
  left: 0;
  display: flex;
  padding: 6px 10px;
  border: 1px solid var(--rule-strong);
  background: var(--paper-raised);
  gap: 14px;
  white-space: nowrap;
}
</style>
