<script setup lang="ts">
import { computed, onMounted, ref, watch } from 'vue';
import type { OwnField } from '../../../core/describe/fields.ts';
import { PLAIN_PATTERN, type NamePattern, type NamePiece } from '../../../core/naming/pattern.ts';
import { FORMAT_NAMES } from '../../../core/picture/recipe/describe.ts';
import { FORMATS, type Frame } from '../../../core/picture/recipe/recipe.ts';
import { TREATMENTS, treatmentInWords, type Treatment } from '../../../core/picture/recipe/treatments.ts';
import { api, sentenceOf } from '../../api/client.ts';
import AppButton from '../../kit/AppButton.vue';
import AppCheckbox from '../../kit/AppCheckbox.vue';
import AppDialog from '../../kit/AppDialog.vue';
import AppInput from '../../kit/AppInput.vue';
import AppNumber from '../../kit/AppNumber.vue';
import AppOption from '../../kit/AppOption.ts';
import AppRadio from '../../kit/AppRadio.vue';
import AppSelect from '../../kit/AppSelect.vue';
import ComposingLine from '../../parts/ComposingLine.vue';
import { count } from '../../parts/words.ts';
import { usePlan } from '../../stores/plan.ts';
import { useSite } from '../../stores/site.ts';
import { usePreparing } from '../../stores/preparing.ts';
import FramingView from './FramingView.vue';

/** One treatment for many images: chosen, adjusted, looked at side by side, and then line by line before it is applied. */
const plan = usePlan();
const site = useSite();
const preparing = usePreparing();
const ids = computed(() => preparing.ids ?? []);
/** As many as one plan takes. */
const MOST = 500;
/** Those that people keep come first. */
const kept = ref<Treatment[]>([]);
const ownFields = ref<OwnField[]>([]);
const all = computed(() => [...kept.value, ...TREATMENTS]);
const fault = ref('');
onMounted(async () => {
  try {
    [kept.value, ownFields.value] = await Promise.all([api.treatments(), api.ownFields()]);
    choose(0);
  } catch (error) {
    fault.value = sentenceOf(error);
  }
});
const chosen = ref(0);
const treatment = ref<Treatment>(copy(0));
const as = ref<'these' | 'new'>('these');
const sizes = ref(true);
const folder = ref('');
/** Frames that single images have instead of the common one. */
const own = ref(new Map<number, Frame>());
const looking = ref(false);
function copy(at: number): Treatment {
  return JSON.parse(JSON.stringify(all.value[at])) as Treatment;
}
function choose(at: number) {
  chosen.value = at;
  treatment.value = copy(at);
  own.value = new Map();
  const { target } = treatment.value;
  if (!target) return;
  as.value = target.as;
  if (target.as === 'new') folder.value = target.folder;
}
const pieces = computed({
  get: () => [...(treatment.value.pattern?.pieces ?? [])] as NamePiece[],
  set: (next) => (treatment.value.pattern = { ...treatment.value.pattern!, pieces: next }),
});
function nameThem(yes: boolean) {
  const { pattern: _, ...rest } = treatment.value;
  const counted: NamePattern = {
    ...PLAIN_PATTERN,
    pieces: [
      { piece: 'text', text: '' },
      { piece: 'counter', start: 1, step: 1, width: 3, restart: 'never' },
    ],
  };
  treatment.value = yes ? { ...rest, pattern: counted } : rest;
}
const size = computed(() => treatment.value.recipe.size);
const box = computed(() => {
  const one = size.value;
  return one && (one.by === 'fit' || one.by === 'cover') ? one : undefined;
});
const longest = computed(() => (size.value?.by === 'longest' ? size.value : undefined));
function resize(change: { width?: number; height?: number; pixels?: number }) {
  treatment.value = {
    ...treatment.value,
    recipe: {
      ...treatment.value.recipe,
      size: { ...size.value!, ...change } as NonNullable<typeof size.value>,
    },
  };
}
const format = computed({
  get: () => treatment.value.recipe.file?.format ?? 'keep',
  set: (value) => {
    const { format: _, ...file } = treatment.value.recipe.file ?? {};
    treatment.value.recipe.file = value === 'keep' ? file : { ...file, format: value };
  },
});
/** Kept by a name, to be taken again. */
const name = ref('');
async function keep(what: string, how: Omit<Treatment, 'name'> | null) {
  fault.value = '';
  try {
    await plan.make({ kind: 'treatment', name: what, treatment: how });
    kept.value = await api.treatments();
    choose(
      Math.max(
        0,
        all.value.findIndex((one) => one.name === what),
      ),
    );
    name.value = '';
  } catch (error) {
    fault.value = sentenceOf(error);
  }
}
function keepThis() {
  const { name: _, target: _target, ...how } = treatment.value;
  const target =
    as.value === 'new' && folder.value.trim()
      ? { target: { as: 'new' as const, folder: folder.value.trim() } }
      : {};
  return keep(name.value.trim(), { ...how, ...target });
}
/** The dialog waits behind the plan, and comes back when that is left. */
const reviewing = ref(false);
async function review() {
  reviewing.value = true;
  const before = plan.done;
  const frames = [...own.value].map(([itemId, frame]) => ({ itemId, frame }));
  await plan.propose({
    kind: 'treat',
    itemIds: [...ids.value],
    treatment: treatment.value,
    ...(frames.length > 0 ? { own: frames } : {}),
    to:
      as.value === 'these' ? { as: 'these', sizes: sizes.value } : { as: 'new', folder: folder.value.trim() },
  });
  const over = () => {
    if (plan.done !== before) preparing.close();
    if (preparing.framing !== undefined) looking.value = true;
    reviewing.value = false;
  };
  if (!plan.request) return over();
  const stop = watch(
    () => plan.request,
    (request) => {
      if (request) return;
      stop();
      over();
    },
  );
}
const closed = () => {
  if (!reviewing.value) preparing.close();
};
</script>

