<script setup lang="ts">
import { computed, onMounted, ref } from 'vue';
import { LINK_FORM, linkFormFault, linkTextOf, LONGEST_FORM } from '../../../core/document/link-text.ts';
import { sentenceOf } from '../../api/client.ts';
import { documentsApi } from '../../api/documents.ts';
import AppButton from '../../kit/AppButton.vue';
import AppDialog from '../../kit/AppDialog.vue';
import AppInput from '../../kit/AppInput.vue';
import { usePlan } from '../../stores/plan.ts';

/** How links to documents are worded when they are placed. */
const emit = defineEmits<{ close: [] }>();
const plan = usePlan();
const form = ref(LINK_FORM);
const before = ref<string>();
const fault = ref('');
onMounted(async () => {
  try {
    before.value = (await documentsApi.linkForm()).form ?? LINK_FORM;
    form.value = before.value;
  } catch (error) {
    fault.value = sentenceOf(error);
  }
});
const written = computed(() => form.value.trim());
const wrong = computed(() =>
  written.value.length > LONGEST_FORM
    ? `Use ${LONGEST_FORM} characters at most.`
    : linkFormFault(written.value),
);
const sample = computed(() =>
  linkTextOf('Programme 2026', { path: 'programme.pdf', bytes: 340_000 }, written.value),
);
async function review() {
  if (wrong.value || written.value === before.value) return;
  await plan.propose({ kind: 'link-form', form: written.value === LINK_FORM ? null : written.value });
  emit('close');
}
</script>

<template>
  <AppDialog :model-value="true" width="520px" title="Links to documents" @close="emit('close')">
    <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
    <p class="soft">
      When a document is placed on a page, its link is worded like this. Links that are there already stay as
      they are.
    </p>
    <form id="link-form" @submit.prevent="review">
      <label class="field"
        >Wording
        <AppInput
          v-model="form"
          class="mono"
          spellcheck="false"
          data-first
          aria-describedby="link-form-sample"
        />
      </label>
      <p id="link-form-sample" role="status">
        <template v-if="wrong">{{ wrong }}</template>
        <template v-else>Example: {{ sample }}</template>
      </p>
    </form>
    <template #footer>
      <AppButton
        look="main"
        type="submit"
        form="link-form"
        :disabled="wrong !== undefined || written === before || plan.busy"
        >Review changes</AppButton
      >
      <AppButton v-if="written !== LINK_FORM" @click="form = LINK_FORM">Use the usual wording</AppButton>
      <AppButton @click="emit('close')">Cancel</AppButton>
    </template>
  </AppDialog>
</template>
