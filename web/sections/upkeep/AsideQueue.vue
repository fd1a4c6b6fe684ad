<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import type { ItemView } from '../../../api/items.ts';
import type { Overview } from '../../../api/upkeep.ts';
import { api, sentenceOf } from '../../api/client.ts';
import AppDialog from '../../kit/AppDialog.vue';
import { count, dayOf, moment, weight } from '../../parts/words.ts';
import OnlyWho from '../../parts/OnlyWho.vue';
import { usePlan } from '../../stores/plan.ts';
import { useSite } from '../../stores/site.ts';
import ChoiceLine from './ChoiceLine.vue';
import AppButton from '../../kit/AppButton.vue';
import AppInput from '../../kit/AppInput.vue';
import AppNumber from '../../kit/AppNumber.vue';

/** What is set aside: how long it is kept, restoring, and emptying, which is the one act that loses something. */
const props = defineProps<{ aside: Overview['aside'] }>();
const emit = defineEmits<{ open: [id: number] }>();
const site = useSite();
const plan = usePlan();
const items = ref<ItemView[]>();
const fault = ref('');
const chosen = ref(new Set<number>());
const emptying = ref(false);
const typed = ref('');
const days = ref(props.aside.days);
watch(
  () => props.aside.days,
  (now) => (days.value = now),
);

watch(
  () => site.revision,
  async () => {
    try {
      items.value = await api.aside();
      const there = new Set(items.value.map((item) => item.id));
      chosen.value = new Set([...chosen.value].filter((id) => there.has(id)));
    } catch (error) {
      fault.value = sentenceOf(error);
    }
  },
  { immediate: true },
);
const DAY = 86_400_000;
const until = (item: ItemView) => new Date(Date.parse(item.asideAt ?? '') + props.aside.days * DAY);
const over = (item: ItemView) => until(item).getTime() < Date.now();
const bytes = computed(() =>
  (items.value ?? []).filter((item) => chosen.value.has(item.id)).reduce((sum, item) => sum + item.bytes, 0),
);
function toggle(id: number) {
  const next = new Set(chosen.value);
  if (!next.delete(id)) next.add(id);
  chosen.value = next;
}
function choose(some: readonly ItemView[]) {
  chosen.value = chosen.value.size === some.length ? new Set() : new Set(some.map((item) => item.id));
}
const restore = (freeNames: boolean) =>
  plan.propose({ kind: 'restore', itemIds: [...chosen.value], freeNames });
async function keepFor() {
  if (!Number.isInteger(days.value) || days.value < 1) return;
  try {
    await plan.make({ kind: 'keeping-days', days: days.value });
  } catch (error) {
    fault.value = sentenceOf(error);
  }
}
async function empty() {
  try {
    await api.empty([...chosen.value], typed.value);
    emptying.value = false;
    typed.value = '';
    fault.value = '';
    await site.changed();
  } catch (error) {
    fault.value = sentenceOf(error);
  }
}
</script>

<template>
  <div class="head">
    <div>
      <h2>Set aside</h2>
      <p class="soft">
        These items are off the site but kept. You can restore each to where it was until you delete it for
        good.
      </p>
    </div>
  </div>
  <p v-if="fault && !emptying" class="note losing" role="alert">{{ fault }}</p>
  <form class="keeping figures" @submit.prevent="keepFor">
    <label v-if="site.may('settings')"
      >Kept for <AppNumber v-model="days" :min="1" :max="3650" /> days.</label
    >
    <span v-else>Kept for {{ aside.days }} days.</span>
    <AppButton v-if="days !== aside.days" type="submit">Keep for {{ days }} days</AppButton>
    <span class="soft"
      >{{ count(aside.items, 'item') }}, {{ weight(aside.bytes) }}; {{ aside.over }} expired.</span
    >
  </form>
  <template v-if="items?.length">
    <div class="acts">
      <AppButton look="main" :disabled="chosen.size === 0" @click="restore(false)">
        Restore {{ count(chosen.size, 'item') }} …
      </AppButton>
      <AppButton :disabled="chosen.size === 0" @click="restore(true)"> Restore under new names … </AppButton>
      <AppButton look="link" @click="choose(items)"
        >{{ chosen.size === items.length ? 'Deselect all' : 'Select all' }}
      </AppButton>
      <AppButton v-if="aside.over" look="link" @click="choose(items.filter(over))">
        Select expired
      </AppButton>
      <span class="spread"></span>
      <AppButton v-if="site.may('empty')" danger :disabled="chosen.size === 0" @click="emptying = true">
        Delete for good …
      </AppButton>
      <OnlyWho right="empty">can delete for good.</OnlyWho>
    </div>
    <p v-if="aside.items > items.length" class="soft">
      These are the {{ items.length.toLocaleString('en') }} that have been kept longest.
    </p>
    <ul>
      <ChoiceLine
        v-for="item in items"
        :key="item.id"
        :item="item"
        :chosen="chosen.has(item.id)"
        @toggle="toggle(item.id)"
        @open="emit('open', item.id)"
      >
        <template #facts>
          {{ weight(item.bytes) }}<br />set aside {{ item.asideAt ? moment(item.asideAt) : '' }}<br />
          <span :class="{ ochre: over(item) }"
            >{{ over(item) ? 'can be deleted since' : 'kept until' }} {{ dayOf(until(item)) }}</span
          >
        </template>
      </ChoiceLine>
    </ul>
  </template>
  <p v-else-if="items" class="empty">Nothing is set aside.</p>
  <AppDialog
    v-if="emptying"
    :model-value="true"
    width="460px"
    title="Delete for good"
    @close="emptying = false"
  >
    <p class="losing-words">
      <strong>{{ count(chosen.size, 'item') }}, {{ weight(bytes) }}, will be deleted.</strong> This can’t be
      undone. The ledger keeps who did it and when.
    </p>
    <form @submit.prevent="empty">
      <label
        >Type the number of items to delete
        <AppInput v-model="typed" inputmode="numeric" autocomplete="off" />
      </label>
    </form>
    <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
    <template #footer>
      <AppButton @click="emptying = false">Cancel</AppButton>
      <AppButton danger :disabled="typed.trim() !== String(chosen.size)" @click="empty">
        Delete {{ count(chosen.size, 'item') }}
      </AppButton>
    </template>
  </AppDialog>
</template>

<style scoped>
.head p {
  margin: 2px 0 0;
}
.keeping,
.acts {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px 14px;
  margin-bottom: 10px;
}
.spread {
  flex: 1;
}
ul {
  margin: 0;
  padding: 0;
  list-style: none;
}
.ochre {
  color: var(--ochre);
}
form label {
  display: inline-flex;
  align-items: center;
  gap: 6px;
}
</style>
