<script setup lang="ts">
import AppDialog from './AppDialog.vue';
import { computed } from 'vue';
import { usePlan } from '../stores/plan.ts';
import { api } from '../api/client.ts';
import { canStop, useSite } from '../stores/site.ts';
import { useTray } from '../stores/tray.ts';
import { VERBS } from '../../core/plan/verbs.ts';
import PlanBody from './PlanBody.vue';
import { count, weight } from './words.ts';

/** Any plan as a proof: what changes, what cannot be done, totals, and one button that says what it does. */
const store = usePlan();
const tray = useTray();
const site = useSite();
/** The act while it goes on, when it is a long one. */
const running = computed(() => site.running.find((job) => job.kind === 'apply'));

const open = computed({
  get: () => store.plan !== undefined || store.fault !== '',
  set: (yes) => {
    if (!yes) store.close();
  },
});

const verb = computed(() => {
  const { plan } = store;
  return plan ? VERBS[plan.kind]({ ...plan, writes: plan.records.length + plan.pages.length > 0 }) : '';
});

/** Placed items cannot go; the others of a selection still can. */
async function leaveOut() {
  const request = store.request;
  if (request?.kind === 'set-aside') await store.propose({ ...request, leavePlaced: true });
}

async function apply() {
  const ids = store.request?.kind === 'set-aside' ? store.request.itemIds : [];
  if ((await store.apply()) && ids.length > 0) tray.remove(ids);
}
</script>

<template>
  <AppDialog
    v-model="open"
    width="820px"
    top="6vh"
    :title="store.plan?.title ?? 'This could not be planned'"
    :close-on-click-modal="false"
  >
    <p v-if="store.fault" class="note losing" role="alert">{{ store.fault }}</p>
    <PlanBody v-if="store.plan" :plan="store.plan" />
    <template v-if="store.plan" #footer>
      <p v-if="store.busy" class="figures soft" role="status">
        {{
          running?.total
            ? `${running.done.toLocaleString('en')} of ${running.total.toLocaleString('en')} ${running.what}`
            : 'Working …'
        }}
        <button
          v-if="running && canStop(running)"
          class="link"
          type="button"
          @click="api.cancelJob(running.id)"
        >
          Stop
        </button>
      </p>
      <div class="foot">
        <label class="note-field"
          ><span class="hidden-words">A note to keep with it</span
          ><input v-model="store.note" maxlength="500" placeholder="A note to keep with it"
        /></label>
        <p class="figures soft">
          {{ count(store.plan.totals.items, 'item')
          }}<template v-if="store.plan.totals.spans"
            >, {{ count(store.plan.totals.spans, 'address', 'addresses') }} in
            {{ count(store.plan.totals.pages, 'page') }}</template
          >
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
        <button class="act quiet" type="button" @click="store.close()">
          {{ running ? 'Leave it running' : 'Not now' }}
        </button>
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
  </AppDialog>
</template>

<style scoped>
.foot {
  display: flex;
  align-items: center;
  gap: 10px;
}
.foot p {
  text-align: left;
}
.note-field {
  flex: 1;
}
.note-field input {
  width: 100%;
  max-width: 260px;
  height: 32px;
  padding: 0 8px;
  border: 1px solid var(--rule-strong);
  border-radius: 2px;
  background: var(--paper);
}
</style>