<template>
  <AppDialog
    :model-value="!reviewing"
    :title="`Prepare ${count(ids.length, 'item')} ${preparing.where}`"
    :width="looking ? '1180px' : '680px'"
    top="6vh"
    @close="closed"
  >
    <FramingView
      v-if="looking"
      v-model:own="own"
      v-model:first="preparing.framing"
      :ids="ids"
      :treatment="treatment"
    />
    <form v-show="!looking" id="prepare" @submit.prevent="review">
      <p v-if="ids.length > MOST" class="note losing" role="alert">
        A treatment takes up to {{ MOST }} images at a time. Choose fewer.
      </p>
      <fieldset data-first>
        <legend>Treatment</legend>
        <p v-for="(one, at) in all" :key="one.name">
          <AppRadio :model-value="chosen" :value="at" name="treatment" @update:model-value="choose(at)"
            ><strong>{{ one.name }}</strong> <span class="soft">{{ treatmentInWords(one) }}</span></AppRadio
          >
        </p>
      </fieldset>
      <fieldset class="row">
        <legend>Adjust</legend>
        <template v-if="treatment.shape?.how === 'subject'">
          <label
            >Margin, %
            <AppNumber
              :model-value="Math.round(100 * (treatment.shape.margin ?? 0.08))"
              :min="0"
              :max="45"
              @change="$event !== null && (treatment.shape!.margin = $event / 100)"
            />
          </label>
          <label
            >Thing stands
            <AppSelect
              :chars="10"
              :model-value="treatment.shape.place ?? 'centred'"
              @update:model-value="treatment.shape!.place = $event as 'centred' | 'base'"
              ><AppOption value="centred" label="in the middle" /><AppOption value="base" label="on a line" />
            </AppSelect>
          </label>
        </template>
        <template v-if="box">
          <label
            >Width
            <AppNumber
              :model-value="box.width"
              :min="1"
              :max="20000"
              @change="$event && resize({ width: $event })"
          /></label>
          <label
            >Height
            <AppNumber
              :model-value="box.height"
              :min="1"
              :max="20000"
              @change="$event && resize({ height: $event })"
          /></label>
        </template>
        <label v-if="longest"
          >Longest side
          <AppNumber
            :model-value="longest.pixels"
            :min="1"
            :max="20000"
            @change="$event && resize({ pixels: $event })"
        /></label>
        <label
          >Format
          <AppSelect v-model="format" :chars="9"
            ><AppOption value="keep" label="as it is" /><AppOption
              v-for="one in FORMATS"
              :key="one"
              :value="one"
              :label="FORMAT_NAMES[one]"
          /></AppSelect>
        </label>
        <label v-if="format === 'jpeg'"
          >Transparent becomes
          <AppInput
            type="color"
            :model-value="treatment.recipe.file?.ground ?? '#ffffff'"
            @update:model-value="treatment.recipe.file = { ...treatment.recipe.file, ground: $event }"
        /></label>
      </fieldset>
      <fieldset>
        <legend>Names</legend>
        <AppCheckbox :model-value="treatment.pattern !== undefined" @change="nameThem"
          >New names by a pattern</AppCheckbox
        >
        <ComposingLine
          v-if="treatment.pattern"
          v-model="pieces"
          :separator="treatment.pattern.separator"
          :own="ownFields"
        />
      </fieldset>
      <p v-if="site.may('settings')" class="keep">
        <label
          ><span class="hidden-words">Name of the treatment</span
          ><AppInput v-model="name" :chars="26" placeholder="Name, to keep these settings"
        /></label>
        <AppButton :disabled="!name.trim()" @click="keepThis">Keep as treatment</AppButton>
        <AppButton v-if="chosen < kept.length" look="link" @click="keep(kept[chosen]!.name, null)"
          >Delete “{{ kept[chosen]!.name }}”</AppButton
        >
      </p>
      <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
      <fieldset>
        <legend>Save</legend>
        <p>
          <AppRadio v-model="as" value="these" name="as"
            >In place. Pages show the new images; originals are kept.</AppRadio
          >
        </p>
        <p v-if="as === 'these'" class="more">
          <AppCheckbox v-model="sizes">Make their smaller sizes anew too</AppCheckbox>
        </p>
        <p><AppRadio v-model="as" value="new" name="as">As new items in a folder</AppRadio></p>
        <label v-if="as === 'new'" class="more"
          >Folder <AppInput v-model="folder" placeholder="the site’s root"
        /></label>
      </fieldset>
      <p class="soft">
        <template v-if="own.size"
          >{{ count(own.size, 'image') }} with a frame of {{ own.size === 1 ? 'its' : 'their' }} own.
        </template>
        Nothing gets larger than it is. Files that aren’t images stay as they are.
      </p>
    </form>
    <template #footer>
      <template v-if="looking">
        <AppButton look="main" @click="looking = false">Back to the settings</AppButton>
      </template>
      <template v-else>
        <AppButton :disabled="ids.length > MOST" @click="looking = true">Look at the framing …</AppButton>
        <AppButton @click="preparing.close()">Cancel</AppButton>
        <AppButton
          look="main"
          type="submit"
          form="prepare"
          :busy="plan.busy"
          :disabled="ids.length > MOST || ids.length === 0"
          >Review changes</AppButton
        >
      </template>
    </template>
  </AppDialog>
</template>

<style scoped>
fieldset {
  padding: 6px 0 10px;
  border: 0;
}
legend {
  font-weight: 650;
}
p :deep(.el-radio) {
  height: auto;
  padding: 3px 0;
  white-space: normal;
}
.row label {
  display: grid;
}
.row {
  display: flex;
  align-items: end;
  gap: 14px;
}
.keep {
  display: flex;
  align-items: center;
  gap: 10px;
  padding-bottom: 10px;
}
.more {
  padding-left: 24px;
}
</style>
