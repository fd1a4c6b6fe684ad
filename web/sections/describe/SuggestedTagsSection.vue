<script setup lang="ts">
import { computed, onMounted, ref, shallowRef, watch } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import { api, sentenceOf } from '../../api/client.ts';
import AppOption from '../../kit/AppOption.ts';
import AppSelect from '../../kit/AppSelect.vue';
import { count } from '../../parts/words.ts';
import { usePlan } from '../../stores/plan.ts';
import { useTray } from '../../stores/tray.ts';
import type { Outcome } from '../suggested/decisions.ts';
import SuggestTags from '../suggested/SuggestTags.vue';
import DescribeTabs from './DescribeTabs.vue';

/** Tags that are suggested for images of the site: those without tags, all, or those in the tray. */
const route = useRoute();
const router = useRouter();
const plan = usePlan();
const tray = useTray();
const WHAT = { untagged: 'kind:image,no:tags', all: 'kind:image' } as const;
type What = keyof typeof WHAT | 'tray';
const what = computed<What>(() => {
  const asked = route.query['of'];
  if (asked === 'tray' && tray.size > 0) return 'tray';
  return asked === 'all' ? 'all' : 'untagged';
});
const folder = computed(() => String(route.query['folder'] ?? ''));
function choose(change: Record<string, string | undefined>) {
  void router.push({ query: { ...route.query, ...change } });
}
const folders = ref<string[]>([]);
onMounted(async () => (folders.value = (await api.folders()).map((one) => one.folder).filter(Boolean)));

const ids = shallowRef<number[]>();
const fault = ref('');
async function find() {
  fault.value = '';
  try {
    ids.value =
      what.value === 'tray'
        ? [...tray.ids]
        : [
            ...(
              await api.itemsFound({
                where: WHAT[what.value],
                ...(folder.value ? { folder: folder.value } : {}),
              })
            ).ids,
          ];
  } catch (error) {
    fault.value = sentenceOf(error);
  }
}
watch([what, folder], find, { immediate: true });

const sheet = ref<InstanceType<typeof SuggestTags> & { again: () => Promise<void> }>();
async function take({ suggestions }: Outcome): Promise<boolean> {
  await plan.propose({ kind: 'suggested-tags', suggestions });
  // Looked at first; the sheet begins anew once it is applied.
  if (plan.plan) plan.afterwards(() => void sheet.value?.again());
  return false;
}
</script>

<template>
  <div class="suggested">
    <header>
      <h1>Suggested tags</h1>
      <DescribeTabs />
      <span class="filter">
        <label
          ><span class="hidden-words">Show</span>
          <AppSelect :chars="20" :model-value="what" @change="choose({ of: $event })"
            ><AppOption value="untagged" label="images without tags" />
            <AppOption value="all" label="all images" />
            <AppOption
              value="tray"
              :disabled="tray.size === 0"
              :label="`the ${count(tray.size, 'item')} in the tray`"
            /> </AppSelect
        ></label>
        <label v-if="what !== 'tray'"
          ><span class="hidden-words">Folder</span>
          <AppSelect :chars="16" :model-value="folder" @change="choose({ folder: $event || undefined })"
            ><AppOption value="" label="all folders" />
            <AppOption v-for="one in folders" :key="one" :value="one" :label="one" /> </AppSelect
        ></label>
      </span>
    </header>
    <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
    <SuggestTags v-if="ids" ref="sheet" place="items" :ids="ids" :take="take" />
  </div>
</template>

<style scoped>
.suggested {
  display: grid;
  height: 100%;
  min-height: 0;
  grid-template: auto minmax(0, 1fr) / minmax(0, 1fr);
}
header {
  display: flex;
  flex-wrap: wrap;
  align-items: baseline;
  padding: 14px 24px 8px;
  gap: 6px 24px;
}
.filter {
  display: flex;
  margin-left: auto;
  gap: 8px;
}
@media (width <= 760px) {
  header {
    padding: 12px 12px 6px;
  }
}
</style>
