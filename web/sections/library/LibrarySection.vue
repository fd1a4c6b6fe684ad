<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import type { ItemView } from '../../../api/items.ts';
import { api, sentenceOf, type Query } from '../../api/client.ts';
import { count, weight } from '../../parts/words.ts';
import { useSite } from '../../stores/site.ts';
import { useTray } from '../../stores/tray.ts';
import ContactSheet from './ContactSheet.vue';
import FolderDrawer from './FolderDrawer.vue';

const site = useSite();
const tray = useTray();
const route = useRoute();
const router = useRouter();

const items = ref<ItemView[]>([]);
const total = ref(0);
const bytes = ref(0);
const fault = ref('');
const loaded = ref(false);
const WINDOW = 200;

const part = (name: string) => (typeof route.query[name] === 'string' ? (route.query[name] as string) : '');
const query = computed<Query>(() => ({
  folder: part('folder'),
  kind: part('kind'),
  use: part('use'),
  lacks: part('lacks'),
  entry: part('entry'),
  q: part('q'),
  sort: part('sort') || 'kind',
}));
const queryKey = computed(() => JSON.stringify(query.value));

let asked = 0;
async function load(from: number) {
  const mine = ++asked;
  try {
    // After a change everything shown so far is asked for again, so that no row stays old.
    const limit = from === 0 ? Math.min(500, Math.max(WINDOW, items.value.length)) : WINDOW;
    const list = await api.items({ ...query.value, offset: from, limit });
    if (mine !== asked) return;
    items.value = from === 0 ? list.items : [...items.value, ...list.items];
    total.value = list.total;
    bytes.value = list.bytes;
    fault.value = '';
    loaded.value = true;
  } catch (error) {
    fault.value = sentenceOf(error);
  }
}
watch(queryKey, () => {
  items.value = [];
  void load(0);
});
watch(
  () => site.revision,
  () => load(0),
  { immediate: true },
);

function more() {
  if (items.value.length < total.value && items.value.length > 0) void load(items.value.length);
}
function set(name: string, event: Event) {
  void router.push({
    query: {
      ...route.query,
      [name]: (event.target as HTMLSelectElement).value || undefined,
      item: undefined,
    },
  });
}
const reading = computed(() => site.running.find((job) => job.kind === 'scan'));
const focused = computed(() => Number(route.query['item']) || undefined);
function open(item: ItemView | undefined) {
  void router.push({ query: { ...route.query, item: item?.id } });
}
async function gatherAll() {
  const rest: ItemView[] = [...items.value];
  while (rest.length < total.value) {
    const list = await api.items({ ...query.value, offset: rest.length, limit: 500 });
    if (list.items.length === 0) break;
    rest.push(...list.items);
  }
  tray.add(rest);
}
const KINDS = [
  ['', 'items of every kind'],
  ['image', 'images'],
  ['video', 'films'],
  ['audio', 'sounds'],
  ['document', 'documents'],
  ['other', 'other files'],
];
const USES = [
  ['', 'whether shown or not'],
  ['placed', 'that are placed on a page'],
  ['mentioned', 'that are only mentioned'],
  ['unused', 'that are unused'],
];
const LACKS = [
  ['', 'in any state of care'],
  ['described', 'that are not described'],
  ['named', 'whose name needs care'],
  ['filed', 'that are not filed'],
];
const SORTS = [
  ['kind', 'pictures first'],
  ['path', 'by folder and name'],
  ['name', 'by name'],
  ['added', 'newest first'],
  ['bytes', 'heaviest first'],
  ['placements', 'most placed first'],
];
</script>

<template>
  <div class="library">
    <FolderDrawer />
    <div class="sheet">
      <div class="sentence">
        <h1 class="hidden-words">Library</h1>
        <span>Show</span>
        <select aria-label="Kind" :value="query['kind']" @change="set('kind', $event)">
          <option v-for="[value, text] in KINDS" :key="value" :value="value">{{ text }}</option>
        </select>
        <select aria-label="Use" :value="query['use']" @change="set('use', $event)">
          <option v-for="[value, text] in USES" :key="value" :value="value">{{ text }}</option>
        </select>
        <select aria-label="Care" :value="query['lacks']" @change="set('lacks', $event)">
          <option v-for="[value, text] in LACKS" :key="value" :value="value">{{ text }}</option>
        </select>
        <span v-if="query['entry']"
          >of one change in the Ledger
          <button
            class="link"
            type="button"
            @click="router.push({ query: { ...route.query, entry: undefined } })"
          >
            leave out
          </button></span
        >
        <span v-if="query['q']"
          >with the words “{{ query['q'] }}”
          <button
            class="link"
            type="button"
            @click="router.push({ query: { ...route.query, q: undefined } })"
          >
            leave out
          </button></span
        >
        <select aria-label="Order" :value="query['sort']" @change="set('sort', $event)">
          <option v-for="[value, text] in SORTS" :key="value" :value="value">{{ text }}</option>
        </select>
        <span class="sum figures" role="status">{{ count(total, 'item') }}, {{ weight(bytes) }}</span>
        <button v-if="total" class="link" type="button" @click="gatherAll">Gather all</button>
      </div>
      <p v-if="fault" class="note losing">{{ fault }}</p>
      <p v-else-if="reading && total === 0" class="empty figures" role="status">
        The site is being read for the first time: {{ reading.done }} of {{ reading.total }}
        {{ reading.what }}. Its items appear here as soon as that is done; you can leave this window
        meanwhile.
      </p>
      <p v-else-if="loaded && total === 0" class="empty">
        Nothing here fits the sentence above. Change one of its parts, or choose “The whole site” at the left.
      </p>
      <ContactSheet v-else :items="items" :focused="focused" @open="open" @more="more" />
    </div>
  </div>
</template>

<style scoped>
.library {
  display: flex;
  height: 100%;
}
.sheet {
  display: flex;
  min-width: 0;
  flex: 1;
  flex-direction: column;
}
.sentence {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 8px;
  padding: 10px 20px;
  border-bottom: 1px solid var(--rule);
}
select {
  height: 28px;
  max-width: 190px;
  padding: 0;
  border: 0;
  border-bottom: 1px solid var(--verdigris);
  background: transparent;
  color: var(--verdigris);
}
select option {
  background: var(--paper-raised);
  color: var(--ink);
}
.sum {
  margin-left: auto;
  font-weight: 600;
}
.empty {
  padding: 40px 20px;
}
</style>
