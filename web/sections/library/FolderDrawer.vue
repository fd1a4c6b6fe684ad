<script setup lang="ts">
import AppPaneEdge from '../../kit/AppPaneEdge.vue';
import { trim } from '../../../core/text/cut.ts';
import { useLocalStorage } from '@vueuse/core';
import { computed, nextTick, ref, useTemplateRef, watch } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import type { FolderView, SavedQuery } from '../../../api/items.ts';
import { cleanName, folderNameFaults, NAME_FAULT_TEXTS } from '../../../core/address/name.ts';
import { baseName, folderOf, isWithin, joinPath } from '../../../core/address/path.ts';
import { api, sentenceOf } from '../../api/client.ts';
import { count } from '../../parts/words.ts';
import type { Right } from '../../../core/people/rights.ts';
import { usePlan } from '../../stores/plan.ts';
import { usePreparing } from '../../stores/preparing.ts';
import { useSite } from '../../stores/site.ts';
import { useTray } from '../../stores/tray.ts';
import TagList from './TagList.vue';
import AppButton from '../../kit/AppButton.vue';
import AppInput from '../../kit/AppInput.vue';
import AppMenu from '../../kit/AppMenu.vue';
import AppTree from '../../kit/AppTree.vue';
import AppSegmented from '../../kit/AppSegmented.vue';
import { laterPart } from '../../kit/later.ts';

const RuleDialog = laterPart(() => import('../../parts/RuleDialog.vue'));

const site = useSite();
const route = useRoute();
const router = useRouter();
const tray = useTray();
const plan = usePlan();
const preparing = usePreparing();
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

const current = computed(() => (typeof route.query['folder'] === 'string' ? route.query['folder'] : ''));

