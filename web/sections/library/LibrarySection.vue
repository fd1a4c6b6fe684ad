<script setup lang="ts">
import { useLocalStorage } from '@vueuse/core';
import { useEventListener } from '@vueuse/core';
import { computed, ref, useTemplateRef, watch } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import { GROUPINGS, type Grouping } from '../../../core/find/sorts.ts';
import { EVERYTHING, readQuery, writeQuery, type Group } from '../../../core/find/query.ts';
import { takes } from '../../../core/find/tests.ts';
import { api, sentenceOf, type Query } from '../../api/client.ts';
import { count, weight } from '../../parts/words.ts';
import { useSite } from '../../stores/site.ts';
import { useClipboard } from '../../stores/clipboard.ts';
import { usePreparing } from '../../stores/preparing.ts';
import { useTray, type TrayAct } from '../../stores/tray.ts';
import { actOfKey, lotOfOne, offered } from '../../parts/tray-acts.ts';
import ContactSheet from './ContactSheet.vue';
import FindSentence from './FindSentence.vue';
import FolderDrawer from './FolderDrawer.vue';
import { GROUPING_TEXTS, headed } from './groups.ts';
import { PhFolders, PhSortAscending, PhSortDescending } from '@phosphor-icons/vue';
import { SORTS } from './labels.ts';
import { useFound } from './useFound.ts';
import AppButton from '../../kit/AppButton.vue';
import AppMenu from '../../kit/AppMenu.vue';
import AppOption from '../../kit/AppOption.ts';
import AppSelect from '../../kit/AppSelect.vue';
import AppSegmented from '../../kit/AppSegmented.vue';
import AppSlider from '../../kit/AppSlider.vue';
import { isCovered, useFolded } from '../../kit/screen.ts';
import AppPanes from '../../kit/AppPanes.vue';
import { laterPart } from '../../kit/later.ts';

const LookCloser = laterPart(() => import('../../parts/LookCloser.vue'));
const AppDrawer = laterPart(() => import('../../kit/AppDrawer.vue'));
const ItemTable = laterPart(() => import('./ItemTable.vue'));
const KeepQuery = laterPart(() => import('./KeepQuery.vue'));

const site = useSite();
const tray = useTray();
const preparing = usePreparing();
const route = useRoute();
const router = useRouter();

/** In narrow windows the folders lie in a drawer, until one is chosen. */
const folded = useFolded();
const drawer = ref(false);
watch(
  () => [route.query['folder'], route.query['where'], route.query['state']],
  () => (drawer.value = false),
);

