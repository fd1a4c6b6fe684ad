<script setup lang="ts">
import { usePlan } from '../stores/plan.ts';
import { count } from './words.ts';
import AppButton from '../kit/AppButton.vue';

/** What the last act did, with the way back, until the next one or until it is closed. */
const plan = usePlan();
function undo() {
  const entryId = plan.done!.entryId;
  plan.done = undefined;
  void plan.propose({ kind: 'undo', entryId });
}
</script>

<template>
  <p v-if="plan.done" class="done" role="status">
    <strong>Done.</strong> {{ plan.done.title
    }}<template v-if="plan.done.totals.pages">; {{ count(plan.done.totals.pages, 'page') }} updated</template
    >.
    <AppButton v-if="plan.back" look="link" @click="undo">{{ plan.back }}</AppButton>
    <AppButton look="link" @click="plan.done = undefined">Dismiss</AppButton>
  </p>
  <p v-if="plan.submitted" class="done" role="status">
    <strong>Proposed.</strong> {{ plan.submitted }}. It waits for approval.
    <RouterLink :to="{ name: 'mine' }" @click="plan.submitted = ''">Your proposals</RouterLink>
    <AppButton look="link" @click="plan.submitted = ''">Dismiss</AppButton>
  </p>
</template>

<style scoped>
.done {
  padding: 6px 24px;
  border-top: 1px solid var(--rule-strong);
  background: var(--verdigris-wash);
}
.link {
  margin-left: 12px;
}
</style>
