<script setup lang="ts">
import PathText from '../../parts/PathText.vue';
import { computed, ref } from 'vue';
import type { TableView } from '../../../api/items.ts';
import { api, sentenceOf } from '../../api/client.ts';
import { count } from '../../parts/words.ts';
import { usePlan } from '../../stores/plan.ts';
import { useSite } from '../../stores/site.ts';
import { useTray } from '../../stores/tray.ts';
import DescribeTabs from './DescribeTabs.vue';
import AppTable, { type Column } from '../../kit/AppTable.vue';
import AppButton from '../../kit/AppButton.vue';
import AppCheckbox from '../../kit/AppCheckbox.vue';
import AppFile from '../../kit/AppFile.vue';
import AppOption from '../../kit/AppOption.ts';
import AppSelect from '../../kit/AppSelect.vue';

const COLUMNS: Column<TableView['changes'][number]>[] = [
  { key: 'line', label: 'Line', width: 70, number: true },
  { key: 'path', label: 'Item', minWidth: 180, mono: true },
  { key: 'field', label: 'Field', width: 130 },
  { key: 'change', label: 'From and to', minWidth: 260 },
];
/** Records as a table for a spreadsheet program, out and in again. */
const plan = usePlan();
const tray = useTray();
const site = useSite();
const what = ref<'all' | 'tray'>(tray.size ? 'tray' : 'all');
const read = ref<TableView>();
const file = ref('');
const fault = ref('');
const busy = ref(false);
/** Of records that were changed meanwhile, the table's words are taken all the same. */
const over = ref(false);

async function handOut() {
  fault.value = '';
  busy.value = true;
  try {
    const table = await api.tableOut(what.value === 'tray' ? [...tray.ids] : 'all');
    const link = document.createElement('a');
    link.href = URL.createObjectURL(table);
    link.download = `${site.site?.name ?? 'items'}-words.csv`;
    link.click();
    URL.revokeObjectURL(link.href);
  } catch (error) {
    fault.value = sentenceOf(error);
  }
  busy.value = false;
}

/** UTF-8 with or without its mark, UTF-16 with it, else what older spreadsheet programs write. */
function decoded(bytes: Uint8Array): string {
  if (bytes[0] === 0xff && bytes[1] === 0xfe) return new TextDecoder('utf-16le').decode(bytes);
  try {
    return new TextDecoder('utf-8', { fatal: true }).decode(bytes);
  } catch {
    return new TextDecoder('windows-1252').decode(bytes);
  }
}
async function takeIn([chosen]: File[]) {
  if (!chosen) return;
  fault.value = '';
  read.value = undefined;
  busy.value = true;
  try {
    file.value = chosen.name;
    read.value = await api.tableIn(decoded(new Uint8Array(await chosen.arrayBuffer())));
    over.value = false;
  } catch (error) {
    fault.value = sentenceOf(error);
  }
  busy.value = false;
}
const conflicts = computed(() => (read.value?.changes ?? []).filter((one) => one.conflict));
const meant = computed(() => (read.value?.changes ?? []).filter((one) => over.value || !one.conflict));
function look() {
  const cells = new Map<number, { itemId: number; rowVersion: number; set: Record<string, unknown> }>();
  for (const { itemId, rowVersion, set } of meant.value) {
    const before = cells.get(itemId)?.set ?? {};
    const own = { ...(before['own'] as object | undefined), ...set.own };
    cells.set(itemId, {
      itemId,
      rowVersion,
      set: { ...before, ...set, ...(Object.keys(own).length > 0 ? { own } : {}) },
    });
  }
  void plan.propose({ kind: 'cells', cells: [...cells.values()] });
}
</script>

<template>
  <div class="surface">
    <header>
      <h1>Table</h1>
      <DescribeTabs />
    </header>
    <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
    <section>
      <h2>Export</h2>
      <p>
        The fields of
        <AppSelect v-model="what" :chars="22" aria-label="Items"
          ><AppOption value="all" label="all items of the site" />
          <AppOption
            value="tray"
            :disabled="!tray.size"
            :label="`the ${count(tray.size, 'item')} in the tray`"
          />
        </AppSelect>
        as a CSV file for a spreadsheet. Cells that would run as a formula are made plain text.
      </p>
      <AppButton look="main" :disabled="busy" @click="handOut">Download CSV</AppButton>
    </section>
    <section>
      <h2>Import</h2>
      <p>
        Rows are matched by <span class="mono">id</span>, <span class="mono">path</span> or
        <span class="mono">address</span>. You review every change before it is made.
      </p>
      <AppFile accept=".csv,.tsv,.txt,text/csv" :disabled="busy" @files="takeIn">Import CSV …</AppFile>
    </section>
    <section v-if="read" aria-live="polite">
      <h2>{{ file }}</h2>
      <p class="figures">
        {{ count(read.rows, 'row') }}, {{ read.matched }} matched; {{ count(read.changes.length, 'cell') }}
        {{ read.changes.length === 1 ? 'differs' : 'differ' }}.
      </p>
      <p v-if="read.unknown.length" class="note">
        There is no {{ read.unknown.length === 1 ? 'the column' : 'the columns' }}
        {{ read.unknown.map((name) => `“${name}”`).join(', ') }}: left out. A field of your own can be made in
        any record, under “More fields”.
      </p>
      <ul v-if="read.faults.length" class="note losing faults">
        <li v-for="(one, index) in read.faults.slice(0, 50)" :key="index">
          Line {{ one.line }}: {{ one.why }}
        </li>
        <li v-if="read.faults.length > 50">and {{ read.faults.length - 50 }} more</li>
      </ul>
      <template v-if="conflicts.length">
        <h3>Changed in the meantime</h3>
        <p>
          {{ count(conflicts.length, 'cell') }} of records that were changed after the CSV was downloaded.
          <AppCheckbox v-model="over"> Overwrite with the CSV</AppCheckbox>
        </p>
      </template>
      <AppTable
        v-if="read.changes.length"
        label="What the table changes"
        :rows="read.changes.slice(0, 300)"
        :columns="COLUMNS"
        :row-key="(one) => `${one.line} ${one.field}`"
        :row-class="(one) => (one.conflict && !over ? 'out' : '')"
      >
        <template #path="{ row: one }"><PathText :path="one.path" /></template>
        <template #change="{ row: one }">
          <del v-if="one.before">{{ one.before }}</del> <ins>{{ one.after || '(empty)' }}</ins>
          <span v-if="one.conflict" class="ochre"> changed since by {{ one.conflict }}</span>
        </template>
      </AppTable>
      <p v-if="read.changes.length > 300" class="soft">
        and {{ count(read.changes.length - 300, 'more cell') }}
      </p>
      <AppButton look="main" :disabled="meant.length === 0 || plan.busy" @click="look">
        Review {{ count(meant.length, 'change') }}
      </AppButton>
    </section>
  </div>
</template>

<style scoped>
header {
  display: flex;
  align-items: baseline;
  margin-bottom: 12px;
  gap: 24px;
}
section {
  max-width: 980px;
  padding: 12px 0;
  border-top: 1px solid var(--rule);
}
section > * {
  margin-bottom: 8px;
}
.faults {
  padding-left: 28px;
}
:deep(.out) {
  background: var(--ochre-wash);
}
del {
  color: var(--madder);
}
ins {
  color: var(--verdigris);
  font-weight: 600;
  text-decoration: none;
}
.ochre {
  color: var(--ochre);
}
</style>
