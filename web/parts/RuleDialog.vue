<script setup lang="ts">
import AppDialog from './AppDialog.vue';
import { computed, onMounted, reactive, ref } from 'vue';
import type { FolderRuleView } from '../../api/intake.ts';
import { KINDS } from '../../core/address/kinds.ts';
import type { OwnField } from '../../core/describe/fields.ts';
import { PLAIN_PATTERN, type NamePattern, type NamePiece } from '../../core/naming/pattern.ts';
import { kindsInWords, ruleFor, SITE_RULE } from '../../core/intake/rules.ts';
import { api, sentenceOf } from '../api/client.ts';
import { usePlan } from '../stores/plan.ts';
import ComposingLine from './ComposingLine.vue';
import PatternWhole from './PatternWhole.vue';

/** What a folder is for: what its items must have, what is more than useful, what they are given. Holds below it too. */
const props = defineProps<{ folder: string }>();
const emit = defineEmits<{ close: [] }>();
const plan = usePlan();
const rule = reactive<FolderRuleView>({ ...SITE_RULE, folder: props.folder, kinds: null, tags: [] });
const tags = ref('');
const own = ref(false);
const from = ref('');
const fault = ref('');
const kept = ref<{ name: string; pattern: NamePattern }[]>([]);
const ownFields = ref<OwnField[]>([]);
const pieces = computed({
  get: () => [...(rule.pattern?.pieces ?? [])] as NamePiece[],
  set: (next) => (rule.pattern = { ...rule.pattern!, pieces: next }),
});
function takeKept(event: Event) {
  const found = kept.value.find((one) => one.name === (event.target as HTMLSelectElement).value);
  if (found) rule.pattern = JSON.parse(JSON.stringify(found.pattern)) as NamePattern;
}
onMounted(async () => {
  [kept.value, ownFields.value] = await Promise.all([api.namePatterns(), api.ownFields()]);
  const { rules, otherwise } = await api.folderRules();
  const found = ruleFor(props.folder, [{ ...otherwise, folder: '' }, ...rules]);
  own.value = rules.some((one) => one.folder === props.folder);
  from.value = own.value ? '' : rules.some((one) => one === found) ? found.folder : 'every folder';
  Object.assign(rule, found, { folder: props.folder });
  tags.value = rule.tags.join(', ');
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
function setKind(kind: (typeof KINDS)[number], yes: boolean) {
  const kinds = KINDS.filter((one) => (one === kind ? yes : (rule.kinds ?? KINDS).includes(one)));
  rule.kinds = kinds.length === KINDS.length || kinds.length === 0 ? null : kinds;
}
async function save(drop = false) {
  const { folder, ...value } = rule;
  const given = tags.value
    .split(',')
    .map((tag) => tag.trim())
    .filter(Boolean);
  try {
    await plan.make({
      kind: 'rule',
      folder,
      rule: drop
        ? null
        : {
            ...value,
            shape: rule.shape?.trim() || null,
            tags: given,
            pattern: rule.pattern?.pieces.length ? rule.pattern : null,
          },
    });
    emit('close');
  } catch (error) {
    fault.value = sentenceOf(error);
  }
}
</script>

<template>
  <AppDialog
    :model-value="true"
    width="760px"
    top="5vh"
    :title="`What “${folder || 'the site’s root'}” is for`"
    @close="emit('close')"
  >
    <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
    <p class="soft">
      Intake and Upkeep hold what lies here and in the folders below against this. Nothing is ever enlarged.
      <template v-if="from">Until now the rule of {{ from }} holds.</template>
    </p>
    <form id="rule" @submit.prevent="save()">
      <label class="wide"
        ><span>Purpose, in words</span
        ><input v-model="rule.purpose" maxlength="200" placeholder="wide pictures at the head of a page"
      /></label>
      <fieldset class="wide">
        <legend>Kinds that belong here</legend>
        <label v-for="kind in KINDS" :key="kind" class="check"
          ><input
            type="checkbox"
            :checked="rule.kinds === null || rule.kinds.includes(kind)"
            @change="setKind(kind, ($event.target as HTMLInputElement).checked)"
          />
          {{ kindsInWords([kind]) }}</label
        >
      </fieldset>
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
      <label
        ><span>Tags given to what comes in</span><input v-model="tags" placeholder="moon, open night"
      /></label>
      <label
        ><span>Licence of what comes in without one</span
        ><input v-model="rule.licence" maxlength="500" placeholder="none"
      /></label>
      <fieldset class="wide names">
        <legend>Names</legend>
        <label class="check"
          ><input
            type="checkbox"
            :checked="rule.pattern !== null"
            @change="rule.pattern = ($event.target as HTMLInputElement).checked ? { ...PLAIN_PATTERN } : null"
          />
          follow a pattern</label
        >
        <template v-if="rule.pattern">
          <select v-if="kept.length" aria-label="Take a kept pattern" @change="takeKept">
            <option value="">take a kept one …</option>
            <option v-for="one in kept" :key="one.name" :value="one.name">{{ one.name }}</option>
          </select>
          <ComposingLine v-model="pieces" class="wide" :separator="rule.pattern.separator" :own="ownFields" />
          <PatternWhole v-model="rule.pattern as NamePattern" class="wide" />
        </template>
      </fieldset>
      <label class="check wide"
        ><input v-model="rule.keepOriginal" type="checkbox" /> Keep the original off the site when a smaller
        copy is made</label
      >
    </form>
    <template #footer>
      <button v-if="own" class="act quiet losing" type="button" @click="save(true)">Remove this rule</button>
      <button class="act quiet" type="button" @click="emit('close')">Not now</button>
      <button class="act" type="submit" form="rule">Save the rule</button>
    </template>
  </AppDialog>
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
.wide {
  grid-column: 1 / -1;
}
.check {
  flex-direction: row;
  align-items: baseline;
}
fieldset {
  display: flex;
  flex-wrap: wrap;
  padding: 0;
  border: 0;
  margin: 0;
  gap: 4px 16px;
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
.names select {
  height: 26px;
}
.names :deep(.composing),
.names :deep(.form-row) {
  width: 100%;
}
</style>
