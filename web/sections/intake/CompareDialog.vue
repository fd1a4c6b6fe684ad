<script setup lang="ts">
import AppDialog from '../../kit/AppDialog.vue';
import { computed, ref, watch } from 'vue';
import type { ArrivalView, FindingView } from '../../../api/intake.ts';
import type { ItemDetail } from '../../../api/items.ts';
import type { Choices } from '../../../core/intake/finding.ts';
import { api, sentenceOf } from '../../api/client.ts';
import ItemPicture from '../../parts/ItemPicture.vue';
import { count, weight } from '../../parts/words.ts';
import { useIntake } from '../../stores/intake.ts';
import AppTable, { type Column } from '../../kit/AppTable.vue';
import AppButton from '../../kit/AppButton.vue';

const COLUMNS: Column<(typeof rows.value)[number]>[] = [
  { key: 'name', label: 'Fact', width: 110 },
  { key: 'mine', label: 'New file' },
  { key: 'theirs', label: 'On the site' },
];
/** What came beside what is here, at the same size, with the facts that differ; then the choice. */
const props = defineProps<{ arrival: ArrivalView; finding: FindingView }>();
const emit = defineEmits<{ close: [] }>();
const intake = useIntake();
const here = ref<ItemDetail>();
const fault = ref('');
watch(
  () => props.finding.itemId,
  async (id) => {
    try {
      here.value = await api.item(id!);
    } catch (error) {
      fault.value = sentenceOf(error);
    }
  },
  { immediate: true },
);
const rows = computed(() => {
  const item = here.value?.item;
  if (!item) return [];
  const { arrival } = props;
  const size = (one: { width: number | null; height: number | null }) =>
    one.width ? `${one.width} × ${one.height} px` : '';
  return [
    ['Name', arrival.name, item.path],
    ['Size', size(arrival.ready ?? arrival), size(item)],
    ['File size', weight((arrival.ready ?? arrival).bytes), weight(item.bytes)],
    ['Alt text', arrival.words.alt ?? '', item.words.alt],
    ['Title', arrival.words.title ?? '', item.words.title],
    ['Used in', 'not on a page yet', count(item.placements, 'place')],
  ].map(([name, mine, theirs]) => ({ name, mine, theirs, same: mine === theirs }));
});
async function take(key: string) {
  await intake.change([props.arrival.id], { choices: { [props.finding.code]: key } as Choices });
  emit('close');
}
</script>

<template>
  <AppDialog
    :model-value="true"
    width="920px"
    top="5vh"
    :title="`Compare “${arrival.name}”`"
    @close="emit('close')"
  >
    <p v-if="fault" class="note losing">{{ fault }}</p>
    <p>{{ finding.text }}</p>
    <div v-if="here" class="pair">
      <figure>
        <figcaption>New file</figcaption>
        <ItemPicture
          :sha256="arrival.ready?.sha256 ?? arrival.sha256"
          :kind="arrival.kind"
          :name="arrival.name"
          :size="1280"
        />
      </figure>
      <figure>
        <figcaption>On the site</figcaption>
        <ItemPicture :sha256="here.item.sha256" :kind="here.item.kind" :name="here.item.name" :size="1280" />
      </figure>
    </div>
    <AppTable
      v-if="rows.length"
      label="Facts of both"
      :rows="rows"
      :columns="COLUMNS"
      :row-key="(row) => row.name!"
      :row-class="(row) => (row.same ? 'soft' : '')"
    >
      <template #mine="{ row }">{{ row.mine || '—' }}</template>
      <template #theirs="{ row }">{{ row.theirs || '—' }}</template>
    </AppTable>
    <template #footer>
      <AppButton
        v-for="remedy in finding.remedies"
        :key="remedy.key"
        look="main"
        :class="{ quiet: finding.chosen !== remedy.key }"
        @click="take(remedy.key)"
        >{{ remedy.text }}
      </AppButton>
    </template>
  </AppDialog>
</template>

<style scoped>
.pair {
  display: grid;
  margin: 10px 0;
  gap: 14px;
  grid-template-columns: 1fr 1fr;
}
figure {
  display: flex;
  height: 300px;
  min-width: 0;
  flex-direction: column;
  margin: 0;
}
figcaption {
  font-size: 12.5px;
  font-weight: 600;
}
figure :deep(img),
figure :deep(.sign) {
  min-height: 0;
  flex: 1;
}
</style>
