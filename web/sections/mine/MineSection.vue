<script setup lang="ts">
import { ref, watch } from 'vue';
import type { ItemView } from '../../../api/items.ts';
import type { MineView, SubmissionList, SubmissionView } from '../../../api/submissions.ts';
import { REVIEW_NAMES } from '../../../core/plan/words.ts';
import { api, sentenceOf } from '../../api/client.ts';
import AppButton from '../../kit/AppButton.vue';
import AppTable, { type Column } from '../../kit/AppTable.vue';
import PathText from '../../parts/PathText.vue';
import { moment } from '../../parts/words.ts';
import { usePlan } from '../../stores/plan.ts';
import { useSite } from '../../stores/site.ts';

/** What waits for this person: proposals to approve, their own, items to look through. */
const site = useSite();
const plan = usePlan();
const lists = ref<SubmissionList>({ waiting: [], mine: [] });
const mine = ref<MineView>({ items: [], calls: [] });
const loaded = ref(false);
const fault = ref('');
watch(
  [() => site.revision, () => site.submissions],
  async () => {
    try {
      [lists.value, mine.value] = await Promise.all([api.submissions(), api.mine()]);
      loaded.value = true;
      fault.value = '';
    } catch (error) {
      fault.value = sentenceOf(error);
    }
  },
  { immediate: true },
);

const WAITING: Column<SubmissionView>[] = [
  { key: 'title', label: 'What', minWidth: 280 },
  { key: 'person', label: 'Who', width: 170 },
  { key: 'at', label: 'When', width: 170 },
  { key: 'acts', label: 'Acts', width: 130, silent: true },
];
const MINE: Column<SubmissionView>[] = [
  { key: 'title', label: 'What', minWidth: 260 },
  { key: 'state', label: 'State', minWidth: 220 },
  { key: 'at', label: 'When', width: 170 },
  { key: 'acts', label: 'Acts', width: 190, silent: true },
];
const ITEMS: Column<ItemView>[] = [
  { key: 'name', label: 'Item', minWidth: 260 },
  { key: 'status', label: 'Status', width: 180 },
  { key: 'due', label: 'Due', width: 130 },
  { key: 'owner', label: 'Owner', width: 170 },
];
const statusOf = ({ state, review }: ItemView) =>
  [...(state === 'draft' ? ['draft'] : []), ...(review ? [REVIEW_NAMES[review]] : [])].join(', ') ||
  'published';
const recordOf = (item: number, state: string) => ({
  name: 'library',
  query: { state: state === 'draft' ? 'draft' : undefined, item },
});
const today = new Date().toISOString().slice(0, 10);
async function withdraw(id: number) {
  try {
    await api.withdrawSubmission(id);
  } catch (error) {
    fault.value = sentenceOf(error);
  }
}
</script>

<template>
  <div class="surface">
    <div class="head">
      <h1>Mine</h1>
      <p class="soft">What waits for you, and what became of what you proposed.</p>
    </div>
    <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
    <p
      v-if="loaded && !lists.waiting.length && !lists.mine.length && !mine.items.length && !mine.calls.length"
      class="empty"
    >
      Nothing waits for you. Your drafts, your proposals and items that you have to look through are listed
      here.
    </p>
    <section v-if="lists.waiting.length">
      <h2>Waits for your approval</h2>
      <AppTable
        label="Waits for your approval"
        :rows="lists.waiting"
        :columns="WAITING"
        :row-key="(one) => String(one.id)"
      >
        <template #title="{ row: one }"
          >{{ one.title }}
          <p v-if="one.note" class="noted soft">“{{ one.note }}”</p></template
        >
        <template #at="{ row: one }">{{ moment(one.at) }}</template>
        <template #acts="{ row: one }">
          <AppButton :aria-label="`Review: ${one.title}`" @click="plan.look(one.id)">Review …</AppButton>
        </template>
      </AppTable>
    </section>
    <section v-if="lists.mine.length">
      <h2>Your proposals</h2>
      <AppTable label="Your proposals" :rows="lists.mine" :columns="MINE" :row-key="(one) => String(one.id)">
        <template #title="{ row: one }"
          >{{ one.title }}
          <p v-if="one.note" class="noted soft">“{{ one.note }}”</p></template
        >
        <template #state="{ row: one }">
          <template v-if="one.state === 'waiting'">waits for approval</template>
          <template v-else-if="one.state === 'applied'">approved by {{ one.answeredBy }}</template>
          <template v-else
            ><strong>sent back by {{ one.answeredBy }}</strong>
            <p class="noted">“{{ one.answer }}”</p></template
          >
        </template>
        <template #at="{ row: one }">{{ moment(one.answeredAt ?? one.at) }}</template>
        <template #acts="{ row: one }">
          <template v-if="one.state !== 'applied'">
            <AppButton look="link" :aria-label="`Review: ${one.title}`" @click="plan.look(one.id)"
              >Review …</AppButton
            >
            <AppButton look="link" :aria-label="`Withdraw: ${one.title}`" @click="withdraw(one.id)"
              >Withdraw</AppButton
            >
          </template>
          <RouterLink v-else :to="{ name: 'library', query: { entry: one.entryId } }">Show items</RouterLink>
        </template>
      </AppTable>
    </section>
    <section v-if="mine.calls.length">
      <h2>Comments for you</h2>
      <ol class="calls">
        <li v-for="one in mine.calls" :key="one.key">
          <p>
            <strong>{{ one.person }}</strong> on
            <RouterLink class="mono" :to="recordOf(one.itemId, one.state)"
              ><PathText :path="one.path"
            /></RouterLink>
            <span class="soft figures">{{ moment(one.at) }}</span>
          </p>
          <p class="noted">“{{ one.text }}”</p>
        </li>
      </ol>
    </section>
    <section v-if="mine.items.length">
      <h2>Items</h2>
      <AppTable label="Items" :rows="mine.items" :columns="ITEMS" :row-key="(one) => String(one.id)">
        <template #name="{ row: one }">
          <RouterLink class="mono" :to="recordOf(one.id, one.state)"
            ><PathText :path="one.path"
          /></RouterLink>
        </template>
        <template #status="{ row: one }">{{ statusOf(one) }}</template>
        <template #due="{ row: one }"
          ><span class="figures" :class="{ late: one.due && one.due < today }"
            >{{ one.due }}{{ one.due && one.due < today ? ', overdue' : '' }}</span
          ></template
        >
        <template #owner="{ row: one }">{{ one.owner ?? '' }}</template>
      </AppTable>
    </section>
  </div>
</template>

<style scoped>
section {
  margin-top: 22px;
}
h2 {
  margin-bottom: 6px;
  font-size: 15px;
}
.noted {
  font-style: italic;
}
.calls .figures {
  margin-left: 8px;
}
.calls {
  display: grid;
  margin: 0;
  padding: 0;
  gap: 10px;
  list-style: none;
}
.late {
  color: var(--madder);
}
</style>
