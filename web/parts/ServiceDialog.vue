<script setup lang="ts">
import { computed, onMounted, ref } from 'vue';
import { SERVICE_NAMES, type ServiceName } from '../../core/plan/kinds/service.ts';
import { sentenceOf } from '../api/client.ts';
import { bankApi, taggingApi } from '../api/services.ts';
import AppButton from '../kit/AppButton.vue';
import AppDialog from '../kit/AppDialog.vue';
import AppInput from '../kit/AppInput.vue';
import AppNumber from '../kit/AppNumber.vue';
import { usePlan } from '../stores/plan.ts';

/** Where an outside service answers, and how much is sent to it: a change of the ledger. */
const props = defineProps<{ service: ServiceName }>();
const emit = defineEmits<{ close: []; saved: [] }>();
const plan = usePlan();
const name = SERVICE_NAMES[props.service];
/** Images are sent to it, which may cost something each. */
const sends = computed(() => props.service === 'tagging');
const SAYS: Record<ServiceName, string> = {
  'image-bank': 'Images are found, and bought, at a service. Only searches and orders are sent to it.',
  tagging:
    'A service looks at images and says what is on them. Each is sent once, made smaller and without metadata, together with the tags that people gave it.',
};
const before = ref<{ address: string | null; limit: number | null }>();
const address = ref('');
const limit = ref<number>();
const fault = ref('');
onMounted(async () => {
  try {
    before.value = sends.value ? await taggingApi.setting() : { ...(await bankApi.setting()), limit: null };
    address.value = before.value.address ?? '';
    limit.value = before.value.limit ?? undefined;
  } catch (error) {
    fault.value = sentenceOf(error);
  }
});
const ready = computed(
  () =>
    before.value !== undefined &&
    (address.value.trim() !== (before.value.address ?? '') || (limit.value ?? null) !== before.value.limit),
);
async function save() {
  if (!ready.value) return;
  fault.value = '';
  try {
    await plan.make({
      kind: 'service',
      service: props.service,
      address: address.value.trim() || null,
      ...(sends.value ? { limit: limit.value ?? null } : {}),
    });
    emit('saved');
    emit('close');
  } catch (error) {
    fault.value = sentenceOf(error);
  }
}
function withoutAddress() {
  address.value = '';
  void save();
}
</script>

<template>
  <AppDialog
    :model-value="true"
    :title="name.charAt(0).toUpperCase() + name.slice(1)"
    width="560px"
    @close="emit('close')"
  >
    <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
    <p>
      {{ SAYS[service] }} It speaks the protocol of <span class="mono">docs/services.md</span>. Without an
      address, the one that the server was started with is used.
    </p>
    <form id="service" @submit.prevent="save">
      <label
        >Address of the {{ name }}
        <AppInput v-model="address" class="mono" spellcheck="false" placeholder="https://" data-first />
      </label>
      <label v-if="sends"
        >Images a month, at most
        <AppNumber
          :model-value="limit"
          :min="0"
          :max="1000000"
          placeholder="any number"
          @change="limit = $event ?? undefined"
        />
      </label>
    </form>
    <template #footer>
      <AppButton @click="emit('close')">Cancel</AppButton>
      <AppButton v-if="before?.address" @click="withoutAddress">Remove the address</AppButton>
      <AppButton look="main" type="submit" form="service" :disabled="!ready">Save</AppButton>
    </template>
  </AppDialog>
</template>

<style scoped>
label {
  display: block;
  margin-top: 10px;
}
</style>
