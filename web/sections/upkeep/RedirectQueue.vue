<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import type { RedirectFindings } from '../../../api/upkeep.ts';
import type { CheckName } from '../../../core/upkeep/checks.ts';
import { api, sentenceOf } from '../../api/client.ts';
import { count } from '../../parts/words.ts';
import { usePlan } from '../../stores/plan.ts';
import { useSite } from '../../stores/site.ts';
import AppButton from '../../kit/AppButton.vue';

const props = defineProps<{ check: CheckName }>();
const site = useSite();
const plan = usePlan();
const all = ref<RedirectFindings>();
const fault = ref('');
watch(
  () => site.revision,
  async () => {
    try {
      all.value = await api.redirectFindings();
    } catch (error) {
      fault.value = sentenceOf(error);
    }
  },
  { immediate: true },
);
const found = computed(() => all.value?.filter((one) => one.check === props.check) ?? []);
function mend(some: RedirectFindings) {
  void plan.propose({ kind: 'redirects', redirects: some.map(({ from, better }) => ({ from, to: better })) });
}
</script>

<template>
  <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
  <template v-if="found.length">
    <p>
      <AppButton look="main" @click="mend(found)"
        >{{ check === 'idle-redirects' ? 'Drop' : 'Shorten:' }} {{ count(found.length, 'redirect') }} …
      </AppButton>
    </p>
    <table class="ruled">
      <thead>
        <tr>
          <th scope="col">Old address</th>
          <th scope="col">Leads to</th>
          <th scope="col">Why</th>
          <th scope="col"><span class="hidden-words">Remedy</span></th>
        </tr>
      </thead>
      <tbody>
        <tr v-for="one in found" :key="one.from">
          <td class="mono">{{ one.from }}</td>
          <td class="mono">{{ one.to }}</td>
          <td>
            {{ one.why
            }}<template v-if="one.better">
              It should lead to <span class="mono">{{ one.better }}</span>.</template
            >
          </td>
          <td>
            <AppButton look="link" @click="mend([one])"
              >{{ one.better === null ? 'Drop …' : 'Shorten …' }}
            </AppButton>
          </td>
        </tr>
      </tbody>
    </table>
  </template>
  <p v-else-if="all" class="empty">No redirects to fix.</p>
</template>
