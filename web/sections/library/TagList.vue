<script setup lang="ts">
import { useLocalStorage } from '@vueuse/core';
import { computed, nextTick, ref, useTemplateRef, watch } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import type { TagCounts, TagSense } from '../../../api/items.ts';
import { isGroup, readQuery, writeQuery } from '../../../core/find/query.ts';
import { meantBy } from '../../../core/plan/settings.ts';
import { takes } from '../../../core/find/tests.ts';
import { api, sentenceOf } from '../../api/client.ts';
import { usePlan } from '../../stores/plan.ts';
import { useSite } from '../../stores/site.ts';
import { useTray } from '../../stores/tray.ts';
import AppButton from '../../kit/AppButton.vue';
import AppInput from '../../kit/AppInput.vue';
import AppMenu from '../../kit/AppMenu.vue';
import AppTree from '../../kit/AppTree.vue';

/** The tags with their counts, those below others within them; of the one that is shown, what often goes with it, its other name, its end. */
const site = useSite();
const plan = usePlan();
const tray = useTray();
const route = useRoute();
const router = useRouter();
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

interface Branch {
  name: string;
  items: number;
  /** Another spelling that was typed to find it. */
  spelt?: string | undefined;
  children: Branch[];
}
/** Every tag with what asking for it finds, also those that only stand above others. */
const all = computed<Branch[]>(() => {
  const counts = new Map(tags.value.map((tag) => [tag.name.toLowerCase(), tag]));
  for (const { above } of sense.value.above)
    if (!counts.has(above.toLowerCase())) counts.set(above.toLowerCase(), { name: above, items: 0 });
  const found = new Map(sense.value.found.map((one) => [one.value.toLowerCase(), one.items]));
  return [...counts.values()]
    .map((tag) => ({ ...tag, items: found.get(tag.name.toLowerCase()) ?? tag.items, children: [] }))
    .sort((a, b) => a.name.localeCompare(b.name));
});
/** While a person types, a plain list of what fits. */
const listed = computed<Branch[]>(() => {
  const part = word.value.trim().toLowerCase();
  if (part === '') return branched(all.value);
  return all.value.flatMap((tag) => {
    if (tag.name.toLowerCase().includes(part)) return [tag];
    const spelt = sense.value.spellings.find(
      (one) => same(one.tag, tag.name) && one.spelling.toLowerCase().includes(part),
    )?.spelling;
    return spelt ? [{ ...tag, spelt }] : [];
  });
});
function branched(some: readonly Branch[]): Branch[] {
  const at = new Map(some.map((tag) => [tag.name.toLowerCase(), { ...tag, children: [] as Branch[] }]));
  const tops: Branch[] = [];
  for (const tag of at.values()) (at.get(aboveOf(tag.name)?.toLowerCase() ?? '')?.children ?? tops).push(tag);
  return tops;
}
const closed = useLocalStorage<Record<string, boolean>>('iconomos.tags-closed', {});
const open = computed(() => all.value.map((tag) => tag.name).filter((name) => !closed.value[name]));

const asking = (...names: string[]) =>
  writeQuery({ join: 'all', not: false, of: names.map((value) => ({ test: 'tag', value, not: false })) });
