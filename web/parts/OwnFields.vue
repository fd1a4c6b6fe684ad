<script setup lang="ts">
import { onMounted, ref } from 'vue';
import { OWN_KINDS, type OwnField } from '../../core/describe/fields.ts';
import { api, sentenceOf } from '../api/client.ts';
import OnlyWho from './OnlyWho.vue';
import { usePlan } from '../stores/plan.ts';
import { useSite } from '../stores/site.ts';
import AppDialog from '../kit/AppDialog.vue';
import AppTable, { type Column } from '../kit/AppTable.vue';
import AppButton from '../kit/AppButton.vue';
import AppInput from '../kit/AppInput.vue';
import AppOption from '../kit/AppOption.ts';
import AppSelect from '../kit/AppSelect.vue';

/** The fields that a site has of its own: added, changed, taken away. Values of a field that is taken away are kept. */
const emit = defineEmits<{ changed: [] }>();
const plan = usePlan();
const site = useSite();
const open = ref(false);
const fields = ref<OwnField[]>([]);
const name = ref('');
const kind = ref<OwnField['kind']>('text');
const choices = ref('');
const fault = ref('');
const KIND_WORDS: Record<OwnField['kind'], string> = {
  text: 'text',
  choice: 'choice from a list',
  date: 'a day',
  number: 'a number',
};
const COLUMNS: Column<OwnField>[] = [
  { key: 'name', label: 'Name', minWidth: 120 },
  { key: 'kind', label: 'Type', minWidth: 200 },
  { key: 'delete', label: 'Delete', width: 90 },
];
async function load() {
  fields.value = await api.ownFields();
}
onMounted(load);
async function set(field: string, value: { kind: OwnField['kind']; choices: string[] } | null) {
  fault.value = '';
  try {
    await plan.make({ kind: 'own-field', name: field, field: value });
    await load();
    emit('changed');
  } catch (error) {
    fault.value = sentenceOf(error);
  }
}
async function add() {
  const given = choices.value
    .split(',')
    .map((one) => one.trim())
    .filter(Boolean);
  if (kind.value === 'choice' && given.length === 0) {
    fault.value = 'Enter the options, separated by commas.';
    return;
  }
  await set(name.value.trim(), { kind: kind.value, choices: kind.value === 'choice' ? given : [] });
  if (!fault.value) name.value = choices.value = '';
}
</script>

<template>
  <AppButton look="link" @click="open = true">Custom fields …</AppButton>
  <AppDialog v-model="open" title="Custom fields" width="560px" append-to-body>
    <p class="soft">
      Every item has these fields. You can search them, use them in name patterns, and edit and export them in
      spreadsheets.
    </p>
    <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
    <AppTable
      v-if="fields.length"
      label="Custom fields"
      bare
      :rows="fields"
      :columns="COLUMNS"
      :row-key="(field) => field.name"
    >
      <template #kind="{ row: field }">
        {{ KIND_WORDS[field.kind]
        }}<template v-if="field.choices.length">: {{ field.choices.join(', ') }}</template>
      </template>
      <template #delete="{ row: field }"
        ><AppButton v-if="site.may('settings')" look="link" @click="set(field.name, null)"
          >Delete</AppButton
        ></template
      >
    </AppTable>
    <OnlyWho right="settings">can add and delete fields.</OnlyWho>
    <form v-if="site.may('settings')" class="form-row add" @submit.prevent="add">
      <label><span>Name</span><AppInput v-model="name" required maxlength="60" /></label>
      <label
        ><span>Type</span
        ><AppSelect v-model="kind"
          ><AppOption v-for="one in OWN_KINDS" :key="one" :value="one" :label="KIND_WORDS[one]" /> </AppSelect
      ></label>
      <label v-if="kind === 'choice'"
        ><span>Options, separated by commas</span><AppInput v-model="choices" :chars="24"
      /></label>
      <AppButton look="main" type="submit">Add field</AppButton>
    </form>
  </AppDialog>
</template>

<style scoped>
.add {
  margin-top: 12px;
}
</style>
