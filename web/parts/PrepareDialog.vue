<script setup lang="ts">
import { computed, onMounted, ref } from 'vue';
import { api, sentenceOf } from '../api/client.ts';
import { FORMAT_NAMES } from '../../core/picture/recipe/describe.ts';
import { FORMATS } from '../../core/picture/recipe/recipe.ts';
import { TREATMENTS, treatmentInWords, type Treatment } from '../../core/picture/recipe/treatments.ts';
import AppButton from '../kit/AppButton.vue';
import AppCheckbox from '../kit/AppCheckbox.vue';
import AppDialog from '../kit/AppDialog.vue';
import AppInput from '../kit/AppInput.vue';
import AppNumber from '../kit/AppNumber.vue';
import AppOption from '../kit/AppOption.ts';
import AppRadio from '../kit/AppRadio.vue';
import AppSelect from '../kit/AppSelect.vue';
import { usePlan } from '../stores/plan.ts';
import { useTray } from '../stores/tray.ts';
import { count } from './words.ts';

/** One treatment for everything in the tray: chosen, adjusted, and looked at image by image before it is applied. */
const emit = defineEmits<{ close: [] }>();
const plan = usePlan();
const tray = useTray();
/** Those that people keep come first. */
const kept = ref<Treatment[]>([]);
const all = computed(() => [...kept.value, ...TREATMENTS]);
const fault = ref('');
onMounted(async () => {
  try {
    kept.value = await api.treatments();
    choose(0);
  } catch (error) {
    fault.value = sentenceOf(error);
  }
});
const chosen = ref(0);
const treatment = ref<Treatment>(copy(0));
function copy(at: number): Treatment {
  return JSON.parse(JSON.stringify(all.value[at])) as Treatment;
}
function choose(at: number) {
  chosen.value = at;
  treatment.value = copy(at);
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
const as = ref<'these' | 'new'>('these');
const sizes = ref(true);
const folder = ref('');
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
  const { recipe, shape } = treatment.value;
  return keep(name.value.trim(), shape ? { recipe, shape } : { recipe });
}
async function review() {
  const wanted = {
    kind: 'treat' as const,
    itemIds: [...tray.ids],
    treatment: treatment.value,
    to:
      as.value === 'these'
        ? { as: 'these' as const, sizes: sizes.value }
        : { as: 'new' as const, folder: folder.value.trim() },
  };
  emit('close');
  await plan.propose(wanted);
}
</script>

<template>
  <AppDialog
    :model-value="true"
    :title="`Prepare ${count(tray.size, 'item')}`"
    width="640px"
    @closed="emit('close')"
  >
    <form id="prepare" @submit.prevent="review">
      <fieldset>
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
      </fieldset>
      <p class="keep">
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
      <p class="soft">Nothing gets larger than it is. Files that aren’t images stay as they are.</p>
    </form>
    <template #footer>
      <AppButton @click="emit('close')">Cancel</AppButton>
      <AppButton look="main" type="submit" form="prepare" :busy="plan.busy">Review changes</AppButton>
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
}
.more {
  padding-left: 24px;
}
</style>