const part = (name: string) => (typeof route.query[name] === 'string' ? (route.query[name] as string) : '');
/** A query of the address bar that cannot be read is told, and everything is shown. */
const reading = computed<{ where: Group; fault: string }>(() => {
  try {
    return { where: readQuery(part('where'), takes), fault: '' };
  } catch (error) {
    return { where: EVERYTHING, fault: (error as Error).message };
  }
});
/** What is listed beside the items of the site. */
const STATES: Record<string, string> = {
  draft: 'Drafts, not on the site yet',
  aside: 'Items that are set aside',
  absent: 'Items whose file is missing',
};
const grouping = computed<Grouping | ''>(() => GROUPINGS.find((one) => one === part('group')) ?? '');
const words = computed(() => part('q').split(/\s+/).filter(Boolean));
const query = computed<Query>(() => ({
  folder: part('folder'),
  entry: part('entry'),
  q: part('q'),
  // What one change touched is listed wherever it is now.
  state: part('state') in STATES ? part('state') : part('entry') ? 'any' : '',
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

const lastView = useLocalStorage('iconomos.library-view', 'sheet');
const view = computed(() => part('view') || lastView.value);
function show(name: string) {
  lastView.value = name;
  void router.replace({ query: { ...route.query, view: name === 'sheet' ? undefined : name } });
}
const size = useLocalStorage('iconomos.sheet-size', 128);
const sorts = computed(() => SORTS.filter((one) => one.key !== 'rank' || part('q') !== ''));
const way = computed(() => {
  const sort = SORTS.find((one) => one.key === query.value['sort']);
  return (query.value['turned'] ? sort?.back : sort?.way) ?? '';
});
/** The facets and kept queries ask without how it is shown. */
const counted = computed<Query>(() => ({ ...stable.value, group: '' }));

/** The item that the keys are on. */
function current(): number | undefined {
  const at = (document.activeElement as HTMLElement | null)?.dataset['item'];
  return at === undefined ? focused.value : Number(at);
}
/** The folder of the tree that the keys are on. */
function currentFolder(): string | undefined {
  const at = document.activeElement as HTMLElement | null;
  return at?.dataset['folder'] ?? at?.closest<HTMLElement>('.el-tree-node')?.dataset['key'];
}
const busyElsewhere = (target: EventTarget | null) =>
  (target as HTMLElement).closest?.('input:not([type=checkbox]), textarea, select, [role=dialog]') !== null ||
  isCovered() ||
  closer.value !== undefined;
/** Letters start the acts of the tray; with an empty tray, on the item that has the focus. */
function onKey(event: KeyboardEvent) {
  if (event.ctrlKey || event.metaKey || event.altKey || busyElsewhere(event.target)) return;
  if ('abn'.includes(event.key) && focused.value !== undefined) return; // The open record's own keys.
  const id = current();
  if (event.key === 'b' && id !== undefined && items.get(id)?.kind === 'image' && site.may('clean')) {
    event.preventDefault();
    return void router.push({ name: 'edit', params: { id } });
  }
  const alone = tray.size === 0 && id !== undefined;
  const act = actOfKey(event.key, alone ? lotOfOne(items.get(id)?.state ?? '') : tray, site.can);
  if (!act || (tray.size === 0 && !alone)) return;
  event.preventDefault();
  if (alone) tray.add([id]);
  tray.act = act;
}
const clipboard = useClipboard();
const folder = computed(() => part('folder'));
function taken(event: ClipboardEvent) {
  if (!site.can('organise') || busyElsewhere(event.target) || !window.getSelection()?.isCollapsed) return;
  const how = event.type === 'cut' ? 'cut' : 'copy';
  const id = current();
  const of = currentFolder();
  const pathsOf = (of: readonly number[]) =>
    of.flatMap((one) => items.get(one)?.path ?? tray.last.find((item) => item.id === one)?.path ?? []);
  if (of && how === 'cut') clipboard.hold({ do: 'cut', folder: of }, event, [of]);
  else if (tray.size > 0) clipboard.hold({ do: how, ids: [...tray.ids] }, event, pathsOf([...tray.ids]));
  else if (id !== undefined) clipboard.hold({ do: how, ids: [id] }, event, pathsOf([id]));
}
function pasted(event: ClipboardEvent) {
  if (busyElsewhere(event.target) || !clipboard.meant(event)) return;
  event.preventDefault();
  void clipboard.paste(currentFolder() ?? folder.value);
}
useEventListener(window, 'keydown', onKey);
useEventListener(window, ['cut', 'copy'], taken);
useEventListener(window, 'paste', pasted);

/** A right click on an item: what can be done with it, or with the tray when it lies there. */
const menu = useTemplateRef<{ openFor(event: Event): void }>('menu');
const asked = ref<number>();
const menuItems = computed(() => {
  const id = asked.value;
  if (id === undefined) return [];
  const inTray = tray.has(id);
  const whole = inTray && tray.size > 1;
  const { first, more } = offered(whole ? tray : lotOfOne(items.get(id)?.state ?? ''), site.can);
  // The tray stays as it is: what is done with one item alone waits until it is empty or holds nothing else.
  const acts = tray.size === 0 || inTray ? [...first, ...more] : [];
  return [
    { key: 'open', label: 'Open record', keys: 'Enter' },
    { key: 'look', label: 'Look closer', keys: 'L' },
    ...(items.get(id)?.kind === 'image'
      ? [
          ...(site.may('clean') ? [{ key: 'edit', label: 'Edit image', keys: 'B' }] : []),
          { key: 'like', label: 'Find similar' },
        ]
      : []),
    inTray
      ? { key: 'out', label: 'Remove from tray', keys: 'Space' }
      : { key: 'in', label: 'Add to tray', keys: 'Space' },
    ...acts.map((one, at) => ({
      key: `act:${one.act}`,
      label: whole ? `${one.words} (${count(tray.size, 'item')})` : one.words,
      keys: one.key,
      danger: one.losing ?? false,
      divided: at === 0,
    })),
  ];
});
function ask(event: MouseEvent) {
  const at = (event.target as HTMLElement).closest<HTMLElement>('.place, [role=row]');
  const id = Number(at?.querySelector<HTMLElement>('[data-item]')?.dataset['item'] ?? at?.dataset['item']);
  if (!id) return;
  event.preventDefault();
  asked.value = id;
  menu.value?.openFor(event);
}
function chosen(key: string) {
  const id = asked.value!;
  if (key === 'open') open(id);
  else if (key === 'look') closer.value = id;
  else if (key === 'edit') void router.push({ name: 'edit', params: { id } });
  else if (key === 'like') void router.push({ query: { where: `like:${id}`, item: id } });
  else if (key === 'out') tray.remove([id]);
  else tray.add([id]);
  if (key.startsWith('act:')) tray.act = key.slice(4) as TrayAct;
}

/** What is gathered of what is shown: the rest may be gathered too. */
const allGathered = computed(() => ids.value.length > 0 && ids.value.every((id) => tray.has(id)));
</script>

<template>
  <AppPanes
    class="library"
    name="folders"
    side="start"
    label="Width of the folders"
    :shown="!folded"
    :width="208"
    :min="150"
    :max="480"
  >
    <template #pane><FolderDrawer v-if="!folded" /></template>
    <AppDrawer v-if="folded" v-model="drawer" title="Folders and tags"
      ><FolderDrawer class="in-drawer"
    /></AppDrawer>
    <div class="sheet" @contextmenu="ask">
      <AppMenu ref="menu" label="Actions for the item" :items="menuItems" @choose="chosen" />
      <div class="sentence">
        <h1 class="hidden-words">Library</h1>
        <AppButton v-if="folded" :aria-expanded="drawer" @click="drawer = true">
          <PhFolders :size="16" aria-hidden="true" /> Folders
        </AppButton>
        <span
          >{{
            STATES[part('state')] ?? (part('folder') ? `Items in “${part('folder')}” or below` : 'All items')
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
        <KeepQuery v-if="site.may('describe') && (query['where'] || query['q'])" />
      </div>
      <div class="bar">
        <span v-if="loaded" class="sum figures" role="status"
          >{{ count(total, 'item') }}, {{ weight(bytes) }}</span
        >
        <AppButton v-if="ids.length && !allGathered" look="link" @click="tray.add(ids)">
          Add all to tray
        </AppButton>
        <AppButton v-else-if="ids.length" look="link" @click="tray.remove(ids)">
          Remove all from tray
        </AppButton>
        <AppButton
          v-if="ids.length && !part('state') && (query['where'] || query['q'])"
          look="link"
          @click="preparing.start([...ids], 'that were found')"
        >
          Prepare all …
        </AppButton>
        <span class="looks">
          <span class="sort"
            ><AppSelect
              aria-label="Sort by"
              :model-value="String(query['sort'])"
              :chars="11"
              @change="(sort) => go({ sort, turned: undefined })"
              ><AppOption
                v-for="one in sorts"
                :key="one.key"
                :value="one.key"
                :label="one.name"
              /> </AppSelect
            ><AppButton
              look="glyph"
              :aria-label="`Sort direction: ${way}`"
              :title="way"
              @click="go({ turned: query['turned'] ? undefined : '1' })"
              ><PhSortDescending v-if="query['turned']" :size="18" /><PhSortAscending v-else :size="18" />
            </AppButton>
          </span>
          <AppSelect
            aria-label="Group by"
            :chars="12"
            :model-value="grouping"
            @change="(by) => go({ group: by || undefined })"
            ><AppOption v-for="[name, text] in GROUPING_TEXTS" :key="name" :value="name" :label="text" />
          </AppSelect>

          <template v-if="view === 'sheet'"
            ><AppSlider v-model="size" :min="72" :max="320" :step="8" label="Size of the thumbnails"
          /></template>
          <AppSegmented
            :model-value="view"
            label="View"
            :options="[
              { value: 'sheet', label: 'Sheet' },
              { value: 'table', label: 'Table' },
            ]"
            @update:model-value="show"
          />
        </span>
      </div>
      <p v-if="missing" class="held" role="status">
        {{ count(missing, 'item') }} with a missing file also {{ missing === 1 ? 'matches' : 'match' }}.
        <AppButton look="link" @click="go({ state: 'absent' })">
          Show {{ missing === 1 ? 'it' : 'them' }}
        </AppButton>
      </p>
      <p v-if="clipboard.held" class="held" role="status">
        {{ clipboard.what }}.
        <AppButton look="link" @click="clipboard.paste(folder)">
          Paste into “{{ folder || 'the site’s root' }}”
        </AppButton>
        <span class="soft">(Ctrl + V in a folder)</span>
        <AppButton look="link" @click="clipboard.clear()">Clear clipboard</AppButton>
      </p>
      <p v-if="reading.fault || fault || missingFault" class="note losing">
        {{ reading.fault || fault || missingFault }}
      </p>
      <p v-else-if="firstScan && loaded && ids.length === 0" class="empty figures" role="status">
        Reading the site for the first time: {{ firstScan.done }} of {{ firstScan.total }}
        {{ firstScan.what }}. Items appear here when it is done. You can leave this page meanwhile.
      </p>
      <p v-else-if="loaded && ids.length === 0 && site.site?.counts.items === 0" class="empty">
        This site has no items yet. <RouterLink to="/intake">Bring in files</RouterLink>, or drop them
        anywhere in this window.
      </p>
      <p v-else-if="loaded && ids.length === 0" class="empty">
        No items match. Remove a filter, or choose “All folders” on the left.
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
  </AppPanes>
</template>

<style scoped src="./LibrarySection.css"></style>
