<script setup lang="ts">
import { ElDialog } from 'element-plus/es/components/dialog/index';
import { computed } from 'vue';
import { api } from '../api/client.ts';
import { usePlan } from '../stores/plan.ts';
import { useTray } from '../stores/tray.ts';
import PlanBody from './PlanBody.vue';
import { count, weight } from './words.ts';

/** Any plan as a proof: what changes, what cannot be done, totals, and one button that says what it does. */
const store = usePlan();
const tray = useTray();

const open = computed({
  get: () => store.plan !== undefined || store.fault !== '',
  set: (yes) => {
    if (!yes) store.close();
  },
});

const verb = computed(() => {
  const plan = store.plan;
  if (!plan) return '';
  const { items, pages } = plan.totals;
  const rewrite = pages ? `, rewrite ${count(pages, 'page')}` : '';
  switch (plan.kind) {
    case 'rename':
      return `Rename ${count(items, 'item')}${rewrite}`;
    case 'move':
      return `Move ${count(items, 'item')}${rewrite}`;
    case 'describe':
      return `Change ${count(items, 'item')}`;
    case 'set-aside':
      return `Set aside ${count(items, 'item')}`;
    case 'restore':
      return `Restore ${count(items, 'item')}`;
    case 'undo':
      return plan.title.startsWith('Redo') ? `Do it again${rewrite}` : `Undo${rewrite}`;
    default:
      return 'Apply';
  }
});

/** Placed items cannot go; the others of a selection still can. */
async function leaveOut() {
  const request = store.request;
  if (request?.kind !== 'set-aside' || !store.plan) return;
  const staying = new Set(store.plan.clashes.map((clash) => clash.path));
  const rest: number[] = [];
  for (let at = 0; at < request.itemIds.length; at += 500)
    for (const item of await api.itemsSome(request.itemIds.slice(at, at + 500)))
      if (!staying.has(item.path)) rest.push(item.id);
  if (rest.length > 0 && rest.length < request.itemIds.length)
    await store.propose({ kind: 'set-aside', itemIds: rest });
}

async function apply() {
  const ids = store.request?.kind === 'set-aside' ? store.request.itemIds : [];
  if ((await store.apply()) && ids.length > 0) tray.remove(ids);
}
</script>

<template>
  <ElDialog
    v-model="open"
    width="820px"
    top="6vh"
    :title="store.plan?.title ?? 'This could not be planned'"
    :close-on-click-modal="false"
  >
    <p v-if="store.fault" class="note losing" role="alert">{{ store.fault }}</p>
    <PlanBody v-if="store.plan" :plan="store.plan" />
    <template v-if="store.plan" #footer>
      <div class="foot">
        <p class="figures soft">
          {{ count(store.plan.totals.items, 'item') }},
          {{ count(store.plan.totals.spans, 'address', 'addresses') }} in
          {{ count(store.plan.totals.pages, 'page') }}
          <template v-if="store.plan.totals.bytesFreed"
            >, {{ weight(store.plan.totals.bytesFreed) }} off the site</template
          >
        </p>
        <button
          v-if="
            store.plan.kind === 'set-aside' &&
            store.plan.clashes.length &&
            store.plan.totals.items &&
            tray.size
          "
          class="act quiet"
          type="button"
          @click="leaveOut"
        >
          Leave out what is placed
        </button>
        <button class="act quiet" type="button" @click="store.close()">Not now</button>
        <button
          class="act"
          type="button"
          :disabled="store.busy || store.plan.empty || store.plan.clashes.length > 0"
          @click="apply"
        >
          {{ store.plan.empty ? 'Nothing would change' : verb }}
        </button>
      </div>
    </template>
  </ElDialog>
</template>

<style scoped>
.foot {
  display: flex;
  align-items: center;
  gap: 10px;
}
.foot p {
  flex: 1;
  text-align: left;
}
</style>
