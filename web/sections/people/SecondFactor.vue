<script setup lang="ts">
import { onMounted, ref } from 'vue';
import { renderSVG } from 'uqr';
import type { FactorView, NewFactor } from '../../../api/people.ts';
import { api, sentenceOf } from '../../api/client.ts';
import AppButton from '../../kit/AppButton.vue';
import AppInput from '../../kit/AppInput.vue';

/** A person's second factor: set up, its recovery codes made anew, turned off. */
const view = ref<FactorView>();
/** Being set up. */
const begun = ref<NewFactor>();
/** Told once. */
const codes = ref<string[]>([]);
const password = ref('');
const code = ref('');
const fault = ref('');
const copied = ref(false);
async function act(work: () => Promise<unknown>) {
  fault.value = '';
  try {
    await work();
    view.value = await api.factor();
  } catch (error) {
    fault.value = sentenceOf(error);
  }
  [password.value, code.value] = ['', ''];
}
onMounted(() => act(() => Promise.resolve()));
function tell(told: string[]) {
  begun.value = undefined;
  codes.value = told;
  copied.value = false;
}
const begin = () => act(async () => (begun.value = await api.beginFactor(password.value)));
const confirm = () => act(async () => tell((await api.confirmFactor(code.value)).codes));
const renew = () => act(async () => tell((await api.renewCodes(password.value)).codes));
const end = () =>
  act(async () => {
    await api.endFactor(password.value);
    codes.value = [];
  });
async function copy() {
  await navigator.clipboard.writeText(codes.value.join('\n'));
  copied.value = true;
}
/** In groups of four, as it is typed. */
const readable = (secret: string) => secret.replace(/(.{4})(?=.)/g, '$1 ');
const picture = (uri: string) => `data:image/svg+xml,${encodeURIComponent(renderSVG(uri))}`;
</script>

<template>
  <section v-if="view" aria-label="Second factor">
    <h2>Second factor</h2>
    <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
    <div v-if="codes.length" class="note told" role="status">
      <p>
        Your recovery codes, shown only now. Each signs you in once when your device isn’t at hand. Keep them
        where you don’t keep the device.
      </p>
      <ul class="mono codes">
        <li v-for="one in codes" :key="one">{{ one }}</li>
      </ul>
      <AppButton @click="copy">Copy codes</AppButton>
      <span class="soft" role="status">{{ copied ? 'Copied.' : '' }}</span>
    </div>
    <form v-if="begun" class="begun" @submit.prevent="confirm">
      <img :src="picture(begun.uri)" alt="QR code of the key below" width="180" height="180" />
      <div>
        <p>Scan this with an authenticator app, or type the key:</p>
        <p class="mono key">{{ readable(begun.secret) }}</p>
        <div class="form-row">
          <label
            >Code that the app shows
            <AppInput
              v-model="code"
              focused
              autocomplete="one-time-code"
              inputmode="numeric"
              maxlength="10"
            />
          </label>
          <AppButton look="main" type="submit" :disabled="!code.trim()">Turn on</AppButton>
          <AppButton @click="begun = undefined">Cancel</AppButton>
        </div>
      </div>
    </form>
    <template v-else>
      <p v-if="view.set">
        On: signing in takes a code of your authenticator app too.
        {{ view.codesLeft === 1 ? '1 recovery code is' : `${view.codesLeft} recovery codes are` }} left.
      </p>
      <p v-else class="soft">
        Signing in then takes a code of an authenticator app too, so a stolen password alone lets nobody in.
      </p>
      <form class="form-row" @submit.prevent="view.set ? renew() : begin()">
        <label
          >Current password
          <AppInput v-model="password" type="password" autocomplete="current-password" maxlength="200" />
        </label>
        <AppButton type="submit" :disabled="!password">{{
          view.set ? 'Make new recovery codes' : 'Set up a second factor'
        }}</AppButton>
        <AppButton v-if="view.set" :disabled="!password" @click="end">Turn off</AppButton>
      </form>
    </template>
  </section>
</template>

<style scoped>
h2 {
  padding: 22px 0 8px;
}
.form-row {
  padding-top: 8px;
}
.form-row label {
  width: 300px;
}
.codes {
  display: grid;
  padding: 10px 0;
  margin: 0;
  gap: 4px 32px;
  grid-template-columns: repeat(2, max-content);
  list-style: none;
  user-select: all;
}
.told {
  margin-bottom: 12px;
}
.begun {
  display: flex;
  align-items: start;
  gap: 24px;
}
.begun img {
  border: 1px solid var(--rule);
}
.key {
  padding: 6px 0;
  user-select: all;
}
</style>
