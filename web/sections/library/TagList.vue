<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import { useRoute } from 'vue-router';
import type { TagCounts } from '../../../api/items.ts';
import { isGroup, readQuery, writeQuery, type Condition } from '../../../core/find/query.ts';
import { takes } from '../../../core/find/tests.ts';
import { api, sentenceOf } from '../../api/client.ts';
import { usePlan } from '../../stores/plan.ts';
import { useSite } from '../../stores/site.ts';

/** The tags with their counts; of the one that is shown, what often goes with it, its other name, its end. */
const site = useSite();
const plan = usePlan();
const route = useRoute();
const tags = ref<TagCounts>([]);
const word = ref('');
const fault = ref('');
/** So many are listed; the others are found by typing. */
const MOST = 200;
watch(
  () => site.revision,
  async () => {
    try {
      tags.value = await api.tags();
    } catch (error) {
      fault.value = sentenceOf(error);
    }
  },
  { immediate: true },
);
const listed = computed(() => {
  const part = word.value.trim().toLowerCase();
  return part ? tags.value.filter((tag) => tag.name.toLowerCase().includes(part)) : tags.value;
});
const queryOf = (tag: string) =>
  writeQuery({ join: 'all', not: false, of: [{ test: 'tag', value: tag, not: false }] });
/** The tag that is shown, when the query asks for one tag and nothing else. */
const current = computed(() => {
  const where = route.query['where'];
  if (typeof where !== 'string') return undefined;
  try {
    const { of, not } = readQuery(where, takes);
    const [only] = of;
    if (of.length !== 1 || not || !only || isGroup(only)) return undefined;
    const condition: Condition = only;
    return condition.test === 'tag' && !condition.not ? condition.value : undefined;
  } catch {
    return undefined; // The section says what is wrong with the address.
  }
});

const together = ref<TagCounts>([]);
watch(
  [current, () => site.revision],
  async ([tag]) => {
    together.value = [];
    if (tag === undefined) return;
    try {
      const found = (await api.facets({ where: queryOf(tag) }))['tag'] ?? [];
      if (tag === current.value)
        together.value = found
          .filter((one) => one.value.toLowerCase() !== tag.toLowerCase())
          .slice(0, 8)
          .map(({ value, items }) => ({ name: value, items }));
    } catch (error) {
      fault.value = sentenceOf(error);
    }
  },
  { immediate: true },
);

const renaming = ref<string>();
async function rename() {
  const to = renaming.value?.trim();
  renaming.value = undefined;
  if (to && current.value && to !== current.value)
    await plan.propose({ kind: 'tag', tag: current.value, to });
}
</script>

<template>
  <div class="tags">
    <input v-model="word" type="search" aria-label="Find a tag" placeholder="Find a tag …" />
    <section v-if="current" class="current">
      <h2>“{{ current }}”</h2>
      <form
        v-if="renaming !== undefined"
        @submit.prevent="rename"
        @keydown.escape.stop="renaming = undefined"
      >
        <label for="tag-name">New name, or another tag to merge it into</label>
        <input id="tag-name" v-model="renaming" list="tag-names" />
        <datalist id="tag-names">
          <option v-for="tag in tags.slice(0, MOST)" :key="tag.name" :value="tag.name" />
        </datalist>
        <button class="link" type="submit">Look at the plan</button>
        <button class="link" type="button" @click="renaming = undefined">Not now</button>
      </form>
      <template v-else>
        <button class="link" type="button" @click="renaming = current">Rename or merge …</button>
        <button class="link" type="button" @click="plan.propose({ kind: 'tag', tag: current, to: null })">
          Take off all …
        </button>
      </template>
      <template v-if="together.length">
        <h3>Often together with it</h3>
        <ul>
          <li v-for="tag in together" :key="tag.name">
            <RouterLink :to="{ query: { ...route.query, where: queryOf(tag.name), item: undefined } }">
              <span>{{ tag.name }}</span><span class="figures">{{ tag.items }}</span>
            </RouterLink>
          </li>
        </ul>
      </template>
    </section>
    <ul>
      <li v-for="tag in listed.slice(0, MOST)" :key="tag.name">
        <RouterLink
          :to="{ query: { ...route.query, where: queryOf(tag.name), folder: undefined, item: undefined } }"
          :class="{ current: tag.name === current }"
          :aria-current="tag.name === current ? 'true' : undefined"
        >
          <span>{{ tag.name }}</span><span class="figures">{{ tag.items }}</span>
        </RouterLink>
      </li>
    </ul>
    <p v-if="listed.length > MOST" class="soft figures">
      {{ (listed.length - MOST).toLocaleString('en') }} more: type a part of the name.
    </p>
    <p v-if="tags.length === 0" class="soft">No item has a tag yet.</p>
    <p v-if="fault" class="note losing">{{ fault }}</p>
  </div>
</template>

<style scoped>
.tags > input,
form input {
  width: calc(100% - 20px);
  height: 28px;
  margin: 0 10px 8px;
  padding: 0 6px;
  border: 1px solid var(--rule-strong);
  border-radius: 2px;
  background: var(--paper-raised);
}
form input {
  width: 100%;
  margin: 0;
}
form {
  display: flex;
  flex-direction: column;
  gap: 4px;
}
.current {
  display: flex;
  flex-direction: column;
  align-items: flex-start;
}
section.current {
  padding: 0 10px 12px;
  border-bottom: 1px solid var(--rule);
  gap: 4px;
}
section ul {
  width: 100%;
}
h3 {
  padding-top: 8px;
  color: var(--ink-soft);
}
ul {
  margin: 0;
  padding: 0;
  list-style: none;
}
a {
  display: flex;
  min-height: 26px;
  flex-direction: row;
  align-items: center;
  justify-content: space-between;
  padding: 2px 14px 2px 10px;
  color: var(--ink);
  gap: 8px;
  text-decoration: none;
}
a span:first-child {
  overflow: hidden;
  text-overflow: ellipsis;
  white-space: nowrap;
}
a .figures {
  color: var(--ink-soft);
}
a.current {
  background: var(--verdigris-wash);
  color: var(--verdigris);
  font-weight: 600;
}
.soft {
  padding: 4px 10px;
}
</style>
