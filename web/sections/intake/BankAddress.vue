<script setup lang="ts">
import { onMounted, ref } from 'vue';
import { api, sentenceOf } from '../../api/client.ts';
import AppButton from '../../kit/AppButton.vue';
import AppDialog from '../../kit/AppDialog.vue';
import AppInput from '../../kit/AppInput.vue';
import { usePlan } from '../../stores/plan.ts';

/** Where the image bank answers: a change of the ledger. */
const emit = defineEmits<{ close: [] }>();
const plan = usePlan();
const before = ref<string | null>();
const address = ref('');
const fault = ref('');
onMounted(async () => {
  try {
    before.value = (await api.bankSetting()).address;
    address.value = before.value ?? '';
  } catch (error) {
    fault.value = sentenceOf(error);
  }
});
async function save(to: string | null) {
  fault.value = '';
  try {
    await plan.make({ kind: 'service', service: 'image-bank', address: to });
    emit('close');
  } catch (error) {
    fault.value = sentenceOf(error);
  }
}
</script>

<template>
  <AppDialog :model-value="true" title="Image bank" width="560px" @close="emit('close')">
    <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
    <p>
      Images are found, and bought, at a service that speaks the protocol of
      <span class="mono">docs/services.md</span>. Only searches and orders are sent to it.
    </p>
    <form id="bank-address" @submit.prevent="address.trim() && save(address.trim())">
      <label
        >Address of the image bank
        <AppInput v-model="address" class="mono" spellcheck="false" placeholder="https://" data-first />
      </label>
    </form>
    <template #footer>
      <AppButton @click="emit('close')">Cancel</AppButton>
      <AppButton v-if="before" @click="save(null)">Remove the address</AppButton>
      <AppButton look="main" type="submit" form="bank-address" :disabled="!address.trim()">Save</AppButton>
    </template>
  </AppDialog>
</template>
