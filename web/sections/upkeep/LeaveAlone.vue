<script setup lang="ts">
import { ref } from 'vue';
import { CHECKS, type CheckName } from '../../../core/upkeep/checks.ts';
import { sentenceOf } from '../../api/client.ts';
import AppDialog from '../../parts/AppDialog.vue';
import { count } from '../../parts/words.ts';
import { usePlan } from '../../stores/plan.ts';

/** Findings are left alone, with the reason. */
const props = defineProps<{ check: CheckName; subjects: string[] }>();
const emit = defineEmits<{ close: []; done: [] }>();
const plan = usePlan();
const reason = ref('');
const fault = ref('');
async function save() {
  if (reason.value.trim() === '') {
    fault.value = 'Say why, in a few words: whoever looks next year will want to know.';
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
    :title="`${check === 'unused' ? 'Keep on purpose' : 'Leave alone'}: ${count(subjects.length, 'finding')} of “${CHECKS[check].name}”`"
    @close="emit('close')"
  >
    <form @submit.prevent="save">
      <label>
        The reason
        <input v-model="reason" maxlength="300" placeholder="for the anniversary in May" autofocus />
      </label>
      <p class="soft">
        They are not told again until something about them changes. “Left alone” lists them, with your name
        and the reason, and brings them back.
      </p>
      <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
    </form>
    <template #footer>
      <button class="act quiet" type="button" @click="emit('close')">Not now</button>
      <button class="act" type="button" @click="save">
        {{ check === 'unused' ? 'Keep them' : 'Leave them alone' }}
      </button>
    </template>
  </AppDialog>
</template>

<style scoped>
label {
  display: grid;
  gap: 4px;
}
</style>
