<script setup lang="ts">
import { ref } from 'vue';
import type { ProvidedView } from '../../../api/people.ts';
import { api, sentenceOf } from '../../api/client.ts';
import AppButton from '../../kit/AppButton.vue';
import AppInput from '../../kit/AppInput.vue';

/** A person's account at the organisation's provider; nothing where none is set up. */
defineProps<{ view: ProvidedView }>();
const emit = defineEmits<{ change: [] }>();
const password = ref('');
const fault = ref('');
async function act(work: () => Promise<unknown>) {
  fault.value = '';
  try {
    await work();
    emit('change');
  } catch (error) {
    fault.value = sentenceOf(error);
  }
  password.value = '';
}
const connect = () => act(async () => location.assign((await api.connectProvider(password.value)).address));
</script>

<template>
  <section v-if="view.name" :aria-label="view.name">
    <h2>{{ view.name }}</h2>
    <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
    <template v-if="view.connected">
      <p>You can sign in with {{ view.name }}. Your groups there give your role here.</p>
      <AppButton v-if="view.hasPassword" @click="act(api.disconnectProvider)">Disconnect</AppButton>
    </template>
    <form v-else-if="view.hasPassword" class="form-row" @submit.prevent="connect">
      <label
        >Current password
        <AppInput v-model="password" type="password" autocomplete="current-password" maxlength="200" />
      </label>
      <AppButton type="submit" :disabled="!password">Connect your account there</AppButton>
      <p class="soft">Your groups there will then give your role each time you sign in with it.</p>
    </form>
    <p v-else class="soft">Set a password to connect your account there.</p>
  </section>
</template>

<style scoped>
h2 {
  padding: 22px 0 8px;
}
.form-row label {
  width: 300px;
}
</style>
