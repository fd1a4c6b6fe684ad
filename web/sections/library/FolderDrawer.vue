<script setup lang="ts">
import { trim } from '../../../core/text/cut.ts';
import { computed, nextTick, ref, watch } from 'vue';
import { useRoute } from 'vue-router';
import type { FolderView, SavedQuery } from '../../../api/items.ts';
import { baseName, folderOf, isWithin, joinPath } from '../../../core/address/path.ts';
import { api, sentenceOf } from '../../api/client.ts';
import { count } from '../../parts/words.ts';
import { usePlan } from '../../stores/plan.ts';
import { useSite } from '../../stores/site.ts';
import { useTray } from '../../stores/tray.ts';
import RuleDialog from '../../parts/RuleDialog.vue';
import TagList from './TagList.vue';

const site = useSite();
const route = useRoute();
const tray = useTray();
const plan = usePlan();
const folders = ref<FolderView[]>([]);
const kept = ref<SavedQuery[]>([]);
watch(
  () => site.revision,
  async () => {
    folders.value = await api.folders();
    kept.value = await api.savedQueries();
  },
  { immediate: true },
);

interface Branch {
  folder: string;
  name: string;
  depth: number;
  items: number;
  empty: boolean;
}
/** Every folder on the way to one that holds items or nothing, with all that lie in it and below. */
const tree = computed<Branch[]>(() => {
  const sums = new Map<string, number>();
  for (const { folder, items } of folders.value)
    for (let at = folder; at !== ''; at = folderOf(at)) sums.set(at, (sums.get(at) ?? 0) + items);
  const empty = new Set(folders.value.filter((one) => one.empty).map((one) => one.folder));
  return [...sums]
    .sort(([one], [other]) => (one < other ? -1 : 1))
    .map(([folder, items]) => ({
      folder,
      name: baseName(folder),
      depth: folder.split('/').length,
      items,
      empty: empty.has(folder),
    }));
});
const all = computed(() => folders.value.reduce((sum, one) => sum + one.items, 0));
const current = computed(() => (typeof route.query['folder'] === 'string' ? route.query['folder'] : ''));
const isEmpty = computed(() => tree.value.find((one) => one.folder === current.value)?.empty ?? false);
/** The outermost of those in which nothing lies. */
const empties = computed(() =>
  tree.value
    .filter(
      (one) => one.empty && !tree.value.some((other) => other.empty && other.folder === folderOf(one.folder)),
    )
    .map((one) => one.folder),
);

/** What is gathered, dropped on a folder, goes there; so does a folder. Both as a plan. */
const over = ref<string>();
const FOLDER = 'application/x-iconomos-folder';
function dragged(event: DragEvent, folder: string) {
  event.dataTransfer?.setData(FOLDER, folder);
}
function dropped(event: DragEvent, folder: string) {
  over.value = undefined;
  const moved = event.dataTransfer?.getData(FOLDER);
  if (!moved && !event.dataTransfer?.types.includes('application/x-iconomos-tray')) return;
  event.preventDefault();
  event.stopPropagation();
  if (!moved) void plan.propose({ kind: 'move', itemIds: [...tray.ids], folder });
  else if (!isWithin(moved, folder) && folderOf(moved) !== folder)
    void plan.propose({ kind: 'folder', folder: moved, to: joinPath(folder, baseName(moved)) });
}
/** Arrow keys go up and down the tree; F2 is not ours to take: the acts below rename. */
function walk(event: KeyboardEvent) {
  const step = { ArrowDown: 1, ArrowUp: -1 }[event.key];
  if (!step) return;
  const links = [...(event.currentTarget as HTMLElement).querySelectorAll<HTMLElement>('a')];
  links[links.indexOf(document.activeElement as HTMLElement) + step]?.focus();
  event.preventDefault();
}

/** An address that is being written: the current folder's own, or that of a new one in it. */
const writing = ref<{ what: 'address' | 'new'; text: string }>();
const field = ref<HTMLInputElement>();
async function write(what: 'address' | 'new') {
  writing.value = { what, text: what === 'address' ? current.value : '' };
  await nextTick();
  field.value?.focus();
}
async function written() {
  const { what, text } = writing.value!;
  const to = trim(text.trim(), '/');
  writing.value = undefined;
  if (!to) return;
  if (what === 'new') await plan.propose({ kind: 'new-folder', folder: joinPath(current.value, to) });
  else if (to !== current.value) await plan.propose({ kind: 'folder', folder: current.value, to });
}
const ruling = ref(false);
const byTag = ref(typeof route.query['where'] === 'string' && /^tag:[^,]*$/.test(route.query['where']));
const fault = ref('');
async function forget(one: SavedQuery) {
  try {
    await plan.changed(await api.dropQuery(one.id));
  } catch (error) {
    fault.value = sentenceOf(error);
  }
}
/** Off the site: set aside, or missing. */
const off = computed(() => ['aside', 'absent'].find((one) => one === route.query['state']));
const query = (folder: string) => ({
  query: { ...route.query, state: undefined, folder: folder || undefined, item: undefined },
});
</script>

