<script setup lang="ts">
import AppDialog from '../kit/AppDialog.vue';
import { computed, onMounted, reactive, ref } from 'vue';
import type { FolderRuleView } from '../../api/intake.ts';
import { KINDS } from '../../core/address/kinds.ts';
import type { OwnField } from '../../core/describe/fields.ts';
import { PLAIN_PATTERN, type NamePattern, type NamePiece } from '../../core/naming/pattern.ts';
import { TREATMENTS, treatmentInWords, type Treatment } from '../../core/picture/recipe/treatments.ts';
import { kindsInWords, ruleFor, SITE_RULE } from '../../core/intake/rules.ts';
import { api, sentenceOf } from '../api/client.ts';
import OnlyWho from './OnlyWho.vue';
import { usePlan } from '../stores/plan.ts';
import { useSite } from '../stores/site.ts';
import ComposingLine from './ComposingLine.vue';
import PatternWhole from './PatternWhole.vue';
import AppButton from '../kit/AppButton.vue';
import AppCheckbox from '../kit/AppCheckbox.vue';
import AppInput from '../kit/AppInput.vue';
import AppNumber from '../kit/AppNumber.vue';
import AppOption from '../kit/AppOption.ts';
import AppSelect from '../kit/AppSelect.vue';

/** What a folder is for: what its items must have, what is more than useful, what they are given. Holds below it too. */
const props = defineProps<{ folder: string }>();
const emit = defineEmits<{ close: [] }>();
const plan = usePlan();
const site = useSite();
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
function takeKept(name: string) {
  const found = kept.value.find((one) => one.name === name);
  if (found) rule.pattern = JSON.parse(JSON.stringify(found.pattern)) as NamePattern;
}
const keptTreatments = ref<Treatment[]>([]);
/** Those to choose from, and the one that the rule has, which may have changed under its name since. */
const treatments = computed(() => {
  const all = [...keptTreatments.value, ...TREATMENTS];
  const { treatment } = rule;
  return treatment && !all.some((one) => one.name === treatment.name) ? [treatment, ...all] : all;
});
function treatBy(name: string) {
  rule.treatment = treatments.value.find((one) => one.name === name) ?? null;
}
onMounted(async () => {
  [kept.value, ownFields.value, keptTreatments.value] = await Promise.all([
    api.namePatterns(),
    api.ownFields(),
    api.treatments(),
  ]);
  const { rules, otherwise } = await api.folderRules();
  const found = ruleFor(props.folder, [{ ...otherwise, folder: '' }, ...rules]);
  own.value = rules.some((one) => one.folder === props.folder);
  from.value = own.value ? '' : rules.some((one) => one === found) ? found.folder : 'every folder';
  Object.assign(rule, found, { folder: props.folder });
  tags.value = rule.tags.join(', ');
});
const NUMBERS = [
  ['leastWidth', 'Minimum width (px)', 1],
  ['leastHeight', 'Minimum height (px)', 1],
  ['largestSide', 'Maximum longer side (px)', 1],
  ['largestBytes', 'Maximum file size (kB)', 1000],
] as const;
function setNumber(field: (typeof NUMBERS)[number][0], unit: number, value: number | null) {
  rule[field] = value ? Math.round(value * unit) : null;
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
    :title="`Rules of “${folder || 'the site’s root'}”`"
    @close="emit('close')"
  >
    <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
    <OnlyWho right="settings">can change them.</OnlyWho>
    <p class="soft">
      Intake and Upkeep check this folder and its subfolders against these rules. Images are never enlarged.
      <template v-if="from">Currently the rules of {{ from }} apply.</template>
    </p>
    <form id="rule" @submit.prevent="save()">
      <label class="wide"
        ><span>Purpose</span
        ><AppInput v-model="rule.purpose" maxlength="200" placeholder="wide images at the head of a page"
      /></label>
      <fieldset class="wide">
        <legend>Allowed kinds</legend>
        <AppCheckbox
          v-for="kind in KINDS"
          :key="kind"
          :model-value="rule.kinds === null || rule.kinds.includes(kind)"
          @change="setKind(kind, $event)"
        >
          {{ kindsInWords([kind]) }}</AppCheckbox
        >
      </fieldset>
      <label v-for="[field, name, unit] in NUMBERS" :key="field"
        ><span>{{ name }}</span
        ><AppNumber
          :min="1"
          :model-value="rule[field] === null ? null : rule[field]! / unit"
          @change="setNumber(field, unit, $event)"
      /></label>
      <label
        ><span>Aspect ratio (3:2)</span><AppInput v-model="rule.shape" maxlength="20" placeholder="any"
      /></label>
      <label><span>Tags for new items</span><AppInput v-model="tags" placeholder="moon, open night" /></label>
      <label
        ><span>Licence for new items without one</span
        ><AppInput v-model="rule.licence" maxlength="500" placeholder="none"
      /></label>
      <fieldset class="wide names">
        <legend>Names</legend>
        <AppCheckbox
          :model-value="rule.pattern !== null"
          @change="rule.pattern = $event ? { ...PLAIN_PATTERN } : null"
        >
          Name by a pattern</AppCheckbox
        >
        <template v-if="rule.pattern">
          <AppSelect v-if="kept.length" aria-label="Use a saved pattern" :model-value="''" @change="takeKept"
            ><AppOption value="" label="Use a saved pattern …" />
            <AppOption v-for="one in kept" :key="one.name" :value="one.name" :label="one.name" />
          </AppSelect>
          <ComposingLine v-model="pieces" class="wide" :separator="rule.pattern.separator" :own="ownFields" />
          <PatternWhole v-model="rule.pattern as NamePattern" class="wide" />
        </template>
      </fieldset>
      <label class="wide"
        ><span>Treatment of new images</span>
        <AppSelect :model-value="rule.treatment?.name ?? ''" @update:model-value="treatBy"
          ><AppOption value="" label="none" /><AppOption
            v-for="one in treatments"
            :key="one.name"
            :value="one.name"
            :label="one.name"
        /></AppSelect>
        <span v-if="rule.treatment" class="soft">{{ treatmentInWords(rule.treatment) }}</span>
      </label>
      <AppCheckbox v-model="rule.keepOriginal" class="wide">
        Keep the original off the site when an image is shrunk or treated</AppCheckbox
      >
    </form>
    <template #footer>
      <AppButton v-if="own && site.may('settings')" danger @click="save(true)">Remove rules</AppButton>
      <AppButton @click="emit('close')">Cancel</AppButton>
      <AppButton v-if="site.may('settings')" look="main" type="submit" form="rule">Save rules</AppButton>
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
.names :deep(.composing),
.names :deep(.form-row) {
  width: 100%;
}
</style>
