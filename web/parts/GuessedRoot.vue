<script setup lang="ts">
import { computed, ref } from 'vue';
import { sentenceOf } from '../api/client.ts';
import { usePlan } from '../stores/plan.ts';
import { useSite } from '../stores/site.ts';
import LayoutDialog from './LayoutDialog.vue';
import AppButton from '../kit/AppButton.vue';

/** Which folder is served from the root was found out from the pages’ addresses: said where such addresses are seen, and confirmed or changed there. */
const site = useSite();
const plan = usePlan();
const changing = ref(false);
const fault = ref('');
const roots = computed(() => (site.site?.roots ?? []).map((one) => `“${one || '/'}”`).join(', '));

async function confirm() {
  fault.value = '';
  try {
    await plan.make({ kind: 'public', folders: site.site!.roots });
  } catch (error) {
    fault.value = sentenceOf(error);
  }
}
</script>

<template>
  <div v-if="site.site?.rootsGuessed" class="guess soft">
    Addresses that begin with “/” are read from {{ roots }}. That is a guess, by where they lead.
    <template v-if="site.may('settings')">
      <AppButton look="link" @click="confirm">Confirm</AppButton>
      <AppButton look="link" @click="changing = true">Change …</AppButton>
    </template>
    <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
    <LayoutDialog v-if="changing" @close="changing = false" />
  </div>
</template>

<style scoped>
.guess {
  font-size: 13px;
}
</style>
