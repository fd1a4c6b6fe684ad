<script setup lang="ts">
import AppDialog from '../kit/AppDialog.vue';
import { computed, ref, watch } from 'vue';
import { usePlan } from '../stores/plan.ts';
import { api } from '../api/client.ts';
import { canStop, useSite } from '../stores/site.ts';
import { usePreparing } from '../stores/preparing.ts';
import { useTray } from '../stores/tray.ts';
import { aRole } from '../../core/people/rights.ts';
import { VERBS } from '../../core/plan/verbs.ts';
import { count, weight } from './words.ts';
import AppButton from '../kit/AppButton.vue';
import AppInput from '../kit/AppInput.vue';
import { laterPart } from '../kit/later.ts';

const PlanBody = laterPart(() => import('./PlanBody.vue'));
const ProposalNotes = laterPart(() => import('./ProposalNotes.vue'));
/** Any plan as a proof: what changes, what cannot be done, totals, and one button that says what it does. */
const store = usePlan();
const tray = useTray();
const site = useSite();
/** The act while it goes on, when it is a long one. */
const running = computed(() => site.running.find((job) => job.kind === 'apply'));

const open = computed({
  get: () => store.plan !== undefined || store.fault !== '',
  set: (yes) => {
    // Said again when it has faded: by then the next one may be under way.
    if (!yes && open.value) store.close();
  },
});

/** It stays while the dialog closes. */
const title = ref('');
watch([() => store.plan, () => store.fault], ([plan, fault]) => {
  if (plan) title.value = plan.title;
  else if (fault) title.value = 'This can’t be done';
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

/** Who has to approve it; '': nobody. */
const approval = computed(() => store.plan?.approval ?? '');
/** What the person has proposed themselves: others approve it. */
const own = computed(() => store.submission?.submission.personId === site.site?.person.id);
/** What was sent back, to be proposed once more. */
const again = computed(() => own.value && store.submission?.submission.state === 'returned');
/** Of a large change, where there are others who may approve, a second pair of eyes can be asked for. */
const LARGE = 10;
const proposable = computed(
  () =>
    !store.submission &&
    store.plan !== undefined &&
    store.plan.kind !== 'undo' &&
    store.plan.totals.items + store.plan.totals.pages >= LARGE &&
    (site.site?.people ?? []).some(
      ({ id, role }) => id !== site.site?.person.id && (role === 'editor' || role === 'steward'),
    ),
);
const noteFor = computed(() =>
  store.submission
    ? own.value
      ? 'Note for those who approve'
      : `Note for ${store.submission.submission.person}`
    : approval.value
      ? 'Note for those who approve'
      : 'Note for the ledger',
);

/** The dialog that the treatment was chosen in comes back, with this image. */
function frame(itemId: number) {
  usePreparing().framing = itemId;
  store.close();
}

const ready = computed(
  () => store.plan && !store.busy && !store.plan.empty && store.plan.clashes.length === 0,
);
async function apply() {
  const ids = store.request?.kind === 'set-aside' ? store.request.itemIds : [];
  if ((await store.apply()) && ids.length > 0) tray.remove(ids);
}
</script>

<template>
  <AppDialog v-model="open" width="820px" top="6vh" :title="title" :close-on-click-modal="false">
    <p v-if="store.fault" class="note losing" role="alert">{{ store.fault }}</p>
    <ProposalNotes v-if="store.submission" :proposal="store.submission" />
    <PlanBody v-if="store.plan" :plan="store.plan" :framed="store.request?.kind === 'treat'" @frame="frame" />
    <template v-if="store.plan" #footer>
      <p v-if="store.busy" class="figures soft" role="status">
        {{
          running?.total
            ? `${running.done.toLocaleString('en')} of ${running.total.toLocaleString('en')} ${running.what}`
            : 'Working …'
        }}
        <AppButton v-if="running && canStop(running)" look="link" @click="api.cancelJob(running.id)">
          Stop
        </AppButton>
      </p>
      <p v-if="approval" class="note approval">
        As {{ aRole(site.site?.person.role ?? '') }} you can propose this. Then {{ approval }} approves it.
      </p>
      <div class="foot" :class="{ tall: store.submission }">
        <label class="note-field"
          ><span class="hidden-words">{{ noteFor }}</span
          ><AppInput
            v-model="store.note"
            maxlength="500"
            :placeholder="noteFor"
            @keydown.enter.prevent="ready && (approval || again ? store.submit() : own || apply())"
        /></label>
        <p class="figures soft">
          <template v-if="store.plan.totals.items || !store.plan.totals.pages">{{
            count(store.plan.totals.items, 'item')
          }}</template><template v-if="store.plan.totals.spans && store.plan.totals.pages"
            >{{ store.plan.totals.items ? ', ' : '' }}{{ count(store.plan.totals.spans, 'change') }} on
            {{ count(store.plan.totals.pages, 'page') }}</template
          >
          <template v-if="store.plan.totals.bytesFreed"
            >, {{ weight(store.plan.totals.bytesFreed) }} freed</template
          >
        </p>
        <AppButton
          v-if="
            store.plan.kind === 'set-aside' &&
            store.plan.clashes.length &&
            store.plan.totals.items &&
            tray.size
          "
          @click="leaveOut"
        >
          Skip items in use
        </AppButton>
        <AppButton @click="store.close()">{{ running ? 'Continue in background' : 'Cancel' }} </AppButton>
        <AppButton
          v-if="store.submission && !own"
          :disabled="!store.note.trim() || store.busy"
          title="Say why in the note"
          @click="store.sendBack(store.note)"
          >Send back
        </AppButton>
        <AppButton v-if="proposable && !approval" :disabled="!ready" @click="store.submit()"
          >Propose
        </AppButton>
        <AppButton v-if="approval || again" look="main" :disabled="!ready" @click="store.submit()"
          >{{ store.plan.empty ? 'Nothing changes' : again ? 'Propose again' : 'Propose' }}
        </AppButton>
        <AppButton v-else-if="!own" look="main" :disabled="!ready" @click="apply"
          >{{ store.plan.empty ? 'Nothing changes' : verb }}
        </AppButton>
      </div>
    </template>
  </AppDialog>
</template>

<style scoped>
.foot {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  justify-content: flex-end;
  gap: 10px;
}
p.approval,
.foot p {
  text-align: left;
}
.approval {
  margin-bottom: 10px;
}
/* What is said to somebody needs room. */
.foot.tall .note-field {
  flex-basis: 100%;
}
.note-field {
  flex: 1 0 200px;
}
</style>
