<script setup lang="ts">
import PathText from '../../parts/PathText.vue';
import { ref, watch } from 'vue';
import type { Dismissed } from '../../../api/upkeep.ts';
import { CHECKS } from '../../../core/upkeep/checks.ts';
import { api, sentenceOf } from '../../api/client.ts';
import { moment } from '../../parts/words.ts';
import { usePlan } from '../../stores/plan.ts';
import { useSite } from '../../stores/site.ts';
import AppTable, { type Column } from '../../kit/AppTable.vue';
import AppButton from '../../kit/AppButton.vue';

const COLUMNS: Column<Dismissed[number]>[] = [
  { key: 'subject', label: 'What', minWidth: 180, mono: true },
  { key: 'name', label: 'Finding', minWidth: 140 },
  { key: 'reason', label: 'Reason', minWidth: 140 },
  { key: 'at', label: 'By', minWidth: 160 },
  { key: 'again', label: 'Restore', width: 130, silent: true },
];
/** What people have said to leave alone, with the reason; each can be told again. */
const emit = defineEmits<{ open: [id: number] }>();
const site = useSite();
const plan = usePlan();
const list = ref<Dismissed>();
const fault = ref('');
watch(
  () => site.revision,
  async () => {
    try {
      list.value = await api.dismissed();
    } catch (error) {
      fault.value = sentenceOf(error);
    }
  },
  { immediate: true },
);
async function again(one: Dismissed[number]) {
  try {
    await plan.make({ kind: 'dismiss', check: one.name, subjects: [one.subject], reason: null });
  } catch (error) {
    fault.value = sentenceOf(error);
  }
}
</script>

<template>
  <div class="head"><h2>Dismissed</h2></div>
  <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
  <AppTable
    v-if="list?.length"
    label="Dismissed findings"
    :rows="list"
    :columns="COLUMNS"
    :row-key="(one) => `${one.name} ${one.subject}`"
  >
    <template #subject="{ row: one }">
      <AppButton v-if="one.item" look="link" @click="emit('open', one.item.id)"
        ><PathText :path="one.item.path" />
      </AppButton>
      <template v-else>{{ one.subject }}</template>
    </template>
    <template #name="{ row: one }">
      {{ CHECKS[one.name].name }}
      <span v-if="one.past" class="ochre">Changed since, so it is reported again.</span>
    </template>
    <template #at="{ row: one }">{{ one.person }}, {{ moment(one.at) }}</template>
    <template #again="{ row: one }"
      ><AppButton look="link" @click="again(one)">Report again</AppButton></template
    >
  </AppTable>
  <p v-else-if="list" class="empty">
    Nothing dismissed. Findings you keep on purpose or dismiss are listed here with the reason.
  </p>
</template>

<style scoped>
.ochre {
  display: block;
  color: var(--ochre);
}
</style>
