<script setup lang="ts">
import PathText from '../../parts/PathText.vue';
import { computed, onMounted, ref, watch } from 'vue';
import type { WordDifferences } from '../../../api/items.ts';
import { fromPage, inLine } from '../../../core/describe/in-line.ts';
import { api, sentenceOf } from '../../api/client.ts';
import { count } from '../../parts/words.ts';
import { usePlan } from '../../stores/plan.ts';
import { useSite } from '../../stores/site.ts';
import DescribeTabs from './DescribeTabs.vue';
import LinkFormDialog from './LinkFormDialog.vue';
import AppTable, { type Column } from '../../kit/AppTable.vue';
import AppButton from '../../kit/AppButton.vue';
import AppCheckbox from '../../kit/AppCheckbox.vue';

/** Words in the library against words in pages: brought in line in either direction, one or all. */
const plan = usePlan();
const site = useSite();
const found = ref<WordDifferences>();
const fault = ref('');
const wording = ref(false);
const chosen = ref(new Set<string>());
type Difference = WordDifferences['differences'][number];
const keyOf = (one: Difference) => `${one.page} ${one.start}`;

async function load() {
  try {
    found.value = await api.wordDifferences();
    fault.value = '';
    const there = new Set(found.value.differences.map(keyOf));
    chosen.value = new Set([...chosen.value].filter((key) => there.has(key)));
  } catch (error) {
    fault.value = sentenceOf(error);
  }
}
onMounted(load);
watch(() => site.revision, load);

const words = (one: Difference) => ({
  alt: one.recordAlt,
  decorative: one.decorative,
  title: one.recordTitle,
});
const rows = computed(() =>
  (found.value?.differences ?? []).map((one) => ({
    one,
    key: keyOf(one),
    toPage: inLine(one, words(one), one.file),
    toRecord: fromPage(one, words(one)),
  })),
);
const COLUMNS: Column<(typeof rows.value)[number]>[] = [
  { key: 'choose', label: 'Choose', width: 48, silent: true },
  { key: 'path', label: 'Item', minWidth: 150, mono: true },
  { key: 'page', label: 'Page', minWidth: 150 },
  { key: 'there', label: 'On the page', minWidth: 170 },
  { key: 'record', label: 'In the record', minWidth: 170 },
  { key: 'ways', label: 'Update', width: 136, silent: true },
];
/** Those that are ticked; none ticked: all. */
const meant = computed(() =>
  chosen.value.size === 0 ? rows.value : rows.value.filter((row) => chosen.value.has(row.key)),
);
const toPages = computed(() => meant.value.filter((row) => row.toPage));
/** Two pages may call one image differently: then nobody but a person can say which is right. */
const toRecords = computed(() => {
  const byItem = new Map<number, string>();
  const torn = new Set<number>();
  for (const { one, toRecord } of meant.value) {
    if (!toRecord) continue;
    const said = JSON.stringify(toRecord);
    if (byItem.has(one.itemId) && byItem.get(one.itemId) !== said) torn.add(one.itemId);
    byItem.set(one.itemId, said);
  }
  const seen = new Set<number>();
  return meant.value.filter(({ one, toRecord }) => {
    if (!toRecord || torn.has(one.itemId) || seen.has(one.itemId)) return false;
    seen.add(one.itemId);
    return true;
  });
});
function toggle(key: string) {
  const next = new Set(chosen.value);
  if (!next.delete(key)) next.add(key);
  chosen.value = next;
}
const write = (some: typeof rows.value) =>
  plan.propose({ kind: 'page-words', places: some.map(({ one }) => ({ page: one.page, start: one.start })) });
const take = (some: typeof rows.value) =>
  plan.propose({
    kind: 'cells',
    cells: some.map(({ one, toRecord }) => ({ itemId: one.itemId, set: toRecord! })),
  });
const said = (alt: string | null) => (alt === null ? 'no alt text' : alt === '' ? 'empty' : `“${alt}”`);
</script>

<template>
  <div class="surface">
    <header>
      <h1>Text on pages</h1>
      <DescribeTabs />
      <AppButton v-if="site.may('settings')" look="link" @click="wording = true"
        >Links to documents …</AppButton
      >
    </header>
    <LinkFormDialog v-if="wording" @close="wording = false" />
    <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
    <p v-if="!found && !fault" class="empty">Reading the text of all pages …</p>
    <p v-else-if="found && rows.length === 0" class="empty">All pages match their records.</p>
    <template v-else-if="found">
      <p class="sum figures">
        {{ count(rows.length, 'place') }} on {{ count(found.pages, 'page') }} where page and record
        differ<template v-if="chosen.size">, {{ chosen.size }} chosen</template>.
        <AppButton look="main" :disabled="toPages.length === 0 || plan.busy" @click="write(toPages)">
          Update {{ count(toPages.length, 'placement') }} from the records
        </AppButton>
        <AppButton :disabled="toRecords.length === 0 || plan.busy" @click="take(toRecords)">
          Update {{ count(toRecords.length, 'record') }} from the pages
        </AppButton>
      </p>
      <AppTable
        label="Where page and record differ"
        :rows="rows"
        :columns="COLUMNS"
        :row-key="(row) => row.key"
      >
        <template #choose="{ row }">
          <AppCheckbox
            :model-value="chosen.has(row.key)"
            :aria-label="`Choose ${row.one.path} on ${row.one.pageTitle}`"
            @change="toggle(row.key)"
          />
        </template>
        <template #path="{ row }">
          <RouterLink :to="{ name: 'library', query: { item: row.one.itemId } }"
            ><PathText :path="row.one.path"
          /></RouterLink>
        </template>
        <template #page="{ row }">
          <a :href="site.servedAddress(row.one.page)" target="_blank" rel="noreferrer">{{
            row.one.pageTitle || row.one.page
          }}</a>
          <span class="soft figures"> line {{ row.one.line }}</span>
        </template>
        <template #there="{ row }">
          <p v-if="row.one.takesAlt">{{ said(row.one.alt) }}</p>
          <p v-if="row.toPage?.title !== undefined">
            hover text <span class="mono">{{ row.one.title }}</span>
          </p>
          <p v-if="row.toPage?.linkText !== undefined">
            link text <span class="mono">{{ row.one.linkText }}</span>
          </p>
        </template>
        <template #record="{ row }">
          <p v-if="row.one.takesAlt">
            {{ row.one.decorative ? 'decorative' : row.one.recordAlt ? `“${row.one.recordAlt}”` : 'nothing' }}
          </p>
          <p v-if="row.toPage?.title !== undefined || row.toPage?.linkText === row.one.recordTitle">
            title “{{ row.one.recordTitle }}”
          </p>
          <p v-else-if="row.toPage?.linkText !== undefined">file now: “{{ row.toPage.linkText }}”</p>
        </template>
        <template #ways="{ row }">
          <AppButton v-if="row.toPage" look="link" @click="write([row])"> Update page … </AppButton>
          <AppButton v-if="row.toRecord" look="link" @click="take([row])"> Update record … </AppButton>
        </template>
      </AppTable>
    </template>
  </div>
</template>

<style scoped>
header {
  display: flex;
  align-items: baseline;
  margin-bottom: 12px;
  gap: 24px;
}
.sum {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  margin-bottom: 10px;
  gap: 10px;
}
</style>
