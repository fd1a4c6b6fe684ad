<script setup lang="ts">
import { onMounted, ref } from 'vue';
import type { ProvidedView, SessionView } from '../../../api/people.ts';
import { LEAST_PASSWORD } from '../../../core/people/password.ts';
import { aRole, isRole, ROLE_TEXTS } from '../../../core/people/rights.ts';
import { api, sentenceOf } from '../../api/client.ts';
import AppButton from '../../kit/AppButton.vue';
import AppInput from '../../kit/AppInput.vue';
import AppTable, { type Column } from '../../kit/AppTable.vue';
import { moment } from '../../parts/words.ts';
import { useSite } from '../../stores/site.ts';
import ProviderAccount from './ProviderAccount.vue';
import SecondFactor from './SecondFactor.vue';
import TokenList from './TokenList.vue';
import { browserIn } from './browsers.ts';

/** A person's own: their password, and where they are signed in. */
const store = useSite();
const COLUMNS: Column<SessionView>[] = [
  { key: 'agent', label: 'Browser', minWidth: 180 },
  { key: 'address', label: 'Address', width: 160 },
  { key: 'startedAt', label: 'Signed in', width: 170 },
  { key: 'seenAt', label: 'Last seen', width: 170 },
  { key: 'end', label: 'End', width: 130, silent: true },
];
const sessions = ref<SessionView[]>([]);
const provided = ref<ProvidedView>();
const current = ref('');
const next = ref('');
const fault = ref('');
const done = ref('');
async function load() {
  try {
    [sessions.value, provided.value] = await Promise.all([api.sessions(), api.provided()]);
  } catch (error) {
    fault.value = sentenceOf(error);
  }
}
onMounted(load);
async function change() {
  fault.value = '';
  done.value = '';
  try {
    await api.changePassword(current.value, next.value);
    [current.value, next.value] = ['', ''];
    done.value = 'Your password is changed. All your other sessions have ended.';
    await load();
  } catch (error) {
    fault.value = sentenceOf(error);
  }
}
async function end(id: number) {
  await api.endSession(id);
  await load();
}
</script>

<template>
  <div class="surface">
    <div class="head">
      <h1>Your account</h1>
      <p v-if="store.site" class="soft">
        {{ store.site.person.name }}, {{ aRole(store.site.person.role)
        }}{{ isRole(store.site.person.role) ? `: ${ROLE_TEXTS[store.site.person.role]}.` : '' }}
      </p>
    </div>
    <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
    <p v-if="done" class="note" role="status">{{ done }}</p>
    <template v-if="provided?.hasPassword">
      <h2>Change your password</h2>
      <form class="form-row" @submit.prevent="change">
        <label
          >Current password
          <AppInput v-model="current" type="password" autocomplete="current-password" maxlength="200" />
        </label>
        <label
          >New password, at least {{ LEAST_PASSWORD }} characters
          <AppInput v-model="next" type="password" autocomplete="new-password" maxlength="200" />
        </label>
        <AppButton type="submit" :disabled="!current || !next">Change password</AppButton>
      </form>
      <SecondFactor />
    </template>
    <ProviderAccount v-if="provided" :view="provided" @change="load" />
    <h2>Where you are signed in</h2>
    <p v-if="!sessions.length" class="soft">
      This window isn’t signed in by a password: in the demo whoever opens it is its first person.
    </p>
    <AppTable v-else label="Sessions" :rows="sessions" :columns="COLUMNS" :row-key="(one) => String(one.id)">
      <template #agent="{ row }">{{ browserIn(row.agent) }}</template>
      <template #startedAt="{ row }">{{ moment(row.startedAt) }}</template>
      <template #seenAt="{ row }">{{ moment(row.seenAt) }}</template>
      <template #end="{ row }">
        <span v-if="row.own" class="soft">this one</span>
        <AppButton v-else look="link" @click="end(row.id)">End session</AppButton>
      </template>
    </AppTable>
    <TokenList />
  </div>
</template>

<style scoped>
h2 {
  padding: 22px 0 8px;
}
.form-row label {
  width: 300px;
}
</style>
