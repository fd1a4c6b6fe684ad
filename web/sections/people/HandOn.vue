<script setup lang="ts">
import { computed, onMounted, ref } from 'vue';
import type { Holdings, MemberView } from '../../../api/people.ts';
import { api, sentenceOf } from '../../api/client.ts';
import AppButton from '../../kit/AppButton.vue';
import AppDialog from '../../kit/AppDialog.vue';
import AppOption from '../../kit/AppOption.ts';
import AppSelect from '../../kit/AppSelect.vue';
import { count } from '../../parts/words.ts';
import { usePlan } from '../../stores/plan.ts';
import { useSite } from '../../stores/site.ts';

/** What somebody leaves behind goes to another: items and drafts to look after, and open proposals. */
const props = defineProps<{ member: MemberView }>();
const emit = defineEmits<{ close: [] }>();
const site = useSite();
const plan = usePlan();
const held = ref<Holdings>();
const to = ref('');
const fault = ref('');
onMounted(async () => {
  try {
    held.value = await api.holdings(props.member.id);
  } catch (error) {
    fault.value = sentenceOf(error);
  }
});
const others = computed(() =>
  (site.site?.people ?? []).filter(({ id, role }) => id !== props.member.id && role !== 'reader'),
);
const nothing = computed(() => held.value && held.value.itemIds.length + held.value.proposals === 0);
async function hand() {
  fault.value = '';
  const other = others.value.find(({ name }) => name === to.value)!;
  try {
    // A change like any other: looked at first, and undone like one.
    await plan.propose({ kind: 'hand-on', personId: props.member.id, to: other.id });
    emit('close');
  } catch (error) {
    fault.value = sentenceOf(error);
  }
}
</script>

<template>
  <AppDialog
    :model-value="true"
    :title="`Hand on what ${member.name} had`"
    width="520px"
    @close="emit('close')"
  >
    <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
    <p v-if="nothing">{{ member.name }} has no items or drafts to look after, and no open proposals.</p>
    <template v-else-if="held">
      <p>
        {{ count(held.itemIds.length, 'item') }} and drafts to look after,
        {{ count(held.proposals, 'open proposal') }}.
      </p>
      <label
        >Who takes over
        <AppSelect v-model="to" data-first
          ><AppOption v-for="one in others" :key="one.id" :value="one.name" :label="one.name" />
        </AppSelect>
      </label>
    </template>
    <template #footer>
      <AppButton @click="emit('close')">Cancel</AppButton>
      <AppButton v-if="!nothing" look="main" :disabled="!to" @click="hand">Hand on</AppButton>
    </template>
  </AppDialog>
</template>
