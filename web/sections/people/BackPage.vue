<script setup lang="ts">
import { onMounted, ref } from 'vue';
import { api, sentenceOf } from '../../api/client.ts';
import DoorPage from './DoorPage.vue';
import { takeBack } from './way-back.ts';

/** Where the organisation's provider sends people back. What it has put into the address works once, and does not stay there. */
const answer = location.search.slice(1);
const site = ref<string>();
const fault = ref('');
onMounted(async () => {
  history.replaceState(history.state, '', location.pathname);
  try {
    site.value = (await api.door()).site;
    const person = await api.fromProvider(answer);
    location.assign(person ? takeBack() : '/account');
  } catch (error) {
    fault.value = sentenceOf(error);
  }
});
</script>

<template>
  <DoorPage :site="site" title="Sign in">
    <template v-if="fault">
      <p class="note losing" role="alert">{{ fault }}</p>
      <p><RouterLink :to="{ name: 'sign-in' }">Sign in</RouterLink></p>
    </template>
    <p v-else role="status">You are being signed in …</p>
  </DoorPage>
</template>
