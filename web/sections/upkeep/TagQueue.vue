<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import type { TagFindings } from '../../../api/upkeep.ts';
import { writeQuery } from '../../../core/find/query.ts';
import { api, sentenceOf } from '../../api/client.ts';
import { count } from '../../parts/words.ts';
import { usePlan } from '../../stores/plan.ts';
import { useSite } from '../../stores/site.ts';
import LeaveAlone from './LeaveAlone.vue';
import AppTable, { type Column } from '../../kit/AppTable.vue';
import AppButton from '../../kit/AppButton.vue';

const props = defineProps<{ check: 'near-tags' | 'lone-tags' }>();
const site = useSite();
const plan = usePlan();
const found = ref<TagFindings>();
const fault = ref('');
const leaving = ref<string>();
watch(
  () => site.revision,
  async () => {
    try {
      found.value = await api.tagFindings();
    } catch (error) {
      fault.value = sentenceOf(error);
    }
  },
  { immediate: true },
);
const rows = computed(() =>
  props.check === 'near-tags'
    ? (found.value?.near ?? [])
    : (found.value?.lone ?? []).map((one) => ({ ...one, to: '', why: '' })),
);
const columns = computed<Column<(typeof rows.value)[number]>[]>(() => [
  { key: 'name', label: 'Tag', minWidth: 120, sortBy: (one) => one.name.toLowerCase() },
  { key: 'items', label: 'Items', width: 90, number: true, sortBy: (one) => one.items },
  ...(props.check === 'near-tags' ? [{ key: 'to', label: 'Nearly the same as', minWidth: 200 }] : []),
  { key: 'remedy', label: 'Remedy', minWidth: 260 },
]);
const showItems = (tag: string) => ({
  name: 'library',
  query: { where: writeQuery({ join: 'all', not: false, of: [{ test: 'tag', value: tag, not: false }] }) },
});
</script>

<template>
  <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
  <AppTable v-if="rows.length" label="Tags" :rows="rows" :columns="columns" :row-key="(one) => one.name">
    <template #name="{ row: one }">
      <RouterLink :to="showItems(one.name)">{{ one.name }}</RouterLink>
    </template>
    <template #to="{ row: one }">
      <strong>{{ one.to }}</strong> <span class="soft">({{ one.why }})</span>
    </template>
    <template #remedy="{ row: one }">
      <span class="acts">
        <AppButton
          v-if="one.to"
          look="link"
          @click="plan.propose({ kind: 'tag', tag: one.name, to: one.to })"
        >
          Merge with “{{ one.to }}” …
        </AppButton>
        <AppButton v-else look="link" @click="plan.propose({ kind: 'tag', tag: one.name, to: null })">
          Remove tag …
        </AppButton>
        <AppButton look="link" @click="leaving = one.name">Dismiss …</AppButton>
      </span>
    </template>
  </AppTable>
  <p v-else-if="found" class="empty">Nothing to do here.</p>
  <p v-if="rows.length" class="soft figures">
    {{ count(rows.length, 'tag') }}. Merged tags keep their spelling, so searches still find them.
  </p>
  <LeaveAlone
    v-if="leaving"
    :check="check"
    :subjects="[leaving]"
    @close="leaving = undefined"
    @done="leaving = undefined"
  />
</template>

<style scoped>
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 0 14px;
}
</style>
