<script setup lang="ts">
import { nextTick, ref } from 'vue';
import { useRoute } from 'vue-router';
import { api, sentenceOf } from '../../api/client.ts';
import { usePlan } from '../../stores/plan.ts';
import AppButton from '../../kit/AppButton.vue';
import AppInput from '../../kit/AppInput.vue';

/** Keeps what is asked for under a name; it stands below the folders from then on. */
const route = useRoute();
const plan = usePlan();
const open = ref(false);
const name = ref('');
const fault = ref('');
const field = ref<InstanceType<typeof AppInput>>();

async function ask() {
  open.value = true;
  await nextTick();
  field.value?.focus();
}
async function keep() {
  const { item: _item, view: _view, ...query } = route.query;
  try {
    const kept = await api.saveQuery(
      name.value,
      new URLSearchParams(query as Record<string, string>).toString(),
    );
    open.value = false;
    name.value = '';
    await plan.changed(kept);
  } catch (error) {
    fault.value = sentenceOf(error);
  }
}
</script>

<template>
  <AppButton v-if="!open" look="link" @click="ask">Save search …</AppButton>
  <form v-else @submit.prevent="keep" @keydown.escape.stop="open = false">
    <AppInput ref="field" v-model="name" aria-label="Name of the search" placeholder="Name of the search" />
    <AppButton look="link" type="submit" :disabled="!name.trim()">Keep</AppButton>
    <AppButton look="link" @click="open = false">Cancel</AppButton>
    <span v-if="fault" class="losing" role="alert">{{ fault }}</span>
  </form>
</template>

<style scoped>
form {
  display: inline-flex;
  align-items: center;
  gap: 8px;
}
.losing {
  color: var(--madder);
}
</style>
