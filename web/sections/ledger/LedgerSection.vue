<script setup lang="ts">
import { ref, watch } from 'vue';
import type { EntryView, PlanView } from '../../../api/plans.ts';
import { api, sentenceOf } from '../../api/client.ts';
import PlanBody from '../../parts/PlanBody.vue';
import { moment } from '../../parts/words.ts';
import { usePlan } from '../../stores/plan.ts';
import { useSite } from '../../stores/site.ts';
import AppButton from '../../kit/AppButton.vue';

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
      <p class="soft">Every change, newest first. Undo restores files to the byte.</p>
    </div>
    <p v-if="fault" class="note losing">{{ fault }}</p>
    <p v-if="!entries.length && !fault" class="empty">
      No changes yet. Every change you make is listed here and can be undone.
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
            <AppButton look="link" class="what" :aria-expanded="opened === entry.id" @click="show(entry.id)"
              >{{ entry.title }}
            </AppButton>
            <p v-if="entry.note" class="noted soft">“{{ entry.note }}”</p>
          </td>
          <td class="number">{{ entry.items || '' }}</td>
          <td class="number">{{ entry.pages || '' }}</td>
          <td class="undo">
            <span v-if="entry.undoneBy" class="soft">undone</span>
            <span v-else-if="entry.kind === 'empty'" class="soft">can’t be undone</span>
            <AppButton
              v-else
              look="link"
              :aria-label="`${entry.undoes ? 'Redo' : 'Undo'}: ${entry.title}`"
              @click="plan.propose({ kind: 'undo', entryId: entry.id })"
              >{{ entry.undoes ? 'Redo' : 'Undo' }}
            </AppButton>
          </td>
        </tr>
        <tr v-if="opened === entry.id && proof">
          <td></td>
          <td colspan="5"><PlanBody :plan="proof" /></td>
        </tr>
      </tbody>
    </table>
    <p v-if="mayHaveMore">
      <AppButton look="link" @click="older"> Show older changes </AppButton>
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
