<script setup lang="ts">
import { computed, onMounted, onUnmounted, ref, watch } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import { GROUPINGS, type Grouping } from '../../../core/find/sorts.ts';
import { EVERYTHING, readQuery, writeQuery, type Group } from '../../../core/find/query.ts';
import { takes } from '../../../core/find/tests.ts';
import { api, sentenceOf, type Query } from '../../api/client.ts';
import { count, weight } from '../../parts/words.ts';
import { useSite } from '../../stores/site.ts';
import { useClipboard } from '../../stores/clipboard.ts';
import { useTray } from '../../stores/tray.ts';
import { actOfKey } from '../../parts/tray-acts.ts';
import LookCloser from '../../parts/LookCloser.vue';
import ContactSheet from './ContactSheet.vue';
import FindSentence from './FindSentence.vue';
import FolderDrawer from './FolderDrawer.vue';
import ItemTable from './ItemTable.vue';
import KeepQuery from './KeepQuery.vue';
import { GROUPING_TEXTS, headed } from './groups.ts';
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
const grouping = computed<Grouping | ''>(() => GROUPINGS.find((one) => one === part('group')) ?? '');
const words = computed(() => part('q').split(/\s+/).filter(Boolean));
const query = computed<Query>(() => ({
  folder: part('folder'),
  entry: part('entry'),
  q: part('q'),
  state: ['aside', 'absent'].includes(part('state')) ? part('state') : '',
  group: grouping.value,
  where: writeQuery(reading.value.where),
  sort: part('sort') || (part('q') ? 'rank' : 'kind'),
  turned: part('turned'),
}));
const stable = ref(query.value);
watch(query, (next) => {
  if (JSON.stringify(next) !== JSON.stringify(stable.value)) stable.value = next;
});
const { ids, ratios, bytes, total, groups, loaded, fault, items, need } = useFound(
  stable,
  () => site.revision,
);

/** Records without a file are not among the items of the site; who looks for one by its words is told of it. */
const missing = ref(0);
const missingFault = ref('');
watch(
  [stable, () => site.revision],
  async ([asked]) => {
    missing.value = 0;
    missingFault.value = '';
    if (!asked['q'] || asked['state'] || !site.site?.counts.missing) return;
    try {
      const { total } = await api.items({ q: asked['q'], state: 'absent', limit: 1 });
      if (asked === stable.value) missing.value = total;
    } catch (error) {
      missingFault.value = sentenceOf(error);
    }
  },
  { immediate: true },
);

function go(change: Record<string, string | undefined>) {
  void router.push({ query: { ...route.query, item: undefined, ...change } });
}
function setWhere(where: Group) {
  go({ where: writeQuery(where) || undefined });
}
const heads = computed(() => (grouping.value ? headed(groups.value, grouping.value, ids.value.length) : []));
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
/** The facets and kept queries ask without how it is shown. */
const counted = computed<Query>(() => ({ ...stable.value, group: '' }));

/** The item that the keys are on. */
function current(): number | undefined {
  const at = (document.activeElement as HTMLElement | null)?.dataset['item'];
  return at === undefined ? focused.value : Number(at);
}
const busyElsewhere = (target: EventTarget | null) =>
  (target as HTMLElement).closest?.('input:not([type=checkbox]), textarea, select, [role=dialog]') !== null ||
  document.querySelector('.el-overlay:not([style*="display: none"])') !== null ||
  closer.value !== undefined;
