<script setup lang="ts">
import { onMounted, ref } from 'vue';
import { useRoute } from 'vue-router';
import type { DoorView } from '../../../api/people.ts';
import { ROLE_TEXTS, isRole } from '../../../core/people/rights.ts';
import { api, asksForCode, sentenceOf } from '../../api/client.ts';
import AppButton from '../../kit/AppButton.vue';
import AppInput from '../../kit/AppInput.vue';
import DoorPage from './DoorPage.vue';
import { keepBack, safeBack } from './way-back.ts';

/** The way in: by name and password, and in the demo as anyone. */
const route = useRoute();
const door = ref<DoorView>();
const name = ref('');
const password = ref('');
const code = ref('');
/** The password was right, and the second factor is asked for. */
const coding = ref(false);
const fault = ref('');
const busy = ref(false);
onMounted(() => {
  api.door().then(
    (view) => (door.value = view),
    (error: unknown) => (fault.value = sentenceOf(error)),
  );
});
async function enter(how: () => Promise<unknown>) {
  busy.value = true;
  fault.value = '';
  try {
    await how();
    location.assign(safeBack(route.query['back']));
  } catch (error) {
    busy.value = false;
    fault.value = sentenceOf(error);
    if (asksForCode(error)) {
      if (!coding.value) fault.value = '';
      coding.value = true;
      code.value = '';
    } else password.value = '';
  }
}
async function toProvider() {
  busy.value = true;
  fault.value = '';
  try {
    const { address } = await api.toProvider();
    keepBack(route.query['back']);
    location.assign(address);
  } catch (error) {
    fault.value = sentenceOf(error);
    busy.value = false;
  }
}
const roleText = (role: string) => (isRole(role) ? ROLE_TEXTS[role] : '');
</script>

<template>
  <DoorPage :site="door?.site" title="Sign in">
    <p v-if="door?.unset" class="note">
      Nobody has set a password yet. Open the link that the server printed when it started.
    </p>
    <form v-else @submit.prevent="enter(() => api.signIn(name, password, code))">
      <label
        >Name
        <AppInput v-model="name" name="username" autocomplete="username" maxlength="80" />
      </label>
      <label
        >Password
        <AppInput
          v-model="password"
          type="password"
          name="password"
          autocomplete="current-password"
          maxlength="200"
        />
      </label>
      <label v-if="coding"
        >Code of your authenticator app, or a recovery code
        <AppInput v-model="code" focused name="one-time-code" autocomplete="one-time-code" maxlength="40" />
      </label>
      <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
      <AppButton
        look="main"
        type="submit"
        :busy="busy"
        :disabled="!name.trim() || !password || (coding && !code.trim())"
        >Sign in</AppButton
      >
    </form>
    <p v-if="door?.provider" class="provider">
      <AppButton :disabled="busy" @click="toProvider">Sign in with {{ door.provider }}</AppButton>
    </p>
    <section v-if="door?.demo" aria-label="People of the demo">
      <h2>Or look around the demo</h2>
      <p class="soft">Made-up people, no password. Each may do other things.</p>
      <ul>
        <li v-for="one in door.demo" :key="one.id">
          <AppButton :disabled="busy" @click="enter(() => api.signInAs(one.id))"
            >{{ one.name }}, {{ one.role }}</AppButton
          >
          <span class="soft">{{ roleText(one.role) }}</span>
        </li>
      </ul>
    </section>
  </DoorPage>
</template>

<style scoped>
section,
.provider {
  padding-top: 26px;
}
ul {
  display: grid;
  padding: 10px 0 0;
  margin: 0;
  gap: 8px;
  list-style: none;
}
li {
  display: grid;
  align-items: center;
  grid-template-columns: 230px 1fr;
  gap: 12px;
}
@media (width <= 560px) {
  li {
    grid-template-columns: 1fr;
    gap: 2px;
  }
}
</style>
