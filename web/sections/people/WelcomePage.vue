<script setup lang="ts">
import { onMounted, ref } from 'vue';
import type { PersonView } from '../../../api/people.ts';
import { LEAST_PASSWORD } from '../../../core/people/password.ts';
import { aRole } from '../../../core/people/rights.ts';
import { api, asksForCode, sentenceOf } from '../../api/client.ts';
import AppButton from '../../kit/AppButton.vue';
import AppInput from '../../kit/AppInput.vue';
import DoorPage from './DoorPage.vue';

/** Where a link leads: a person sets name and password, once. What the link holds stands behind the #, so no server ever logs it. */
const token = location.hash.slice(1);
const site = ref<string>();
const person = ref<PersonView>();
const name = ref('');
const password = ref('');
const again = ref('');
const code = ref('');
/** Whose link it is has a second factor. */
const coding = ref(false);
const fault = ref('');
const busy = ref(false);
onMounted(async () => {
  try {
    site.value = (await api.door()).site;
    person.value = await api.invited(token);
    name.value = person.value.name;
  } catch (error) {
    fault.value = sentenceOf(error);
  }
});
async function set() {
  if (password.value !== again.value) {
    fault.value = 'The two passwords differ. Type the second one again.';
    again.value = '';
    return;
  }
  busy.value = true;
  fault.value = '';
  try {
    const given = code.value.trim() ? { code: code.value } : {};
    await api.useInvitation({ token, name: name.value, password: password.value, ...given });
    location.assign('/library');
  } catch (error) {
    fault.value = sentenceOf(error);
    busy.value = false;
    coding.value ||= asksForCode(error);
    code.value = '';
  }
}
</script>

<template>
  <DoorPage :site="site" title="Welcome">
    <form v-if="person" @submit.prevent="set">
      <p>You come in as {{ aRole(person.role) }}. Set your name and a password, then you are signed in.</p>
      <label
        >Your name
        <AppInput v-model="name" name="username" autocomplete="username" maxlength="80" />
      </label>
      <label
        >Password, at least {{ LEAST_PASSWORD }} characters
        <AppInput
          v-model="password"
          type="password"
          name="new-password"
          autocomplete="new-password"
          maxlength="200"
        />
      </label>
      <label
        >The same password again
        <AppInput
          v-model="again"
          type="password"
          name="new-password-again"
          autocomplete="new-password"
          maxlength="200"
        />
      </label>
      <label v-if="coding"
        >Code of your authenticator app, or a recovery code
        <AppInput v-model="code" name="one-time-code" autocomplete="one-time-code" maxlength="40" />
      </label>
      <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
      <AppButton look="main" type="submit" :busy="busy" :disabled="!name.trim() || !password || !again"
        >Set the password</AppButton
      >
    </form>
    <template v-else-if="fault">
      <p class="note losing" role="alert">{{ fault }}</p>
      <p><RouterLink :to="{ name: 'sign-in' }">Sign in</RouterLink></p>
    </template>
  </DoorPage>
</template>
