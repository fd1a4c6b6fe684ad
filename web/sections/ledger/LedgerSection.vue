<script setup lang="ts">
import { ref, watch } from 'vue';
import type { EntryView, PlanView } from '../../../api/plans.ts';
import { api, sentenceOf } from '../../api/client.ts';
import PlanBody from '../../parts/PlanBody.vue';
import { count, moment } from '../../parts/words.ts';
import { usePlan } from '../../stores/plan.ts';
import { useSite } from '../../stores/site.ts';

const site = useSite();
const plan = usePlan();
const entries = ref<EntryView[]>([]);
const fault = ref('');
const opened = ref<number>();
const proof = ref<PlanView>();
const mayHaveMore = ref(false);

async function load() {
  try {
    entries.value = await api.ledger();
    mayHaveMore.value = entries.value.length === 100;
  } catch (error) {
    fault.value = sentenceOf(error);
  }
}
watch(() => site.revision, load, { immediate: true });
async function older() {
  const more = await api.ledger(entries.value.at(-1)?.id);
  entries.value.push(...more);
  mayHaveMore.value = more.length === 100;
}
async function show(id: number) {
  opened.value = opened.value === id ? undefined : id;
  proof.value = undefined;
  if (opened.value) proof.value = await api.entry(id);
}
</script>

<template>
  <div class="surface">
    <div class="head">
      <h1>Ledger</h1>
      <p class="soft">
        Every change of the site and its records, newest first. An undo restores the site’s files to the byte.
      </p>
    </div>
    <p v-if="fault" class="note losing">{{ fault }}</p>
    <p v-if="!entries.length && !fault" class="empty">
      No change has been made yet. Describe, rename, bring in or set aside something, and it will stand here
      with its undo.
    </p>
    <table v-else class="ruled">
      <thead>
        <tr>
          <th scope="col">When</th>
          <th scope="col">Who</th>
          <th scope="col">What</th>
          <th scope="col" class="number">Items</th>
          <th scope="col" class="number">Pages</th>
          <th scope="col"><span class="hidden-words">Undo</span></th>
        </tr>
      </thead>
      <tbody v-for="entry in entries" :key="entry.id">
        <tr :class="{ undone: entry.undoneBy }">
          <td class="figures when">{{ moment(entry.at) }}</td>
          <td class="who">{{ entry.person }}</td>
          <td>
            <button
              class="link what"
              type="button"
              :aria-expanded="opened === entry.id"
              @click="show(entry.id)"
            >
              {{ entry.title }}
            </button>
            <p v-if="entry.note" class="noted soft">“{{ entry.note }}”</p>
          </td>
          <td class="number">{{ entry.items || '' }}</td>
          <td class="number">{{ entry.pages || '' }}</td>
          <td class="undo">
            <span v-if="entry.undoneBy" class="soft">undone</span>
            <button
              v-else
              class="link"
              type="button"
              :aria-label="`${entry.undoes ? 'Redo' : 'Undo'}: ${entry.title}`"
              @click="plan.propose({ kind: 'undo', entryId: entry.id })"
            >
              {{ entry.undoes ? 'Redo' : 'Undo' }}
            </button>
          </td>
        </tr>
        <tr v-if="opened === entry.id && proof">
          <td></td>
          <td colspan="5"><PlanBody :plan="proof" /></td>
        </tr>
      </tbody>
    </table>
    <p v-if="mayHaveMore">
      <button class="link" type="button" @click="older">
        Show older changes than {{ count(entries.length, 'shown one') }}
      </button>
    </p>
  </div>
</template>

<style scoped>
.when,
.who,
.undo {
  white-space: nowrap;
}
.noted {
  font-style: italic;
}
.what {
  text-align: left;
}
.undone .what {
  color: var(--ink-soft);
  text-decoration: line-through;
}
</style>