<template>
  <nav class="drawer" aria-label="Folders and tags">
    <div class="which toggles" role="group" aria-label="What stands in the drawer">
      <button type="button" :aria-pressed="!byTag" @click="byTag = false">Folders</button>
      <button type="button" :aria-pressed="byTag" @click="byTag = true">Tags</button>
    </div>
    <div class="list">
      <TagList v-if="byTag" />
      <ul v-if="!byTag" @keydown="walk">
        <li>
          <RouterLink
            :to="query('')"
            :class="{ current: current === '' && !off }"
            :aria-current="current === '' && !off ? 'true' : undefined"
            :data-over="over === '' || undefined"
            @dragover.prevent="over = ''"
            @dragleave="over = undefined"
            @drop="dropped($event, '')"
            ><span>The whole site</span><span class="figures">{{ all }}</span></RouterLink
          >
        </li>
        <li v-for="one in tree" :key="one.folder">
          <RouterLink
            :to="query(one.folder)"
            :class="{ current: current === one.folder }"
            :aria-current="current === one.folder ? 'true' : undefined"
            :style="{ paddingLeft: `${6 + one.depth * 13}px` }"
            :data-over="over === one.folder || undefined"
            :data-folder="one.folder"
            draggable="true"
            @dragstart="dragged($event, one.folder)"
            @dragover.prevent="over = one.folder"
            @dragleave="over = undefined"
            @drop="dropped($event, one.folder)"
          >
            <span>{{ one.name }}</span><span class="figures">{{ one.empty ? 'empty' : one.items }}</span>
          </RouterLink>
        </li>
        <li v-if="site.site?.counts.aside" class="apart">
          <RouterLink
            :to="{ query: { state: 'aside' } }"
            :class="{ current: off === 'aside' }"
            :aria-current="off === 'aside' ? 'true' : undefined"
            ><span>Set aside</span><span class="figures">{{ site.site.counts.aside }}</span></RouterLink
          >
        </li>
        <li v-if="site.site?.counts.missing" :class="{ apart: !site.site.counts.aside }">
          <RouterLink
            :to="{ query: { state: 'absent' } }"
            :class="{ current: off === 'absent' }"
            :aria-current="off === 'absent' ? 'true' : undefined"
            ><span>File missing</span><span class="figures">{{ site.site.counts.missing }}</span></RouterLink
          >
        </li>
      </ul>
      <template v-if="kept.length">
        <h2>Kept queries</h2>
        <ul>
          <li v-for="one in kept" :key="one.id" class="kept">
            <RouterLink :to="`/library?${one.query}`" :title="`Kept by ${one.person}`">
              <span>{{ one.name }}</span><span
                class="figures"
                :title="one.items === null ? 'This query cannot be counted.' : undefined"
                >{{ one.items ?? '–' }}</span
              >
            </RouterLink>
            <button
              class="link"
              type="button"
              :aria-label="`Forget the query ${one.name}`"
              @click="forget(one)"
            >
              ×
            </button>
          </li>
        </ul>
      </template>
    </div>
    <form
      v-if="!byTag && writing"
      class="writing"
      @submit.prevent="written"
      @keydown.escape.stop="writing = undefined"
    >
      <label for="folder-address">{{
        writing.what === 'new'
          ? `New folder in “${current || 'the site’s root'}”`
          : 'Address of the folder; one that is there takes it in'
      }}</label>
      <input
        id="folder-address"
        ref="field"
        v-model="writing.text"
        class="mono"
        spellcheck="false"
        maxlength="1000"
      />
      <span>
        <button class="link" type="submit">Look at the plan</button>
        <button class="link" type="button" @click="writing = undefined">Not now</button>
      </span>
    </form>
    <div v-else-if="!byTag && !off" class="acts-on" role="group" aria-label="What to do with this folder">
      <button v-if="current" class="link" type="button" @click="write('address')">
        Rename, move or merge …
      </button>
      <button class="link" type="button" @click="write('new')">New folder …</button>
      <button class="link" type="button" @click="ruling = true">What it is for …</button>
      <button
        v-if="isEmpty"
        class="link losing"
        type="button"
        @click="plan.propose({ kind: 'drop-folders', folders: [current] })"
      >
        Remove this empty folder …
      </button>
      <button
        v-else-if="!current && empties.length"
        class="link losing"
        type="button"
        @click="plan.propose({ kind: 'drop-folders', folders: empties })"
      >
        Remove {{ count(empties.length, 'empty folder') }} …
      </button>
    </div>
    <RuleDialog v-if="ruling" :folder="current" @close="ruling = false" />
    <p v-if="fault" class="note losing">{{ fault }}</p>
  </nav>
</template>

<style scoped>
.drawer {
  display: flex;
  width: var(--drawer);
  flex: none;
  flex-direction: column;
  padding: 14px 0 0;
  border-right: 1px solid var(--rule);
}
/* What can be done with the folder stays in sight, however many there are. */
.list {
  min-height: 0;
  flex: 1;
  overflow: auto;
}
ul {
  margin: 0;
  padding: 0;
  list-style: none;
}
a {
  display: flex;
  min-height: 26px;
  align-items: center;
  justify-content: space-between;
  gap: 8px;
  padding: 2px 14px 2px 10px;
  color: var(--ink);
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
.which {
  display: flex;
  padding: 0 10px 8px;
  gap: 16px;
}
a[data-over] {
  outline: 2px solid var(--verdigris);
  outline-offset: -2px;
}
h2 {
  padding: 16px 14px 4px 10px;
  color: var(--ink-soft);
  font-size: 12.5px;
}
.acts-on {
  display: flex;
  flex-direction: column;
  align-items: flex-start;
  padding: 6px 8px 8px;
  border-top: 1px solid var(--rule);
}
.acts-on .losing {
  color: var(--madder);
}
.apart {
  margin-top: 8px;
  border-top: 1px solid var(--rule);
}
.writing {
  display: flex;
  flex-direction: column;
  padding: 8px 10px;
  gap: 4px;
}
.writing input {
  height: 28px;
  padding: 0 6px;
  border: 1px solid var(--rule-strong);
  background: var(--paper-raised);
  font-size: 12px;
}
.kept {
  display: flex;
}
.kept a {
  min-width: 0;
  flex: 1;
}
a.current {
  background: var(--verdigris-wash);
  color: var(--verdigris);
  font-weight: 600;
}
</style>
