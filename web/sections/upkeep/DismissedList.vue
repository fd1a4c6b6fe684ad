<script setup lang="ts">
import { ref, watch } from 'vue';
import type { Dismissed } from '../../../api/upkeep.ts';
import { CHECKS } from '../../../core/upkeep/checks.ts';
import { api, sentenceOf } from '../../api/client.ts';
import { moment } from '../../parts/words.ts';
import { usePlan } from '../../stores/plan.ts';
import { useSite } from '../../stores/site.ts';

/** What people have said to leave alone, with the reason; each can be told again. */
const emit = defineEmits<{ open: [id: number] }>();
const site = useSite();
const plan = usePlan();
const list = ref<Dismissed>();
const fault = ref('');
watch(
  () => site.revision,
  async () => {
    try {
      list.value = await api.dismissed();
    } catch (error) {
      fault.value = sentenceOf(error);
    }
  },
  { immediate: true },
);
async function again(one: Dismissed[number]) {
  try {
    await plan.make({ kind: 'dismiss', check: one.name, subjects: [one.subject], reason: null });
  } catch (error) {
    fault.value = sentenceOf(error);
  }
}
</script>

<template>
  <div class="head"><h2>Left alone</h2></div>
  <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
  <table v-if="list?.length" class="ruled">
    <thead>
      <tr>
        <th scope="col">What</th>
        <th scope="col">Finding</th>
        <th scope="col">Reason</th>
        <th scope="col">Said by</th>
        <th scope="col"><span class="hidden-words">Bring it back</span></th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="one in list" :key="`${one.name} ${one.subject}`">
        <td class="mono">
          <button v-if="one.item" class="link" type="button" @click="emit('open', one.item.id)">
            {{ one.item.path }}
          </button>
          <template v-else>{{ one.subject }}</template>
        </td>
        <td>
          {{ CHECKS[one.name].name }}
          <span v-if="one.past" class="ochre">It has changed since, so it is told again.</span>
        </td>
        <td>{{ one.reason }}</td>
        <td class="figures">{{ one.person }}, {{ moment(one.at) }}</td>
        <td><button class="link" type="button" @click="again(one)">Tell it again</button></td>
      </tr>
    </tbody>
  </table>
  <p v-else-if="list" class="empty">
    Nothing is left alone. “Keep on purpose” and “Leave alone” put findings here, with the reason.
  </p>
</template>

<style scoped>
td {
  word-break: break-word;
}
.ochre {
  display: block;
  color: var(--ochre);
}
</style>
