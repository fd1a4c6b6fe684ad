<script setup lang="ts">
import { usePlan } from '../stores/plan.ts';
import { count } from './words.ts';

/** What the last act did, with its undo, until the next one or until it is closed. */
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
    }}<template v-if="plan.done.totals.pages"
      >; {{ count(plan.done.totals.pages, 'page') }} rewritten</template
    >.
    <button class="link" type="button" @click="undo">Undo</button>
    <button class="link" type="button" @click="plan.done = undefined">Close this line</button>
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
