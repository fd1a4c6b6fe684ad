<script setup lang="ts">
import type { SubmittedPlan } from '../../api/submissions.ts';
import { moment } from './words.ts';

/** Who has proposed a plan, why, and what has moved on since. */
defineProps<{ proposal: SubmittedPlan }>();
</script>

<template>
  <section class="proposal">
    <p>
      Proposed by <strong>{{ proposal.submission.person }}</strong>, {{ moment(proposal.submission.at)
      }}<template v-if="proposal.submission.note">: “{{ proposal.submission.note }}”</template>
    </p>
    <p v-if="proposal.submission.state === 'returned'">
      Sent back by <strong>{{ proposal.submission.answeredBy }}</strong>: “{{ proposal.submission.answer }}”
    </p>
    <p class="soft">Below is what it would change now.</p>
    <template v-if="proposal.moved.length">
      <h3>Changed since it was proposed</h3>
      <ul>
        <li v-for="one in proposal.moved" :key="one">{{ one }}</li>
      </ul>
    </template>
  </section>
</template>

<style scoped>
.proposal {
  padding-bottom: 10px;
  border-bottom: 1px solid var(--rule);
}
ul {
  margin: 4px 0 0;
  padding-left: 18px;
}
</style>
