<script setup lang="ts">
import PathText from '../../parts/PathText.vue';
import { computed, ref, watch } from 'vue';
import type { RedirectFindings } from '../../../api/upkeep.ts';
import type { CheckName } from '../../../core/upkeep/checks.ts';
import { api, sentenceOf } from '../../api/client.ts';
import { count } from '../../parts/words.ts';
import { usePlan } from '../../stores/plan.ts';
import { useSite } from '../../stores/site.ts';
import AppTable, { type Column } from '../../kit/AppTable.vue';
import AppButton from '../../kit/AppButton.vue';

const COLUMNS: Column<RedirectFindings[number]>[] = [
  { key: 'from', label: 'Old address', minWidth: 180, mono: true },
  { key: 'to', label: 'Leads to', minWidth: 180, mono: true },
  { key: 'why', label: 'Why', minWidth: 200 },
  { key: 'remedy', label: 'Remedy', width: 110, silent: true },
];
const props = defineProps<{ check: CheckName }>();
const site = useSite();
const plan = usePlan();
const all = ref<RedirectFindings>();
const fault = ref('');
watch(
  () => site.revision,
  async () => {
    try {
      all.value = await api.redirectFindings();
    } catch (error) {
      fault.value = sentenceOf(error);
    }
  },
  { immediate: true },
);
const found = computed(() => all.value?.filter((one) => one.check === props.check) ?? []);
function mend(some: RedirectFindings) {
  void plan.propose({ kind: 'redirects', redirects: some.map(({ from, better }) => ({ from, to: better })) });
}
</script>

<template>
  <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
  <template v-if="found.length">
    <p>
      <AppButton look="main" @click="mend(found)"
        >{{ check === 'idle-redirects' ? 'Drop' : 'Shorten:' }} {{ count(found.length, 'redirect') }} …
      </AppButton>
    </p>
    <AppTable label="Redirects" :rows="found" :columns="COLUMNS" :row-key="(one) => one.from">
      <template #from="{ row: one }"><PathText :path="one.from" /></template>
      <template #to="{ row: one }"><PathText :path="one.to" /></template>
      <template #why="{ row: one }">
        {{ one.why
        }}<template v-if="one.better">
          It should lead to <span class="mono">{{ one.better }}</span>.</template
        >
      </template>
      <template #remedy="{ row: one }">
        <AppButton look="link" @click="mend([one])"
          >{{ one.better === null ? 'Drop …' : 'Shorten …' }}
        </AppButton>
      </template>
    </AppTable>
  </template>
  <p v-else-if="all" class="empty">No redirects to fix.</p>
</template>
