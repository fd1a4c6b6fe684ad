<script setup lang="ts">
import { nextTick, ref } from 'vue';
import { useRoute } from 'vue-router';
import { api, sentenceOf } from '../../api/client.ts';
import { usePlan } from '../../stores/plan.ts';

/** Keeps what is asked for under a name; it stands below the folders from then on. */
const route = useRoute();
const plan = usePlan();
const open = ref(false);
const name = ref('');
const fault = ref('');
const field = ref<HTMLInputElement>();

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
  <button v-if="!open" class="link" type="button" @click="ask">Keep this query …</button>
  <form v-else @submit.prevent="keep" @keydown.escape.stop="open = false">
    <input ref="field" v-model="name" aria-label="Name of the query" placeholder="Name of the query" />
    <button class="link" type="submit" :disabled="!name.trim()">Keep</button>
    <button class="link" type="button" @click="open = false">Not now</button>
    <span v-if="fault" class="losing" role="alert">{{ fault }}</span>
  </form>
</template>

<style scoped>
form {
  display: inline-flex;
  align-items: center;
  gap: 8px;
}
input {
  height: 26px;
  padding: 0 6px;
  border: 1px solid var(--rule-strong);
  border-radius: 2px;
  background: var(--paper-raised);
}
.losing {
  color: var(--madder);
}
</style>
