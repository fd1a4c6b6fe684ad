<script setup lang="ts">
import { ref, watch } from 'vue';
import type { Dismissed } from '../../../api/upkeep.ts';
import { CHECKS } from '../../../core/upkeep/checks.ts';
import { api, sentenceOf } from '../../api/client.ts';
import { moment } from '../../parts/words.ts';
import { usePlan } from '../../stores/plan.ts';
import { useSite } from '../../stores/site.ts';
import AppButton from '../../kit/AppButton.vue';

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
  <div class="head"><h2>Dismissed</h2></div>
  <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
  <table v-if="list?.length" class="ruled">
    <thead>
      <tr>
        <th scope="col">What</th>
        <th scope="col">Finding</th>
        <th scope="col">Reason</th>
        <th scope="col">By</th>
        <th scope="col"><span class="hidden-words">Restore</span></th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="one in list" :key="`${one.name} ${one.subject}`">
        <td class="mono">
          <AppButton v-if="one.item" look="link" @click="emit('open', one.item.id)"
            >{{ one.item.path }}
          </AppButton>
          <template v-else>{{ one.subject }}</template>
        </td>
        <td>
          {{ CHECKS[one.name].name }}
          <span v-if="one.past" class="ochre">Changed since, so it is reported again.</span>
        </td>
        <td>{{ one.reason }}</td>
        <td class="figures">{{ one.person }}, {{ moment(one.at) }}</td>
        <td><AppButton look="link" @click="again(one)">Report again</AppButton></td>
      </tr>
    </tbody>
  </table>
  <p v-else-if="list" class="empty">
    Nothing dismissed. Findings you keep on purpose or dismiss are listed here with the reason.
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
