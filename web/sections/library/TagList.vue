<script setup lang="ts">
import { computed, nextTick, ref, watch } from 'vue';
import { useRoute } from 'vue-router';
import type { TagCounts, TagSense } from '../../../api/items.ts';
import { isGroup, readQuery, writeQuery, type Condition } from '../../../core/find/query.ts';
import { meantBy } from '../../../core/plan/settings.ts';
import { takes } from '../../../core/find/tests.ts';
import { api, sentenceOf } from '../../api/client.ts';
import { usePlan } from '../../stores/plan.ts';
import { useSite } from '../../stores/site.ts';
import AppButton from '../../kit/AppButton.vue';
import AppInput from '../../kit/AppInput.vue';

/** The tags with their counts; of the one that is shown, what often goes with it, its other name, its end. */
const site = useSite();
const plan = usePlan();
const route = useRoute();
const tags = ref<TagCounts>([]);
const sense = ref<TagSense>({ spellings: [], above: [], found: [] });
const word = ref('');
const fault = ref('');
/** So many are listed; the others are found by typing. */
const MOST = 200;
watch(
  () => site.revision,
  async () => {
    try {
      [tags.value, sense.value] = await Promise.all([api.tags(), api.tagSense()]);
    } catch (error) {
      fault.value = sentenceOf(error);
    }
  },
  { immediate: true },
);
const same = (one: string, other: string) => one.toLowerCase() === other.toLowerCase();
const aboveOf = (tag: string) => sense.value.above.find((one) => same(one.tag, tag))?.above;
/** Every tag with its depth, those below another right after it; while a person types, a plain list of what fits. */
const listed = computed<{ name: string; items: number; depth: number; spelt?: string }[]>(() => {
  const counts = new Map(tags.value.map((tag) => [tag.name.toLowerCase(), tag]));
  for (const { above } of sense.value.above)
    if (!counts.has(above.toLowerCase())) counts.set(above.toLowerCase(), { name: above, items: 0 });
  // Of a tag above others, what asking for it finds.
  const found = new Map(sense.value.found.map((one) => [one.value.toLowerCase(), one.items]));
  const all = [...counts.values()]
    .map((tag) => ({ ...tag, items: found.get(tag.name.toLowerCase()) ?? tag.items }))
    .sort((a, b) => a.name.localeCompare(b.name));
  const part = word.value.trim().toLowerCase();
  if (part) {
    const speltOf = (tag: string) =>
      sense.value.spellings.find((one) => same(one.tag, tag) && one.spelling.toLowerCase().includes(part))
        ?.spelling;
    return all.flatMap((tag) => {
      if (tag.name.toLowerCase().includes(part)) return [{ ...tag, depth: 0 }];
      const spelt = speltOf(tag.name);
      return spelt ? [{ ...tag, depth: 0, spelt }] : [];
    });
  }
  if (sense.value.above.length === 0) return all.map((tag) => ({ ...tag, depth: 0 }));
  const tree: { name: string; items: number; depth: number }[] = [];
  const grow = (below: string | undefined, depth: number) => {
    for (const tag of all) {
      const above = aboveOf(tag.name);
      if (below === undefined ? above !== undefined : above === undefined || !same(above, below)) continue;
      tree.push({ ...tag, depth });
      if (depth < 8) grow(tag.name, depth + 1);
    }
  };
  grow(undefined, 0);
  return tree;
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

/** The tag itself, those above it and those below: that they go together says nothing. */
function related(tag: string): string[] {
  const below = sense.value.above.filter((one) =>
    meantBy(one.tag, sense.value).some((name) => same(name, tag)),
  );
  return [...meantBy(tag, sense.value), ...below.map((one) => one.tag)];
}
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
          .filter((one) => !related(tag).some((name) => same(name, one.value)))
          .slice(0, 8)
          .map(({ value, items }) => ({ name: value, items }));
    } catch (error) {
      fault.value = sentenceOf(error);
    }
  },
  { immediate: true },
);

