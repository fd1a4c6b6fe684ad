<script setup lang="ts">
import { ref } from 'vue';
import { CHECKS, type CheckName } from '../../../core/upkeep/checks.ts';
import { sentenceOf } from '../../api/client.ts';
import AppDialog from '../../kit/AppDialog.vue';
import { count } from '../../parts/words.ts';
import { usePlan } from '../../stores/plan.ts';
import AppButton from '../../kit/AppButton.vue';
import AppInput from '../../kit/AppInput.vue';

/** Findings are left alone, with the reason. */
const props = defineProps<{ check: CheckName; subjects: string[] }>();
const emit = defineEmits<{ close: []; done: [] }>();
const plan = usePlan();
const reason = ref('');
const fault = ref('');
async function save() {
  if (reason.value.trim() === '') {
    fault.value = 'Enter a reason. Whoever looks next year will want to know.';
    return;
  }
  try {
    await plan.make({
      kind: 'dismiss',
      check: props.check,
      subjects: props.subjects,
      reason: reason.value.trim(),
    });
    emit('done');
  } catch (error) {
    fault.value = sentenceOf(error);
  }
}
</script>

<template>
  <AppDialog
    :model-value="true"
    width="480px"
    :title="`${check === 'unused' ? 'Keep on purpose' : 'Dismiss'}: ${count(subjects.length, 'finding')} of “${CHECKS[check].name}”`"
    @close="emit('close')"
  >
    <form @submit.prevent="save">
      <label>
        Reason
        <AppInput v-model="reason" maxlength="300" placeholder="for the anniversary in May" autofocus />
      </label>
      <p class="soft">
        They are not reported again until they change. You find them under “Dismissed”, with your name and the
        reason.
      </p>
      <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
    </form>
    <template #footer>
      <AppButton @click="emit('close')">Cancel</AppButton>
      <AppButton look="main" @click="save"
        >{{ check === 'unused' ? 'Keep on purpose' : 'Dismiss' }}
      </AppButton>
    </template>
  </AppDialog>
</template>

<style scoped>
label {
  display: grid;
  gap: 4px;
}
</style>