interface Branch {
  folder: string;
  name: string;
  items: number;
  empty: boolean;
  children: Branch[];
}
/** Every folder on the way to one that holds items or nothing, with all that lie in it and below. */
const branches = computed<Branch[]>(() => {
  const sums = new Map<string, number>();
  for (const { folder, items } of folders.value)
    for (let at = folder; at !== ''; at = folderOf(at)) sums.set(at, (sums.get(at) ?? 0) + items);
  const empty = new Set(folders.value.filter((one) => one.empty).map((one) => one.folder));
  return [...sums]
    .sort(([one], [other]) => (one < other ? -1 : 1))
    .map(([folder, items]) => ({
      folder,
      name: baseName(folder),
      items,
      empty: empty.has(folder),
      children: [],
    }));
});
const tree = computed(() => {
  const at = new Map(branches.value.map((one) => [one.folder, one]));
  const tops: Branch[] = [];
  for (const one of branches.value) (at.get(folderOf(one.folder))?.children ?? tops).push(one);
  return tops;
});
/** Which folders are closed, kept in this browser. Of very many only the first level and the way to the current one are open at first. */
const MANY = 80;
const closed = useLocalStorage<Record<string, boolean>>('iconomos.folders-closed', {});
const open = computed(() =>
  branches.value
    .filter(
      ({ folder }) =>
        isWithin(folder, current.value) || !(closed.value[folder] ?? branches.value.length > MANY),
    )
    .map((one) => one.folder),
);
function fold(folder: string, shut: boolean) {
  closed.value = { ...closed.value, [folder]: shut };
}
const all = computed(() => folders.value.reduce((sum, one) => sum + one.items, 0));
const emptyOf = (folder: string) => branches.value.find((one) => one.folder === folder)?.empty ?? false;
/** The outermost of those in which nothing lies. */
const empties = computed(() =>
  branches.value
    .filter(
      (one) =>
        one.empty && !branches.value.some((other) => other.empty && other.folder === folderOf(one.folder)),
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
  if (!site.can('organise')) return;
  event.preventDefault();
  event.stopPropagation();
  if (!moved) void plan.propose({ kind: 'move', itemIds: [...tray.ids], folder });
  else if (!isWithin(moved, folder) && folderOf(moved) !== folder)
    void plan.propose({ kind: 'folder', folder: moved, to: joinPath(folder, baseName(moved)) });
}

/** An address that is being written: the current folder's own, or that of a new one in it. */
const writing = ref<{ what: 'address' | 'new'; of: string; text: string }>();
const field = ref<InstanceType<typeof AppInput>>();
async function write(what: 'address' | 'new', of = current.value) {
  writing.value = { what, of, text: what === 'address' ? of : '' };
  await nextTick();
  field.value?.focus();
}
/** The same path in words that addresses take as they are, where what is written is not. */
const plainer = computed(() => {
  const { what, of, text } = writing.value ?? { what: 'new', of: '', text: '' };
  const parts = trim(text.trim(), '/').split('/');
  // What is there already is called what it is called.
  const old = what === 'address' ? of.split('/') : [];
  const faults = parts.flatMap((part, at) => (part === old[at] ? [] : folderNameFaults(part)));
  if (faults.length === 0) return undefined;
  const path = parts.map((part, at) => (part === old[at] ? part : cleanName(part))).join('/');
  return { path, why: NAME_FAULT_TEXTS[faults[0]!] };
});
async function written(exactly = false) {
  const { what, of, text } = writing.value!;
  const to = exactly ? trim(text.trim(), '/') : (plainer.value?.path ?? trim(text.trim(), '/'));
  writing.value = undefined;
  if (!to) return;
  if (what === 'new') await plan.propose({ kind: 'new-folder', folder: joinPath(of, to) });
  else if (to !== of) await plan.propose({ kind: 'folder', folder: of, to });
  else return;
  // Whoever stood in the folder stands in it still, under its new path.
  if (what === 'address' && plan.plan && isWithin(of, current.value))
    plan.afterwards(() => void router.replace(query(to + current.value.slice(of.length))));
}
/** The folder whose rules are open. */
const ruling = ref<string>();
const ACTS = {
  new: 'New folder …',
  address: 'Rename, move or merge …',
  prepare: 'Prepare its images …',
  rules: 'Folder rules …',
  drop: 'Delete empty folder …',
};
type Act = keyof typeof ACTS;
const RIGHT_OF: Record<Act, Right> = {
  new: 'organise',
  address: 'organise',
  prepare: 'clean',
  rules: 'settings',
  drop: 'organise',
};
/** What can be done with a folder: below the tree for the one that is shown, by right click for any. */
const actsOn = (folder: string) =>
  (Object.keys(ACTS) as Act[])
    .filter((key) => site.can(RIGHT_OF[key]))
    .filter((key) => (key === 'address' ? folder !== '' : key === 'drop' ? emptyOf(folder) : true))
    .map((key) => ({ key, label: ACTS[key], danger: key === 'drop' }));
function act(key: Act, folder: string) {
  if (key === 'rules') ruling.value = folder;
  else if (key === 'prepare') void prepare(folder);
  else if (key === 'drop') void plan.propose({ kind: 'drop-folders', folders: [folder] });
  else void write(key, folder);
}
/** All images that lie in a folder or below it; sizes of others are made anew with theirs. */
async function prepare(folder: string) {
  try {
    const { ids } = await api.itemsFound({ folder: folder || undefined, where: 'kind:image' });
    preparing.start([...ids], folder ? `in “${folder}”` : 'in all folders');
  } catch (error) {
    fault.value = sentenceOf(error);
  }
}
const menu = useTemplateRef<{ openFor(event: Event): void }>('menu');
const asked = ref('');
function ask(event: Event, folder: string) {
  asked.value = folder;
  menu.value?.openFor(event);
}
const shown = ref<'folders' | 'tags'>(
  typeof route.query['where'] === 'string' && /^tag:[^,]*$/.test(route.query['where']) ? 'tags' : 'folders',
);
const byTag = computed(() => shown.value === 'tags');
const fault = ref('');
async function forget(one: SavedQuery) {
  try {
    await plan.changed(await api.dropQuery(one.id));
  } catch (error) {
    fault.value = sentenceOf(error);
  }
}
/** Not on the site: drafts, set aside, or missing. */
const off = computed(() => OFF.find(({ state }) => state === route.query['state'])?.state);
const OFF = [
  { state: 'draft', words: 'Drafts', count: 'drafts' },
  { state: 'aside', words: 'Set aside', count: 'aside' },
  { state: 'absent', words: 'Missing files', count: 'missing' },
] as const;
const offHere = computed(() => OFF.filter(({ count }) => site.site?.counts[count]));
const query = (folder: string) => ({
  query: { ...route.query, state: undefined, folder: folder || undefined, item: undefined },
});
</script>

<template>
  <nav class="drawer" aria-label="Folders and tags">
    <AppPaneEdge />
    <AppSegmented
      v-model="shown"
      class="which"
      label="Folders or tags"
      :options="[
        { value: 'folders', label: 'Folders' },
        { value: 'tags', label: 'Tags' },
      ]"
    />
    <div class="list">
      <TagList v-if="byTag" />
      <template v-if="!byTag">
        <RouterLink
          class="whole"
          :to="query('')"
          :class="{ current: current === '' && !off }"
          :aria-current="current === '' && !off ? 'true' : undefined"
          :data-over="over === '' || undefined"
          @contextmenu.prevent="ask($event, '')"
          @dragover.prevent="over = ''"
          @dragleave="over = undefined"
          @drop="dropped($event, '')"
          ><span>All folders</span><span class="figures">{{ all }}</span></RouterLink
        >
        <AppTree
          label="Folders"
          :data="tree"
          id-key="folder"
          :open="open"
          :current="off ? '' : current"
          @toggle="fold"
          @choose="(folder) => router.push(query(folder))"
          @menu="ask"
        >
          <template #default="{ node: one }">
            <RouterLink
              class="branch"
              tabindex="-1"
              :to="query(one.folder)"
              :data-over="over === one.folder || undefined"
              :data-folder="one.folder"
              draggable="true"
              @dragstart="dragged($event, one.folder)"
              @dragover.prevent="over = one.folder"
              @dragleave="over = undefined"
              @drop="dropped($event, one.folder)"
              ><span class="name">{{ one.name }}</span
              ><span class="figures">{{ one.empty ? 'empty' : one.items }}</span></RouterLink
            >
          </template>
        </AppTree>
      </template>
      <ul v-if="!byTag">
        <li v-for="(one, at) in offHere" :key="one.state" :class="{ apart: at === 0 }">
          <RouterLink
            :to="{ query: { state: one.state } }"
            :class="{ current: off === one.state }"
            :aria-current="off === one.state ? 'true' : undefined"
            ><span>{{ one.words }}</span
            ><span class="figures">{{ site.site?.counts[one.count] }}</span></RouterLink
          >
        </li>
      </ul>
      <template v-if="kept.length">
        <h2>Saved searches</h2>
        <ul>
          <li v-for="one in kept" :key="one.id" class="kept">
            <RouterLink :to="`/library?${one.query}`" :title="`Saved by ${one.person}`">
              <span>{{ one.name }}</span><span
                class="figures"
                :title="one.items === null ? 'This search can’t be counted.' : undefined"
                >{{ one.items ?? '–' }}</span
              >
            </RouterLink>
            <AppButton
              v-if="site.may('describe')"
              look="link"
              :aria-label="`Delete saved search ${one.name}`"
              @click="forget(one)"
            >
              ×
            </AppButton>
          </li>
        </ul>
      </template>
    </div>
    <form
      v-if="!byTag && writing"
      class="writing"
      @submit.prevent="written()"
      @keydown.escape.stop="writing = undefined"
    >
      <label for="folder-address">{{
        writing.what === 'new'
          ? `New folder in “${writing.of || 'the site’s root'}”`
          : 'New path of the folder. If that folder exists, the two are merged'
      }}</label>
      <AppInput
        id="folder-address"
        ref="field"
        v-model="writing.text"
        class="mono"
        spellcheck="false"
        maxlength="1000"
      />
      <p v-if="plainer" class="soft" role="status">
        {{ plainer.why }} It becomes <span class="mono">{{ plainer.path }}</span>.
      </p>
      <span>
        <AppButton look="link" type="submit">Review changes</AppButton>
        <AppButton v-if="plainer" look="link" @click="written(true)">Keep as typed</AppButton>
        <AppButton look="link" @click="writing = undefined">Cancel</AppButton>
      </span>
    </form>
    <div
      v-else-if="!byTag && !off && actsOn(current).length"
      class="acts-on"
      role="group"
      aria-label="Folder actions"
    >
      <AppButton
        v-for="one in actsOn(current)"
        :key="one.key"
        look="link"
        :danger="one.danger"
        @click="act(one.key, current)"
        >{{ one.label }}
      </AppButton>
      <AppButton
        v-if="!current && empties.length && site.can('organise')"
        look="link"
        danger
        @click="plan.propose({ kind: 'drop-folders', folders: empties })"
      >
        Delete {{ count(empties.length, 'empty folder') }} …
      </AppButton>
    </div>
    <AppMenu
      ref="menu"
      :label="`Actions for ${asked || 'the site’s root'}`"
      :items="actsOn(asked)"
      @choose="(key) => act(key, asked)"
    />
    <RuleDialog v-if="ruling !== undefined" :folder="ruling" @close="ruling = undefined" />
    <p v-if="fault" class="note losing">{{ fault }}</p>
  </nav>
</template>

<style scoped src="./drawer-rows.css"></style>
<style scoped src="./FolderDrawer.css"></style>
