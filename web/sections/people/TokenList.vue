<script setup lang="ts">
import { computed, onMounted, ref } from 'vue';
import type { TokenView } from '../../../api/people.ts';
import { ROLE_TEXTS, tokenRoles, type Role } from '../../../core/people/rights.ts';
import { api, sentenceOf } from '../../api/client.ts';
import AppButton from '../../kit/AppButton.vue';
import AppInput from '../../kit/AppInput.vue';
import AppNumber from '../../kit/AppNumber.vue';
import AppOption from '../../kit/AppOption.ts';
import AppSelect from '../../kit/AppSelect.vue';
import AppTable, { type Column } from '../../kit/AppTable.vue';
import { moment } from '../../parts/words.ts';
import { useSite } from '../../stores/site.ts';

/** Tokens by which a person's programs come in: made, shown once, ended. */
const store = useSite();
const COLUMNS: Column<TokenView>[] = [
  { key: 'name', label: 'Name', minWidth: 180 },
  { key: 'role', label: 'Comes in as', width: 140 },
  { key: 'endsAt', label: 'Works until', width: 170 },
  { key: 'usedAt', label: 'Last used', width: 170 },
  { key: 'end', label: 'End', width: 130, silent: true },
];
const tokens = ref<TokenView[]>([]);
const name = ref('');
const role = ref<Role>('reader');
const days = ref(90);
const fault = ref('');
/** Told once. */
const made = ref('');
const roles = computed(() => tokenRoles(store.site?.person.role ?? ''));
async function act(work: () => Promise<unknown>) {
  fault.value = '';
  try {
    await work();
    tokens.value = await api.tokens();
  } catch (error) {
    fault.value = sentenceOf(error);
  }
}
onMounted(() => act(() => Promise.resolve()));
const make = () =>
  act(async () => {
    made.value = (await api.makeToken(name.value, role.value, days.value)).token;
    name.value = '';
  });
</script>

<template>
  <h2>Tokens for programs</h2>
  <p class="soft">
    With a token, a script or the report command comes in on your behalf, in no higher role than yours.
  </p>
  <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
  <p v-if="made" class="note" role="status">
    The new token, shown only now: <code class="mono made">{{ made }}</code>
  </p>
  <AppTable
    v-if="tokens.length"
    label="Tokens"
    :rows="tokens"
    :columns="COLUMNS"
    :row-key="(one) => String(one.id)"
  >
    <template #endsAt="{ row }">{{ moment(row.endsAt) }}</template>
    <template #usedAt="{ row }">{{ row.usedAt ? moment(row.usedAt) : 'never' }}</template>
    <template #end="{ row }">
      <AppButton
        look="link"
        :aria-label="`End the token ${row.name}`"
        @click="act(() => api.endToken(row.id))"
        >End token</AppButton
      >
    </template>
  </AppTable>
  <form class="form-row" @submit.prevent="make">
    <label>Name of the token <AppInput v-model="name" :chars="24" maxlength="80" /></label>
    <label
      >Comes in as
      <AppSelect v-model="role" :chars="46"
        ><AppOption v-for="one in roles" :key="one" :value="one" :label="`${one}: ${ROLE_TEXTS[one]}`" />
      </AppSelect>
    </label>
    <label>Days <AppNumber v-model="days" :min="1" :max="366" /></label>
    <AppButton type="submit" :disabled="!name.trim()">Make a token</AppButton>
  </form>
</template>

<style scoped>
h2 {
  padding: 22px 0 8px;
}
.form-row {
  padding-top: 10px;
}
.made {
  overflow-wrap: anywhere;
  user-select: all;
}
</style>