const showing = (...names: string[]) => ({
  query: { ...route.query, where: asking(...names), folder: undefined, item: undefined },
});
/** The tag that is shown, when the query asks for one tag and nothing else. */
const current = computed(() => {
  const where = route.query['where'];
  if (typeof where !== 'string') return undefined;
  try {
    const { of, not } = readQuery(where, takes);
    const [only] = of;
    if (of.length !== 1 || not || !only || isGroup(only)) return undefined;
    return only.test === 'tag' && !only.not ? only.value : undefined;
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
      const found = (await api.facets({ where: asking(tag) }))['tag'] ?? [];
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
/** What is being written of a tag: its new name, another spelling, the tag above it. */
const writing = ref<{ what: 'name' | 'spelling' | 'above'; tag: string; text: string }>();
const field = ref<InstanceType<typeof AppInput>>();
async function write(what: 'name' | 'spelling' | 'above', tag: string) {
  writing.value = { what, tag, text: what === 'name' ? tag : what === 'above' ? (aboveOf(tag) ?? '') : '' };
  await nextTick();
  field.value?.focus();
}
const ASKS = {
  name: 'New name, or an existing tag to merge with',
  spelling: 'Other spelling that finds this tag',
  above: 'Parent tag. A search for it finds this tag too. Leave empty for none',
};
async function written() {
  const { what, tag, text } = writing.value!;
  const value = text.trim();
  writing.value = undefined;
  if (what === 'above') await plan.propose({ kind: 'tag-above', tag, above: value || null });
  else if (value && what === 'spelling') await plan.propose({ kind: 'tag-spelling', tag, spelling: value });
  else if (value && value !== tag) await become(tag, value);
}
/** Whoever looks at the tag looks at what has become of it. */
async function become(tag: string, to: string | null) {
  await plan.propose({ kind: 'tag', tag, to });
  if (plan.plan && current.value && same(current.value, tag))
    plan.afterwards(
      () => void router.replace(to === null ? { query: { ...route.query, where: undefined } } : showing(to)),
    );
}

const ACTS = {
  name: 'Rename or merge …',
  spelling: 'Add spelling …',
  above: 'Move under another tag …',
  drop: 'Remove from all items …',
};
type Act = keyof typeof ACTS;
/** The same below the tag that is shown, and by right click for any. */
const acts = computed(() =>
  site.may('describe')
    ? (Object.keys(ACTS) as Act[]).map((key) => ({ key, label: ACTS[key], danger: key === 'drop' }))
    : [],
);
function act(key: Act, tag: string) {
  if (key === 'drop') void become(tag, null);
  else void write(key, tag);
}
const menu = useTemplateRef<{ openFor(event: Event): void }>('menu');
const asked = ref('');
function ask(event: Event, tag: string) {
  asked.value = tag;
  menu.value?.openFor(event);
}

/** A tag that is dropped on another goes below it; what is gathered is tagged. */
const TAG = 'application/x-iconomos-tag';
const over = ref<string>();
function dropped(event: DragEvent, name: string) {
  over.value = undefined;
  const moved = event.dataTransfer?.getData(TAG);
  if (!moved && !event.dataTransfer?.types.includes('application/x-iconomos-tray')) return;
  if (!site.may('describe')) return;
  event.preventDefault();
  event.stopPropagation();
  if (!moved) void plan.propose({ kind: 'records', itemIds: [...tray.ids], addTags: [name] });
  else if (!same(moved, name)) void plan.propose({ kind: 'tag-above', tag: moved, above: name });
}
</script>

<template>
  <div class="tags">
    <AppInput v-model="word" type="search" aria-label="Find a tag" placeholder="Find a tag …" />
    <section v-if="writing" class="current">
      <h2>“{{ writing.tag }}”</h2>
      <form @submit.prevent="written" @keydown.escape.stop="writing = undefined">
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
    </section>
    <section v-else-if="current" class="current">
      <h2>“{{ current }}”</h2>
      <p v-if="aboveOf(current)" class="small">
        Below
        <RouterLink class="inline" :to="showing(aboveOf(current)!)">{{ aboveOf(current) }}</RouterLink>
      </p>
      <p v-for="one in spellings" :key="one.spelling" class="small">
        Also found as “{{ one.spelling }}”
        <AppButton
          v-if="site.may('describe')"
          look="link"
          :aria-label="`Remove the spelling ${one.spelling}`"
          @click="plan.propose({ kind: 'tag-spelling', tag: current, spelling: one.spelling, drop: true })"
        >
          ×
        </AppButton>
      </p>
      <AppButton
        v-for="one in acts"
        :key="one.key"
        look="link"
        :danger="one.danger"
        @click="act(one.key, current)"
        >{{ one.label }}
      </AppButton>
      <template v-if="together.length">
        <h3>Often used together</h3>
        <ul>
          <li v-for="tag in together" :key="tag.name">
            <RouterLink
              :to="showing(current, tag.name)"
              :title="`Items tagged both ${current} and ${tag.name}`"
            >
              <span>{{ tag.name }}</span><span class="figures">{{ tag.items }}</span>
            </RouterLink>
          </li>
        </ul>
      </template>
    </section>
    <AppTree
      v-if="listed.length"
      label="Tags"
      :data="listed.slice(0, MOST)"
      id-key="name"
      :open="open"
      :current="all.find((tag) => current && same(tag.name, current))?.name ?? ''"
      @toggle="(tag, shut) => (closed = { ...closed, [tag]: shut })"
      @choose="(tag) => router.push(showing(tag))"
      @menu="ask"
    >
      <template #default="{ node: tag }">
        <RouterLink
          class="branch"
          tabindex="-1"
          :to="showing(tag.name)"
          :data-over="over === tag.name || undefined"
          draggable="true"
          @dragstart="$event.dataTransfer?.setData(TAG, tag.name)"
          @dragover.prevent="over = tag.name"
          @dragleave="over = undefined"
          @drop="dropped($event, tag.name)"
          ><span class="name"
            >{{ tag.name }}<span v-if="tag.spelt" class="soft"> ({{ tag.spelt }})</span></span
          ><span class="figures">{{ tag.items }}</span></RouterLink
        >
      </template>
    </AppTree>
    <p v-if="listed.length > MOST" class="soft figures">
      {{ (listed.length - MOST).toLocaleString('en') }} more. Type part of the name to find them.
    </p>
    <p v-if="tags.length === 0" class="soft">No tags yet. Tags you add to items appear here.</p>
    <p v-else-if="listed.length === 0" class="soft">No tag contains “{{ word.trim() }}”.</p>
    <AppMenu ref="menu" :label="`Actions for ${asked}`" :items="acts" @choose="(key) => act(key, asked)" />
    <p v-if="fault" class="note losing">{{ fault }}</p>
  </div>
</template>

<style scoped src="./drawer-rows.css"></style>
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
  padding: 10px 10px 12px;
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
.soft {
  padding: 4px 10px;
}
</style>
