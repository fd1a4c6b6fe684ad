<script setup lang="ts">
import { onMounted, reactive, ref, shallowRef, watch } from 'vue';
import { useRoute } from 'vue-router';
import type { NamingTable } from '../../../api/naming.ts';
import type { OwnField } from '../../../core/describe/fields.ts';
import { api, sentenceOf } from '../../api/client.ts';
import { useSite } from '../../stores/site.ts';
import { useTray } from '../../stores/tray.ts';
import DescribeTabs from '../describe/DescribeTabs.vue';
import NamingBench from './NamingBench.vue';
import { NamingChoices } from './useNaming.ts';

/** New names for many: those in the tray, or those with poor names. */
const route = useRoute();
const tray = useTray();
const site = useSite();
const table = shallowRef<NamingTable>();
const asked = ref(0);
/** Rises with each table read: what was composed from an older one no longer holds. */
const shown = ref(0);
const choices = reactive(new NamingChoices());
const own = ref<OwnField[]>([]);
const what = ref('');
const fault = ref('');
/** So many at once can still be looked at and undone. */
const MOST = 100_000;

async function load() {
  fault.value = '';
  const fromTray = route.query['what'] === 'tray' || (route.query['where'] === undefined && tray.size > 0);
  try {
    let ids: number[];
    if (fromTray) {
      ids = [...tray.ids];
      what.value = 'in the tray';
    } else {
      const where = String(route.query['where'] ?? '!mark:named');
      ids = [...(await api.itemsFound({ where, sort: 'path' })).ids];
      what.value = where === '!mark:named' ? 'with poor names' : 'from the search';
    }
    own.value = await api.ownFields();
    asked.value = Math.min(ids.length, MOST);
    table.value =
      ids.length > 0 ? await api.naming(ids.slice(0, MOST)) : { items: [], taken: [], variants: [] };
    shown.value++;
  } catch (error) {
    fault.value = sentenceOf(error);
  }
}
onMounted(load);
watch(() => site.revision, load);
</script>

<template>
  <div class="naming">
    <header>
      <h1>Names</h1>
      <DescribeTabs />
    </header>
    <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
    <p v-if="table && table.items.length === 0" class="empty">
      All names are readable. To rename items anyway, add them to the tray in the
      <RouterLink :to="{ name: 'library' }">Library</RouterLink> .
    </p>
    <NamingBench
      v-else-if="table"
      :key="shown"
      :table="table"
      :asked="asked"
      :own="own"
      :what="what"
      :choices="choices"
    />
    <p v-else-if="!fault" class="empty">Reading the names …</p>
  </div>
</template>

<style scoped>
.naming {
  display: flex;
  height: 100%;
  min-height: 0;
  flex-direction: column;
}
header {
  display: flex;
  align-items: baseline;
  padding: 16px 24px 10px;
  gap: 24px;
}
.empty,
.note {
  margin: 0 24px;
}
@media (width <= 760px) {
  .naming {
    height: auto;
    min-height: 100%;
  }
  .naming > :deep(.proof) {
    height: max(300px, 70dvh);
    flex: none;
  }
  .naming > :deep(footer) {
    position: sticky;
    bottom: 0;
    padding: 6px 12px;
    background: var(--paper);
  }
  header,
  .naming > :deep(.compose) {
    flex-wrap: wrap;
    padding-right: 12px;
    padding-left: 12px;
  }
}
</style>
