<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import type { Overview } from '../../../api/upkeep.ts';
import { CHECKS, ITEM_CHECKS, type CheckName } from '../../../core/upkeep/checks.ts';
import { api, sentenceOf } from '../../api/client.ts';
import { useSite } from '../../stores/site.ts';
import AsideQueue from './AsideQueue.vue';
import BalanceSheet from './BalanceSheet.vue';
import BrokenQueue from './BrokenQueue.vue';
import DismissedList from './DismissedList.vue';
import DoublesQueue from './DoublesQueue.vue';
import FindingQueue from './FindingQueue.vue';
import QueueNav from './QueueNav.vue';
import RedirectQueue from './RedirectQueue.vue';
import TagQueue from './TagQueue.vue';

const site = useSite();
const route = useRoute();
const router = useRouter();
const overview = ref<Overview>();
const fault = ref('');
/** A check's name, 'aside' or 'dismissed'; none: the overview. */
const queue = computed(() => {
  const name = route.query['queue'];
  return typeof name === 'string' && (name in CHECKS || ['aside', 'dismissed'].includes(name)) ? name : '';
});
const check = computed(() => (queue.value in CHECKS ? (queue.value as CheckName) : undefined));

const itemCheck = computed(() => ITEM_CHECKS.find((one) => one === check.value));

let asked = 0;
async function load() {
  const mine = ++asked;
  try {
    const next = await api.upkeep();
    if (mine !== asked) return;
    overview.value = next;
    fault.value = '';
    // The rest is checked in the background.
    if (next.unchecked > 0) setTimeout(() => mine === asked && void load(), 1500);
  } catch (error) {
    fault.value = sentenceOf(error);
  }
}
watch(() => site.revision, load, { immediate: true });
watch(
  () => site.running.length,
  (now, before) => now < before && void load(),
);
async function looked() {
  await api.looked();
  await load();
}
function open(id: number) {
  void router.push({ query: { ...route.query, item: id } });
}
</script>

<template>
  <div class="upkeep">
    <QueueNav :overview="overview" :queue="queue" />
    <div class="surface">
      <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
      <p v-if="overview && overview.unchecked > 0" class="note" role="status">
        {{ overview.unchecked.toLocaleString('en') }} items are still being checked. Figures may still change.
      </p>
      <BalanceSheet v-if="queue === '' && overview" :overview="overview" @looked="looked" />
      <AsideQueue v-else-if="queue === 'aside' && overview" :aside="overview.aside" @open="open" />
      <DismissedList v-else-if="queue === 'dismissed'" @open="open" />
      <template v-else-if="check">
        <div class="head">
          <div>
            <h2>{{ CHECKS[check].name }}</h2>
            <p>{{ CHECKS[check].what }} {{ CHECKS[check].why }}</p>
          </div>
        </div>
        <DoublesQueue
          v-if="check === 'copies' || check === 'look-alikes'"
          :key="check"
          :check="check"
          @open="open"
        />
        <BrokenQueue v-else-if="check === 'broken'" />
        <RedirectQueue v-else-if="CHECKS[check].about === 'redirect'" :check="check" />
        <TagQueue v-else-if="check === 'near-tags' || check === 'lone-tags'" :check="check" />
        <FindingQueue v-else-if="itemCheck" :key="check" :check="itemCheck" @open="open" />
      </template>
    </div>
  </div>
</template>

<style scoped>
.upkeep {
  display: flex;
  height: 100%;
}
.surface {
  min-width: 0;
  flex: 1;
}
@media (width <= 760px) {
  .upkeep {
    height: auto;
    flex-direction: column;
  }
}
.head {
  margin-bottom: 10px;
}
.head p {
  max-width: 76ch;
  margin: 2px 0 0;
  color: var(--ink-soft);
}
</style>
