<script setup lang="ts">
import { ref, watch } from 'vue';
import type { EntryView, PlanView } from '../../../api/plans.ts';
import { api, sentenceOf } from '../../api/client.ts';
import PlanBody from '../../parts/PlanBody.vue';
import { moment } from '../../parts/words.ts';
import { usePlan } from '../../stores/plan.ts';
import { useSite } from '../../stores/site.ts';
import AppTable, { type Column } from '../../kit/AppTable.vue';
import AppButton from '../../kit/AppButton.vue';

const COLUMNS: Column<EntryView>[] = [
  { key: 'at', label: 'When', width: 170 },
  { key: 'person', label: 'Who', width: 150 },
  { key: 'title', label: 'What', minWidth: 240 },
  { key: 'items', label: 'Items', width: 80, number: true },
  { key: 'pages', label: 'Pages', width: 80, number: true },
  { key: 'undo', label: 'Undo', width: 130, silent: true },
];
const site = useSite();
const plan = usePlan();
const entries = ref<EntryView[]>([]);
const fault = ref('');
const opened = ref<number>();
const proof = ref<PlanView>();
const mayHaveMore = ref(false);

async function load() {
  try {
    entries.value = await api.ledger();
    mayHaveMore.value = entries.value.length === 100;
  } catch (error) {
    fault.value = sentenceOf(error);
  }
}
watch(() => site.revision, load, { immediate: true });
async function older() {
  const more = await api.ledger(entries.value.at(-1)?.id);
  entries.value.push(...more);
  mayHaveMore.value = more.length === 100;
}
async function show(id: number) {
  opened.value = opened.value === id ? undefined : id;
  proof.value = undefined;
  fault.value = '';
  if (!opened.value) return;
  try {
    proof.value = await api.entry(id);
  } catch (error) {
    opened.value = undefined;
    fault.value = sentenceOf(error);
  }
}
</script>

<template>
  <div class="surface">
    <div class="head">
      <h1>Ledger</h1>
      <p class="soft">Every change, newest first. Undo restores files to the byte.</p>
    </div>
    <p v-if="fault" class="note losing">{{ fault }}</p>
    <p v-if="!entries.length && !fault" class="empty">
      No changes yet. Every change you make is listed here and can be undone.
    </p>
    <AppTable
      v-else
      label="Changes"
      :rows="entries"
      :columns="COLUMNS"
      :row-key="(entry) => String(entry.id)"
      :expanded="opened !== undefined && proof ? [String(opened)] : []"
      :row-class="(entry) => (entry.undoneBy ? 'undone' : '')"
    >
      <template #at="{ row: entry }">{{ moment(entry.at) }}</template>
      <template #title="{ row: entry }">
        <AppButton look="link" class="what" :aria-expanded="opened === entry.id" @click="show(entry.id)"
          >{{ entry.title }}
        </AppButton>
        <p v-if="entry.approver" class="soft">Approved by {{ entry.approver }}</p>
        <p v-if="entry.via && entry.via !== 'window'" class="soft">Came from: {{ entry.via }}</p>
        <p v-if="entry.note" class="noted soft">“{{ entry.note }}”</p>
      </template>
      <template #items="{ row: entry }">{{ entry.items || '' }}</template>
      <template #pages="{ row: entry }">{{ entry.pages || '' }}</template>
      <template #undo="{ row: entry }">
        <span v-if="entry.undoneBy" class="soft">undone</span>
        <span v-else-if="entry.kind === 'empty'" class="soft">can’t be undone</span>
        <AppButton
          v-else-if="site.may('describe')"
          look="link"
          :aria-label="`${entry.undoes ? 'Redo' : 'Undo'}: ${entry.title}`"
          @click="plan.propose({ kind: 'undo', entryId: entry.id })"
          >{{ entry.undoes ? 'Redo' : 'Undo' }}
        </AppButton>
      </template>
      <template #expanded="{ row: entry }">
        <PlanBody v-if="proof && opened === entry.id" :plan="proof" />
      </template>
    </AppTable>
    <p v-if="mayHaveMore">
      <AppButton look="link" @click="older"> Show older changes </AppButton>
    </p>
  </div>
</template>

<style scoped>
.noted {
  font-style: italic;
}
.what {
  text-align: left;
}
:deep(.undone) .what {
  color: var(--ink-soft);
  text-decoration: line-through;
}
</style>