/** Letters start the acts of the tray; with an empty tray, on the item that has the focus. */
function onKey(event: KeyboardEvent) {
  if (event.ctrlKey || event.metaKey || event.altKey || busyElsewhere(event.target)) return;
  if ('an'.includes(event.key) && focused.value !== undefined) return; // The open record's own keys.
  const id = current();
  const alone = tray.size === 0 && id !== undefined;
  const act = actOfKey(event.key, alone ? 1 : tray.size, alone && part('state') === 'aside' ? 1 : tray.aside);
  if (!act || (tray.size === 0 && !alone)) return;
  event.preventDefault();
  if (alone) tray.add([id]);
  tray.act = act;
}
const clipboard = useClipboard();
const folder = computed(() => part('folder'));
function taken(event: ClipboardEvent) {
  if (busyElsewhere(event.target) || !window.getSelection()?.isCollapsed) return;
  const how = event.type === 'cut' ? 'cut' : 'copy';
  const id = current();
  const of = (document.activeElement as HTMLElement | null)?.dataset['folder'];
  if (of && how === 'cut') clipboard.hold({ do: 'cut', folder: of });
  else if (tray.size > 0) clipboard.hold({ do: how, ids: [...tray.ids] });
  else if (id !== undefined) clipboard.hold({ do: how, ids: [id] });
  else return;
  event.preventDefault();
}
function pasted(event: ClipboardEvent) {
  if (busyElsewhere(event.target) || (event.clipboardData?.files.length ?? 0) > 0 || !clipboard.held) return;
  event.preventDefault();
  const of = (document.activeElement as HTMLElement | null)?.dataset['folder'];
  void clipboard.paste(of ?? folder.value);
}
onMounted(() => {
  window.addEventListener('keydown', onKey);
  window.addEventListener('cut', taken);
  window.addEventListener('copy', taken);
  window.addEventListener('paste', pasted);
});
onUnmounted(() => {
  window.removeEventListener('keydown', onKey);
  window.removeEventListener('cut', taken);
  window.removeEventListener('copy', taken);
  window.removeEventListener('paste', pasted);
});

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
          >{{
            part('state') === 'aside'
              ? 'Items that are set aside'
              : part('state') === 'absent'
                ? 'Items whose file is missing'
                : part('folder')
                  ? `Items in “${part('folder')}” or below`
                  : 'All items'
          }}{{ reading.where.of.length ? ':' : '' }}</span
        >
        <FindSentence
          :where="reading.where"
          :query="counted"
          :focused="focused"
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
        <select
          aria-label="Grouping"
          :value="grouping"
          @change="(event) => go({ group: (event.target as HTMLSelectElement).value || undefined })"
        >
          <option v-for="[name, text] in GROUPING_TEXTS" :key="name" :value="name">{{ text }}</option>
        </select>
        <KeepQuery v-if="query['where'] || query['q']" />
      </div>
      <div class="bar">
        <span v-if="loaded" class="sum figures" role="status"
          >{{ count(total, 'item') }}, {{ weight(bytes) }}</span
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
      <p v-if="missing" class="held" role="status">
        {{ count(missing, 'item') }} with a missing file {{ missing === 1 ? 'fits' : 'fit' }} too.
        <button class="link" type="button" @click="go({ state: 'absent' })">
          Show {{ missing === 1 ? 'it' : 'them' }}
        </button>
      </p>
      <p v-if="clipboard.held" class="held" role="status">
        {{ clipboard.what }}.
        <button class="link" type="button" @click="clipboard.paste(folder)">
          Put it into “{{ folder || 'the site’s root' }}”
        </button>
        <span class="soft">(Ctrl + V, on the folder that is shown or has the focus)</span>
        <button class="link" type="button" @click="clipboard.hold(undefined)">Let go</button>
      </p>
      <p v-if="reading.fault || fault || missingFault" class="note losing">
        {{ reading.fault || fault || missingFault }}
      </p>
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
        :groups="heads"
        :words="words"
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
        :groups="heads"
        :words="words"
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
  flex-wrap: wrap;
  align-items: center;
  gap: 2px 14px;
  white-space: nowrap;
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
  width: clamp(60px, 9vw, 120px);
  accent-color: var(--verdigris);
}
.held {
  display: flex;
  align-items: baseline;
  padding: 6px 20px;
  border-bottom: 1px solid var(--rule);
  background: var(--verdigris-wash);
  gap: 14px;
}
.empty {
  padding: 40px 20px;
}
</style>
