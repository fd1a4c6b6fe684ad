<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import type { TagFindings } from '../../../api/upkeep.ts';
import { writeQuery } from '../../../core/find/query.ts';
import { api, sentenceOf } from '../../api/client.ts';
import { count } from '../../parts/words.ts';
import { usePlan } from '../../stores/plan.ts';
import { useSite } from '../../stores/site.ts';
import LeaveAlone from './LeaveAlone.vue';
import AppButton from '../../kit/AppButton.vue';

const props = defineProps<{ check: 'near-tags' | 'lone-tags' }>();
const site = useSite();
const plan = usePlan();
const found = ref<TagFindings>();
const fault = ref('');
const leaving = ref<string>();
watch(
  () => site.revision,
  async () => {
    try {
      found.value = await api.tagFindings();
    } catch (error) {
      fault.value = sentenceOf(error);
    }
  },
  { immediate: true },
);
const rows = computed(() =>
  props.check === 'near-tags'
    ? (found.value?.near ?? [])
    : (found.value?.lone ?? []).map((one) => ({ ...one, to: '', why: '' })),
);
const showItems = (tag: string) => ({
  name: 'library',
  query: { where: writeQuery({ join: 'all', not: false, of: [{ test: 'tag', value: tag, not: false }] }) },
});
</script>

<template>
  <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
  <table v-if="rows.length" class="ruled">
    <thead>
      <tr>
        <th scope="col">Tag</th>
        <th scope="col" class="number">Items</th>
        <th v-if="check === 'near-tags'" scope="col">Nearly the same as</th>
        <th scope="col">Remedy</th>
      </tr>
    </thead>
    <tbody>
      <tr v-for="one in rows" :key="one.name">
        <td>
          <RouterLink :to="showItems(one.name)">{{ one.name }}</RouterLink>
        </td>
        <td class="number figures">{{ one.items }}</td>
        <td v-if="check === 'near-tags'">
          <strong>{{ one.to }}</strong> <span class="soft">({{ one.why }})</span>
        </td>
        <td class="acts">
          <AppButton
            v-if="one.to"
            look="link"
            @click="plan.propose({ kind: 'tag', tag: one.name, to: one.to })"
          >
            Merge with “{{ one.to }}” …
          </AppButton>
          <AppButton v-else look="link" @click="plan.propose({ kind: 'tag', tag: one.name, to: null })">
            Remove tag …
          </AppButton>
          <AppButton look="link" @click="leaving = one.name">Dismiss …</AppButton>
        </td>
      </tr>
    </tbody>
  </table>
  <p v-else-if="found" class="empty">Nothing to do here.</p>
  <p v-if="rows.length" class="soft figures">
    {{ count(rows.length, 'tag') }}. Merged tags keep their spelling, so searches still find them.
  </p>
  <LeaveAlone
    v-if="leaving"
    :check="check"
    :subjects="[leaving]"
    @close="leaving = undefined"
    @done="leaving = undefined"
  />
</template>

<style scoped>
.acts {
  display: flex;
  gap: 14px;
}
</style>
