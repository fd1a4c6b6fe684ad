<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import { EVERYTHING, readQuery, writeQuery, type Group } from '../../../core/find/query.ts';
import { takes } from '../../../core/find/tests.ts';
import type { Query } from '../../api/client.ts';
import { count, weight } from '../../parts/words.ts';
import { useSite } from '../../stores/site.ts';
import { useTray } from '../../stores/tray.ts';
import LookCloser from '../../parts/LookCloser.vue';
import ContactSheet from './ContactSheet.vue';
import FindSentence from './FindSentence.vue';
import FolderDrawer from './FolderDrawer.vue';
import ItemTable from './ItemTable.vue';
import KeepQuery from './KeepQuery.vue';
import { SORT_TEXTS } from './labels.ts';
import { useFound } from './useFound.ts';

const site = useSite();
const tray = useTray();
const route = useRoute();
const router = useRouter();

const part = (name: string) => (typeof route.query[name] === 'string' ? (route.query[name] as string) : '');
/** A query of the address bar that cannot be read is told, and everything is shown. */
const reading = computed<{ where: Group; fault: string }>(() => {
  try {
    return { where: readQuery(part('where'), takes), fault: '' };
  } catch (error) {
    return { where: EVERYTHING, fault: (error as Error).message };
  }
});
const query = computed<Query>(() => ({
  folder: part('folder'),
  entry: part('entry'),
  q: part('q'),
  where: writeQuery(reading.value.where),
  sort: part('sort') || (part('q') ? 'rank' : 'kind'),
  turned: part('turned'),
}));
const stable = ref(query.value);
watch(query, (next) => {
  if (JSON.stringify(next) !== JSON.stringify(stable.value)) stable.value = next;
});
const { ids, ratios, bytes, loaded, fault, items, need } = useFound(stable, () => site.revision);

function go(change: Record<string, string | undefined>) {
  void router.push({ query: { ...route.query, item: undefined, ...change } });
}
function setWhere(where: Group) {
  go({ where: writeQuery(where) || undefined });
}
const firstScan = computed(() => site.running.find((job) => job.kind === 'scan'));
const focused = computed(() => Number(route.query['item']) || undefined);
function open(id: number | undefined) {
  void router.push({ query: { ...route.query, item: id } });
}

/** The item that fills the window. */
const closer = ref<number>();
const closerIds = computed(() => (closer.value === undefined ? [] : [closer.value]));

const VIEW = 'iconomos.library-view';
const SIZE = 'iconomos.sheet-size';
const view = computed(() => part('view') || localStorage.getItem(VIEW) || 'sheet');
function show(name: string) {
  localStorage.setItem(VIEW, name);
  void router.replace({ query: { ...route.query, view: name === 'sheet' ? undefined : name } });
}
const size = ref(Number(localStorage.getItem(SIZE)) || 128);
watch(size, (pixels) => localStorage.setItem(SIZE, String(pixels)));
const sorts = computed(() => SORT_TEXTS.filter(([name]) => name !== 'rank' || part('q') !== ''));
/** What is gathered of what is shown: the rest may be gathered too. */
const allGathered = computed(() => ids.value.length > 0 && ids.value.every((id) => tray.has(id)));
</script>

<template>
  <div class="library">
    <FolderDrawer />
    <div class="sheet">
      <div class="sentence">
        <h1 class="hidden-words">Library</h1>
        <span
          >{{ part('folder') ? `Items in “${part('folder')}” or below` : 'All items'
          }}{{ reading.where.of.length ? ':' : '' }}</span
        >
        <FindSentence
          :where="reading.where"
          :query="stable"
          :words="part('q')"
          :entry="part('entry') !== ''"
          @change="setWhere"
          @drop="(what) => go({ [what]: undefined })"
        />
        <select
          aria-label="Order"
          :value="`${query['sort']}${query['turned'] ? '-turned' : ''}`"
          @change="
            (event) => {
              const [, sort, turned] = /^(.*?)(-turned)?$/.exec((event.target as HTMLSelectElement).value)!;
              go({ sort, turned: turned ? '1' : undefined });
            }
          "
        >
          <template v-for="[name, text, back] in sorts" :key="name">
            <option :value="name">{{ text }}</option>
            <option :value="`${name}-turned`">{{ back }}</option>
          </template>
        </select>
        <KeepQuery v-if="query['where'] || query['q']" />
      </div>
      <div class="bar">
        <span v-if="loaded" class="sum figures" role="status"
          >{{ count(ids.length, 'item') }}, {{ weight(bytes) }}</span
        >
        <button v-if="ids.length && !allGathered" class="link" type="button" @click="tray.add(ids)">
          Gather all
        </button>
        <button v-else-if="ids.length" class="link" type="button" @click="tray.remove(ids)">
          Take all out of the tray
        </button>
        <span class="looks toggles" role="group" aria-label="How to look at them">
          <label v-if="view === 'sheet'"
            >Size <input v-model.number="size" type="range" min="72" max="320" step="8"
          /></label>
          <button type="button" :aria-pressed="view === 'sheet'" @click="show('sheet')">Sheet</button>
          <button type="button" :aria-pressed="view === 'table'" @click="show('table')">Table</button>
        </span>
      </div>
      <p v-if="reading.fault || fault" class="note losing">{{ reading.fault || fault }}</p>
      <p v-else-if="firstScan && loaded && ids.length === 0" class="empty figures" role="status">
        The site is being read for the first time: {{ firstScan.done }} of {{ firstScan.total }}
        {{ firstScan.what }}. Its items appear here as soon as that is done; you can leave this window
        meanwhile.
      </p>
      <p v-else-if="loaded && ids.length === 0" class="empty">
        Nothing fits the sentence above. Take one of its parts out, or choose “The whole site” at the left.
      </p>
      <ItemTable
        v-else-if="view === 'table'"
        :ids="ids"
        :items="items"
        :focused="focused"
        :sort="String(query['sort'])"
        :turned="query['turned'] === '1'"
        @open="open"
        @need="need"
        @sort="(sort, turned) => go({ sort, turned: turned ? '1' : undefined })"
      />
      <ContactSheet
        v-else
        :ids="ids"
        :ratios="ratios"
        :items="items"
        :focused="focused"
        :size="size"
        @look="(id) => (closer = id)"
        @open="open"
        @need="need"
      />
    </div>
    <LookCloser
      v-if="closer !== undefined"
      :ids="closerIds"
      :among="ids"
      @go="(id) => (closer = id)"
      @close="closer = undefined"
    />
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
  padding: 10px 20px 4px;
}
.bar {
  display: flex;
  align-items: center;
  gap: 14px;
  padding: 2px 20px 8px;
  border-bottom: 1px solid var(--rule);
}
select {
  height: 26px;
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
  font-weight: 600;
}
.looks {
  display: flex;
  align-items: center;
  margin-left: auto;
  gap: 12px;
}
.looks label {
  display: flex;
  align-items: center;
  gap: 8px;
}
.looks input {
  width: 120px;
  accent-color: var(--verdigris);
}
.empty {
  padding: 40px 20px;
}
</style>