const spellings = computed(() =>
  sense.value.spellings.filter((one) => current.value && same(one.tag, current.value)),
);
/** What is being written of the current tag: its new name, another spelling, the tag above it. */
const writing = ref<{ what: 'name' | 'spelling' | 'above'; text: string }>();
const field = ref<InstanceType<typeof AppInput>>();
async function write(what: 'name' | 'spelling' | 'above') {
  const tag = current.value!;
  writing.value = { what, text: what === 'name' ? tag : what === 'above' ? (aboveOf(tag) ?? '') : '' };
  await nextTick();
  field.value?.focus();
}
const ASKS = {
  name: 'New name, or an existing tag to merge with',
  spelling: 'Other spelling that finds this tag',
  above: 'Parent tag. A search for it finds this tag too. Leave empty for none',
};
async function written() {
  const { what, text } = writing.value!;
  const tag = current.value!;
  const value = text.trim();
  writing.value = undefined;
  if (what === 'above') await plan.propose({ kind: 'tag-above', tag, above: value || null });
  else if (value && what === 'spelling') await plan.propose({ kind: 'tag-spelling', tag, spelling: value });
  else if (value && value !== tag) await plan.propose({ kind: 'tag', tag, to: value });
}
</script>

<template>
  <div class="tags">
    <AppInput v-model="word" type="search" aria-label="Find a tag" placeholder="Find a tag …" />
    <section v-if="current" class="current">
      <h2>“{{ current }}”</h2>
      <form v-if="writing" @submit.prevent="written" @keydown.escape.stop="writing = undefined">
        <label for="tag-name">{{ ASKS[writing.what] }}</label>
        <AppInput
          id="tag-name"
          ref="field"
          v-model="writing.text"
          maxlength="80"
          :list="writing.what === 'spelling' ? undefined : 'tag-names'"
        />
        <datalist id="tag-names">
          <option v-for="tag in tags.slice(0, MOST)" :key="tag.name" :value="tag.name" />
        </datalist>
        <span>
          <AppButton look="link" type="submit">Review changes</AppButton>
          <AppButton look="link" @click="writing = undefined">Cancel</AppButton>
        </span>
      </form>
      <template v-else>
        <p v-if="aboveOf(current)" class="small">
          Below
          <RouterLink class="inline" :to="{ query: { where: queryOf(aboveOf(current)!) } }">{{
            aboveOf(current)
          }}</RouterLink>
        </p>
        <p v-for="one in spellings" :key="one.spelling" class="small">
          Also found as “{{ one.spelling }}”
          <AppButton
            look="link"
            :aria-label="`Remove the spelling ${one.spelling}`"
            @click="plan.propose({ kind: 'tag-spelling', tag: current, spelling: one.spelling, drop: true })"
          >
            ×
          </AppButton>
        </p>
        <AppButton look="link" @click="write('name')">Rename or merge …</AppButton>
        <AppButton look="link" @click="write('spelling')">Add spelling …</AppButton>
        <AppButton look="link" @click="write('above')">Move under another tag …</AppButton>
        <AppButton look="link" danger @click="plan.propose({ kind: 'tag', tag: current, to: null })">
          Remove from all items …
        </AppButton>
      </template>
      <template v-if="together.length">
        <h3>Often used together</h3>
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
      <li v-for="tag in listed.slice(0, MOST)" :key="`${tag.depth} ${tag.name}`">
        <RouterLink
          :to="{ query: { ...route.query, where: queryOf(tag.name), folder: undefined, item: undefined } }"
          :class="{ current: tag.name === current }"
          :aria-current="tag.name === current ? 'true' : undefined"
          :style="{ paddingLeft: `${10 + 13 * tag.depth}px` }"
        >
          <span
            >{{ tag.name }}<span v-if="tag.spelt" class="soft"> ({{ tag.spelt }})</span></span
          ><span class="figures">{{ tag.items }}</span>
        </RouterLink>
      </li>
    </ul>
    <p v-if="listed.length > MOST" class="soft figures">
      {{ (listed.length - MOST).toLocaleString('en') }} more. Type part of the name to find them.
    </p>
    <p v-if="tags.length === 0" class="soft">No tags yet. Tags you add to items appear here.</p>
    <p v-if="fault" class="note losing">{{ fault }}</p>
  </div>
</template>

<style scoped>
form {
  display: flex;
  flex-direction: column;
  gap: 4px;
}
section.current {
  display: flex;
  flex-direction: column;
  align-items: flex-start;
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
.small {
  font-size: 13px;
}
.small .inline {
  display: inline;
  padding: 0;
  color: var(--verdigris);
  text-decoration: underline;
}
.losing {
  color: var(--madder);
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
