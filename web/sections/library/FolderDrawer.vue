<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import { useRoute } from 'vue-router';
import type { FolderView } from '../../../api/items.ts';
import { baseName, folderOf, isWithin } from '../../../core/address/path.ts';
import { api } from '../../api/client.ts';
import { useSite } from '../../stores/site.ts';

const site = useSite();
const route = useRoute();
const folders = ref<FolderView[]>([]);
watch(
  () => site.revision,
  async () => (folders.value = await api.folders()),
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
const query = (folder: string) => ({
  query: { ...route.query, folder: folder || undefined, item: undefined },
});
</script>

<template>
  <nav class="drawer" aria-label="Folders">
    <ul>
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
        >
          <span>{{ one.name }}</span><span class="figures">{{ one.items }}</span>
        </RouterLink>
      </li>
    </ul>
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
a.current {
  background: var(--verdigris-wash);
  color: var(--verdigris);
  font-weight: 600;
}
</style>
