<script setup lang="ts">
import type { PlanView } from '../../../api/plans.ts';
import { count } from '../../parts/words.ts';

/** What a plan writes to pages, as lines that go and come, and what else is to be known of it. */
defineProps<{ made: PlanView }>();
</script>

<template>
  <h3>Source</h3>
  <div v-for="page in made.pages" :key="page.page">
    <div v-for="(change, index) in page.changes" :key="index" class="mono written">
      <del v-if="change.oldUrl">{{ change.oldUrl }}</del>
      <ins>{{ change.newUrl }}</ins>
    </div>
  </div>
  <p v-if="made.created.length" class="soft">
    {{ count(made.created.length, 'new size') }}:
    <span class="mono">{{
      made.created.map((path) => path.slice(path.lastIndexOf('/') + 1)).join(', ')
    }}</span>
  </p>
  <p v-for="warning in made.warnings" :key="warning" class="note ochre">{{ warning }}</p>
</template>

<style scoped>
h3,
p {
  margin: 0;
}
.written {
  margin: 4px 0;
  padding: 6px;
  background: var(--paper-raised);
  font-size: 12px;
  overflow-wrap: anywhere;
}
del,
ins {
  display: block;
  white-space: pre-wrap;
}
del {
  color: var(--madder);
}
ins {
  color: var(--verdigris);
  text-decoration: none;
}
.ochre {
  color: var(--ochre);
}
</style>
