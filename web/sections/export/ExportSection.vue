<script setup lang="ts">
import { computed, onMounted, ref, watch } from 'vue';
import { useRoute } from 'vue-router';
import type { ExportForm, ExportOptions, ExportView } from '../../../api/site.ts';
import { treatmentInWords, TREATMENTS, type Treatment } from '../../../core/picture/recipe/treatments.ts';
import { api, sentenceOf } from '../../api/client.ts';
import { count, moment, weight } from '../../parts/words.ts';
import { useSite } from '../../stores/site.ts';
import { useTray } from '../../stores/tray.ts';
import RedirectRules from './RedirectRules.vue';
import AppTable, { type Column } from '../../kit/AppTable.vue';
import AppButton from '../../kit/AppButton.vue';
import AppOption from '../../kit/AppOption.ts';
import AppSelect from '../../kit/AppSelect.vue';

const PAST: Column<ExportView>[] = [
  { key: 'at', label: 'When', width: 180 },
  { key: 'person', label: 'By', width: 160 },
  { key: 'title', label: 'What', minWidth: 180 },
  { key: 'form', label: 'As', width: 130 },
  { key: 'items', label: 'Items', width: 90, number: true },
  { key: 'bytes', label: 'File size', width: 110, number: true },
  { key: 'download', label: 'Download', width: 120, silent: true },
];
const KINDS: Readonly<Record<ExportForm, string>> = {
  files: 'ZIP',
  'contact-sheet': 'contact sheet',
  archive: 'archive',
};
const site = useSite();
const tray = useTray();
const route = useRoute();
const what = ref<'all' | 'tray'>(route.query['what'] === 'tray' && tray.size ? 'tray' : 'all');
const form = ref<ExportForm>('files');
watch(what, (now) => {
  if (now !== 'all' && form.value === 'archive') form.value = 'files';
});
const options = ref<ExportOptions>({ folders: 'kept', table: 'csv', words: 'in-table', treatment: null });
/** By their names. */
const treatments = ref<readonly Treatment[]>(TREATMENTS);
onMounted(async () => {
  // Those that people keep come first; without them, the others can still be chosen.
  const kept = await api.treatments().catch(() => []);
  treatments.value = [...kept, ...TREATMENTS];
});
const treated = computed({
  get: () => options.value.treatment?.name ?? '',
  set: (name) => (options.value.treatment = treatments.value.find((one) => one.name === name) ?? null),
});
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
    const made = await api.makeExport(
      what.value === 'all' ? 'all' : [...tray.ids],
      form.value,
      options.value,
    );
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
      as
      <AppSelect v-model="form" :chars="30" aria-label="Kind of export"
        ><AppOption value="files" label="a ZIP of the files" />
        <AppOption value="contact-sheet" label="a contact sheet (PDF)" />
        <AppOption
          v-if="site.can('archive')"
          value="archive"
          :disabled="what !== 'all'"
          label="an archive of the library"
        />
      </AppSelect>
    </p>
    <template v-if="form === 'files'">
      <p class="sentence">
        with the images
        <AppSelect v-model="treated" :chars="28" aria-label="Images in the ZIP"
          ><AppOption value="" label="as they are" />
          <AppOption
            v-for="{ name } in treatments"
            :key="name"
            :value="name"
            :label="`made anew: ${name}`" /></AppSelect
        >, the files
        <AppSelect v-model="options.folders" :chars="16" aria-label="Folders in the ZIP"
          ><AppOption value="kept" label="in their folders" />
          <AppOption value="flat" label="all in one folder" /></AppSelect
        >,
        <AppSelect v-model="options.table" :chars="18" aria-label="Table of the items"
          ><AppOption value="csv" label="a table (CSV)" />
          <AppOption value="jsonl" label="a table (JSON Lines)" />
          <AppOption value="none" label="no table" />
        </AppSelect>
        and metadata
        <AppSelect v-model="options.words" :chars="30" aria-label="Metadata in the ZIP"
          ><AppOption value="in-table" label="as it is in the files" />
          <AppOption value="inside" label="written into the copies (IPTC, XMP)" />
          <AppOption value="beside" label="in XMP files beside them" />
        </AppSelect>
      </p>
      <p class="soft">
        <template v-if="options.treatment"
          >Images:
          {{ treatmentInWords({ recipe: options.treatment.recipe, shape: options.treatment.shape }) }}. What
          isn’t an image goes as it is, and smaller sizes stay out.{{ ' ' }}</template
        >
        <template v-if="options.folders === 'flat'">Files of the same name get a number.{{ ' ' }}</template>
        <template v-if="options.table !== 'none'"
          >The table, <span class="mono">items.{{ options.table }}</span
          >, holds every field of every record and the pages that show each item.{{ ' ' }}</template
        >
        <template v-if="options.words === 'inside'"
          >Files that can’t hold metadata get an XMP file beside them.{{ ' ' }}</template
        >
        The site itself is not changed.
      </p>
    </template>
    <p v-else-if="form === 'archive'" class="soft">
      Everything in one ZIP: all files of the site, set-aside items, originals, every record, tag, rule and
      saved search, and the whole ledger, so that changes can still be undone. It is a BagIt bag, which other
      programs can read and check. Passwords and access tokens stay out.
      <span class="mono">npm run import</span>
      makes a site of it again.
    </p>
    <p v-else class="soft">
      Small images in rows, each with its name, folder, size, caption, credit and licence, to print or to
      send. The site itself is not changed.
    </p>
    <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
    <p>
      <AppButton look="main" :disabled="busy || chosen.items === 0" @click="make"
        >{{
          busy
            ? 'Packing …'
            : form === 'archive'
              ? 'Archive library'
              : `Export ${count(chosen.items, 'item')}${form === 'files' && !options.treatment ? `, ${weight(chosen.bytes)}` : ''}`
        }}
      </AppButton>
    </p>
    <h2>Past exports</h2>
    <AppTable
      v-if="past.length"
      label="Past exports"
      :rows="past"
      :columns="PAST"
      :row-key="(one) => String(one.id)"
    >
      <template #at="{ row }">{{ moment(row.at) }}</template>
      <template #form="{ row }">{{ KINDS[row.form] }}</template>
      <template #bytes="{ row }">{{ weight(row.bytes) }}</template>
      <template #download="{ row }"><a :href="`/api/exports/${row.id}/file`">Download</a></template>
    </AppTable>
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
  line-height: 38px;
}
h2 {
  margin-top: 26px;
}
</style>
