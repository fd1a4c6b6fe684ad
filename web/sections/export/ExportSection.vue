<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import { useRoute } from 'vue-router';
import type { ExportView } from '../../../api/site.ts';
import { api, sentenceOf } from '../../api/client.ts';
import { count, moment, weight } from '../../parts/words.ts';
import { useSite } from '../../stores/site.ts';
import { useTray } from '../../stores/tray.ts';
import RedirectRules from './RedirectRules.vue';
import AppButton from '../../kit/AppButton.vue';
import AppOption from '../../kit/AppOption.vue';
import AppSelect from '../../kit/AppSelect.vue';

const site = useSite();
const tray = useTray();
const route = useRoute();
const what = ref<'all' | 'tray'>(route.query['what'] === 'tray' && tray.size ? 'tray' : 'all');
const past = ref<ExportView[]>([]);
const busy = ref(false);
const fault = ref('');
watch(
  () => site.revision,
  async () => (past.value = await api.exports()),
  { immediate: true },
);

const chosen = computed(() =>
  what.value === 'all'
    ? { items: site.site?.counts.items ?? 0, bytes: site.site?.counts.bytes ?? 0 }
    : { items: tray.size, bytes: tray.bytes },
);
async function make() {
  busy.value = true;
  fault.value = '';
  try {
    const made = await api.makeExport(what.value === 'all' ? 'all' : [...tray.ids]);
    past.value = [made, ...past.value];
    window.location.assign(`/api/exports/${made.id}/file`);
  } catch (error) {
    fault.value = sentenceOf(error);
  } finally {
    busy.value = false;
  }
}
</script>

<template>
  <div class="surface">
    <h1>Export</h1>
    <p class="sentence">
      Export
      <AppSelect v-model="what" :chars="20" aria-label="Items to export"
        ><AppOption value="all" label="all items of the site" />
        <AppOption value="tray" :disabled="!tray.size" label="the items in the tray" />
      </AppSelect>
      as a ZIP: the files in their folders, with a table of their records.
    </p>
    <p class="soft">
      The table, <span class="mono">items.csv</span>, holds every field of every record and the pages that
      show each item. The site itself is not changed.
    </p>
    <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
    <p>
      <AppButton look="main" :disabled="busy || chosen.items === 0" @click="make"
        >{{ busy ? 'Packing …' : `Export ${count(chosen.items, 'item')}, ${weight(chosen.bytes)}` }}
      </AppButton>
    </p>
    <h2>Past exports</h2>
    <table v-if="past.length" class="ruled">
      <thead>
        <tr>
          <th scope="col">When</th>
          <th scope="col">By</th>
          <th scope="col">What</th>
          <th scope="col" class="number">Items</th>
          <th scope="col" class="number">File size</th>
          <th scope="col"><span class="hidden-words">Download</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="one in past" :key="one.id">
          <td class="figures">{{ moment(one.at) }}</td>
          <td>{{ one.person }}</td>
          <td>{{ one.title }}</td>
          <td class="number">{{ one.items }}</td>
          <td class="number">{{ weight(one.bytes) }}</td>
          <td><a :href="`/api/exports/${one.id}/file`">Download</a></td>
        </tr>
      </tbody>
    </table>
    <p v-else class="soft">No exports yet. Each export is kept here for two weeks.</p>
    <RedirectRules />
  </div>
</template>

<style scoped>
.surface > * {
  margin-bottom: 14px;
}
.sentence {
  font-size: 17px;
}
h2 {
  margin-top: 26px;
}
</style>
