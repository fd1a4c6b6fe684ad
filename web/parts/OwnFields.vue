<script setup lang="ts">
import { onMounted, ref } from 'vue';
import { OWN_KINDS, type OwnField } from '../../core/describe/fields.ts';
import { api, sentenceOf } from '../api/client.ts';
import { usePlan } from '../stores/plan.ts';
import AppDialog from './AppDialog.vue';

/** The fields that a site has of its own: added, changed, taken away. Values of a field that is taken away are kept. */
const emit = defineEmits<{ changed: [] }>();
const plan = usePlan();
const open = ref(false);
const fields = ref<OwnField[]>([]);
const name = ref('');
const kind = ref<OwnField['kind']>('text');
const choices = ref('');
const fault = ref('');
const KIND_WORDS: Record<OwnField['kind'], string> = {
  text: 'text',
  choice: 'one of some choices',
  date: 'a day',
  number: 'a number',
};
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
    fault.value = 'Write the choices, parted by commas.';
    return;
  }
  await set(name.value.trim(), { kind: kind.value, choices: kind.value === 'choice' ? given : [] });
  if (!fault.value) name.value = choices.value = '';
}
</script>

<template>
  <button class="link" type="button" @click="open = true">Fields of our own …</button>
  <AppDialog v-model="open" title="Fields of our own" width="560px" append-to-body>
    <p class="soft">
      Every record has them. They can be found, sorted into names, exported and filled in tables.
    </p>
    <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
    <table v-if="fields.length" class="ruled">
      <tbody>
        <tr v-for="field in fields" :key="field.name">
          <td>{{ field.name }}</td>
          <td>
            {{ KIND_WORDS[field.kind]
            }}<template v-if="field.choices.length">: {{ field.choices.join(', ') }}</template>
          </td>
          <td><button class="link" type="button" @click="set(field.name, null)">Take away</button></td>
        </tr>
      </tbody>
    </table>
    <form class="form-row add" @submit.prevent="add">
      <label><span>Name</span><input v-model="name" required maxlength="60" /></label>
      <label
        ><span>Holds</span
        ><select v-model="kind">
          <option v-for="one in OWN_KINDS" :key="one" :value="one">{{ KIND_WORDS[one] }}</option>
        </select></label
      >
      <label v-if="kind === 'choice'"
        ><span>Choices, parted by commas</span><input v-model="choices" size="24"
      /></label>
      <button class="act" type="submit">Add the field</button>
    </form>
  </AppDialog>
</template>

<style scoped>
.add {
  margin-top: 12px;
}
</style>
