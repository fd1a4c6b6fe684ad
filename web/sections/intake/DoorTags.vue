<script setup lang="ts">
import { computed, ref } from 'vue';
import AppDialog from '../../kit/AppDialog.vue';
import { count } from '../../parts/words.ts';
import { useIntake } from '../../stores/intake.ts';
import type { Outcome } from '../suggested/decisions.ts';
import SuggestTags from '../suggested/SuggestTags.vue';

/** Tags suggested for images that wait: nothing is on the site yet, so what is taken is noted with them at once. */
const props = defineProps<{ ids: readonly number[] }>();
const emit = defineEmits<{ close: [] }>();
const intake = useIntake();
const open = computed({ get: () => true, set: () => emit('close') });
/** Those that wait when this is opened: the list goes on changing. */
const ids = [...props.ids];
const said = ref('');
async function take({ suggestions, taken, items }: Outcome): Promise<boolean> {
  said.value = '';
  // Those with the same tags together.
  const alike = new Map<string, { ids: number[]; take: string[]; refuse: string[] }>();
  for (const one of suggestions) {
    const key = JSON.stringify([one.take, one.refuse]);
    const lot = alike.get(key) ?? { ids: [], take: one.take, refuse: one.refuse };
    alike.set(key, lot);
    lot.ids.push(one.itemId);
  }
  for (const lot of alike.values())
    if (!(await intake.change(lot.ids, { suggested: { take: lot.take, refuse: lot.refuse } }))) {
      said.value = intake.fault;
      return true;
    }
  said.value = `Added ${count(taken, 'tag')} to ${count(items, 'image')}. They go along when you bring the images in.`;
  return true;
}
</script>

<template>
  <AppDialog v-model="open" title="Suggested tags" width="1080px" top="4vh">
    <p v-if="said" class="note" role="status">{{ said }}</p>
    <div class="at-the-door">
      <SuggestTags place="arrivals" :ids="ids" :take="take" />
    </div>
  </AppDialog>
</template>

<style scoped>
.at-the-door {
  height: 70vh;
  margin: 0 -16px;
}
</style>
