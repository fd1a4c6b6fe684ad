<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import { useRoute } from 'vue-router';
import type { FolderView, SavedQuery } from '../../../api/items.ts';
import { baseName, folderOf, isWithin } from '../../../core/address/path.ts';
import { api, sentenceOf } from '../../api/client.ts';
import { usePlan } from '../../stores/plan.ts';
import { useSite } from '../../stores/site.ts';
import { useTray } from '../../stores/tray.ts';
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

/** Every folder on the way to one that holds items, with all that lie in it and below. */
const tree = computed(() => {
  const paths = new Set<string>();
  for (const { folder } of folders.value) for (let at = folder; at !== ''; at = folderOf(at)) paths.add(at);
  return [...paths].sort().map((folder) => ({
    folder,
    name: baseName(folder),
    depth: folder.split('/').length,
    items: folders.value
      .filter((one) => isWithin(folder, one.folder))
      .reduce((sum, one) => sum + one.items, 0),
  }));
});
const all = computed(() => folders.value.reduce((sum, one) => sum + one.items, 0));
const current = computed(() => (typeof route.query['folder'] === 'string' ? route.query['folder'] : ''));
/** What is gathered, dropped on a folder, goes there: as a plan. */
const over = ref<string>();
function dropped(event: DragEvent, folder: string) {
  over.value = undefined;
  if (!event.dataTransfer?.types.includes('application/x-iconomos-tray')) return;
  event.preventDefault();
  event.stopPropagation();
  void plan.propose({ kind: 'move', itemIds: [...tray.ids], folder });
}
/** The current folder's name, while it is being written anew. */
const renaming = ref<string>();
const byTag = ref(typeof route.query['where'] === 'string' && /^tag:[^,]*$/.test(route.query['where']));
const fault = ref('');
async function rename() {
  const to = renaming.value?.trim().replace(/^\/+|\/+$/g, '');
  renaming.value = undefined;
  if (to && to !== current.value) await plan.propose({ kind: 'folder', folder: current.value, to });
}
async function forget(one: SavedQuery) {
  try {
    await api.dropQuery(one.id);
    kept.value = kept.value.filter((other) => other.id !== one.id);
  } catch (error) {
    fault.value = sentenceOf(error);
  }
}
const query = (folder: string) => ({
  query: { ...route.query, folder: folder || undefined, item: undefined },
});
</script>

<template>
  <nav class="drawer" aria-label="Folders and tags">
    <div class="which toggles" role="group" aria-label="What stands in the drawer">
      <button type="button" :aria-pressed="!byTag" @click="byTag = false">Folders</button>
      <button type="button" :aria-pressed="byTag" @click="byTag = true">Tags</button>
    </div>
    <TagList v-if="byTag" />
    <ul v-if="!byTag">
      <li>
        <RouterLink
          :to="query('')"
          :class="{ current: current === '' }"
          :aria-current="current === '' ? 'true' : undefined"
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
          @dragover.prevent="over = one.folder"
          @dragleave="over = undefined"
          @drop="dropped($event, one.folder)"
        >
          <span>{{ one.name }}</span><span class="figures">{{ one.items }}</span>
        </RouterLink>
      </li>
    </ul>
    <form
      v-if="!byTag && current && renaming !== undefined"
      class="rename"
      @submit.prevent="rename"
      @keydown.escape.stop="renaming = undefined"
    >
      <label for="folder-address">Address of the folder</label>
      <input id="folder-address" v-model="renaming" class="mono" spellcheck="false" />
      <button class="link" type="submit">Look at the plan</button>
      <button class="link" type="button" @click="renaming = undefined">Not now</button>
    </form>
    <button v-else-if="!byTag && current" class="link act-on" type="button" @click="renaming = current">
      Rename or move this folder …
    </button>
    <template v-if="kept.length">
      <h2>Kept queries</h2>
      <ul>
        <li v-for="one in kept" :key="one.id" class="kept">
          <RouterLink :to="`/library?${one.query}`" :title="`Kept by ${one.person}`">
            <span>{{ one.name }}</span><span class="figures">{{ one.items }}</span>
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
    <p v-if="fault" class="note losing">{{ fault }}</p>
  </nav>
</template>

<style scoped>
.drawer {
  width: 208px;
  flex: none;
  padding: 14px 0;
  border-right: 1px solid var(--rule);
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
.act-on {
  margin: 8px 10px;
  text-align: left;
}
.rename {
  display: flex;
  flex-direction: column;
  padding: 8px 10px;
  gap: 4px;
}
.rename input {
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
