<script setup lang="ts">
import { ElDialog } from 'element-plus/es/components/dialog/index';
import { onMounted, reactive, ref } from 'vue';
import type { FolderRuleView } from '../../../api/intake.ts';
import { ruleFor } from '../../../core/intake/rules.ts';
import { api, sentenceOf } from '../../api/client.ts';

/** What the pictures of a folder must have, and what is more than useful there. Holds below it too. */
const props = defineProps<{ folder: string }>();
const emit = defineEmits<{ close: [] }>();
const rule = reactive<FolderRuleView>({
  folder: props.folder,
  purpose: '',
  leastWidth: null,
  leastHeight: null,
  largestSide: null,
  shape: null,
  largestBytes: null,
  keepOriginal: true,
});
const own = ref(false);
const from = ref('');
const fault = ref('');
onMounted(async () => {
  const { rules, otherwise } = await api.folderRules();
  const found = ruleFor(props.folder, [{ ...otherwise, folder: '' }, ...rules]);
  own.value = rules.some((one) => one.folder === props.folder);
  from.value = own.value ? '' : rules.some((one) => one === found) ? found.folder : 'every folder';
  Object.assign(rule, found, { folder: props.folder });
});
const NUMBERS = [
  ['leastWidth', 'Least width, pixels', 1],
  ['leastHeight', 'Least height, pixels', 1],
  ['largestSide', 'Longer side at most, pixels', 1],
  ['largestBytes', 'Weight at most, kB', 1000],
] as const;
function setNumber(field: (typeof NUMBERS)[number][0], unit: number, event: Event) {
  const value = Number((event.target as HTMLInputElement).value);
  rule[field] = value > 0 ? Math.round(value * unit) : null;
}
async function save(drop = false) {
  try {
    if (drop) await api.dropFolderRule(props.folder);
    else await api.setFolderRule({ ...rule, shape: rule.shape?.trim() || null });
    emit('close');
  } catch (error) {
    fault.value = sentenceOf(error);
  }
}
</script>

<template>
  <ElDialog
    :model-value="true"
    width="560px"
    top="10vh"
    :title="`What pictures in “${folder || 'the site’s root'}” are for`"
    @close="emit('close')"
  >
    <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
    <p class="soft">
      The door holds every picture against this, here and in the folders below. Nothing is ever enlarged.
      <template v-if="from">Until now the rule of {{ from }} holds.</template>
    </p>
    <form id="rule" @submit.prevent="save()">
      <label class="wide"
        ><span>Purpose, in words</span
        ><input v-model="rule.purpose" maxlength="200" placeholder="wide pictures at the head of a page"
      /></label>
      <label v-for="[field, name, unit] in NUMBERS" :key="field"
        ><span>{{ name }}</span
        ><input
          type="number"
          min="1"
          :value="rule[field] === null ? '' : rule[field]! / unit"
          @change="setNumber(field, unit, $event)"
      /></label>
      <label
        ><span>Shape, width : height</span><input v-model="rule.shape" maxlength="20" placeholder="any"
      /></label>
      <label class="check"
        ><input v-model="rule.keepOriginal" type="checkbox" /> Keep the original off the site when a smaller
        copy is made</label
      >
    </form>
    <template #footer>
      <button v-if="own" class="act quiet losing" type="button" @click="save(true)">Remove this rule</button>
      <button class="act quiet" type="button" @click="emit('close')">Not now</button>
      <button class="act" type="submit" form="rule">Save the rule</button>
    </template>
  </ElDialog>
</template>

<style scoped>
form {
  display: grid;
  margin-top: 12px;
  gap: 10px 16px;
  grid-template-columns: 1fr 1fr;
}
label {
  display: flex;
  flex-direction: column;
  gap: 3px;
}
.wide,
.check {
  grid-column: 1 / -1;
}
.check {
  flex-direction: row;
  align-items: baseline;
}
input:not([type='checkbox']) {
  height: 30px;
  padding: 0 8px;
  border: 1px solid var(--rule-strong);
  border-radius: 2px;
  background: var(--paper-raised);
}
.act + .act {
  margin-left: 10px;
}
</style>
