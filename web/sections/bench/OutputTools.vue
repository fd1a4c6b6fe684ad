<script setup lang="ts">
import { computed } from 'vue';
import { FORMAT_NAMES } from '../../../core/picture/recipe/describe.ts';
import type { Extent } from '../../../core/picture/recipe/geometry.ts';
import { FORMATS, type FileStep, type RecipeChange, type Size } from '../../../core/picture/recipe/recipe.ts';
import AppCheckbox from '../../kit/AppCheckbox.vue';
import AppFold from '../../kit/AppFold.vue';
import AppInput from '../../kit/AppInput.vue';
import AppNumber from '../../kit/AppNumber.vue';
import AppOption from '../../kit/AppOption.ts';
import AppSelect from '../../kit/AppSelect.vue';

/** How large an edited image becomes, and as what file it is saved. */
const props = defineProps<{
  /** None: as large as it is. */
  size: Size | undefined;
  /** None: as it is. */
  file: FileStep | undefined;
  /** What the frame holds, in pixels. */
  framed: Extent;
  mime: string;
  /** It is drawn as large as is wanted. */
  drawing?: boolean;
}>();
const emit = defineEmits<{ change: [change: RecipeChange] }>();

type By = Size['by'] | 'as-is';
const by = computed<By>({
  get: () => props.size?.by ?? 'as-is',
  set: (way) => setSize({}, way),
});
const SIZES: [By, string][] = [
  ['as-is', 'as it is'],
  ['fit', 'fit within'],
  ['cover', 'fill exactly'],
  ['width', 'width'],
  ['height', 'height'],
  ['longest', 'longest side'],
  ['percent', 'per cent'],
];
function setSize(change: Record<string, number | boolean | string | undefined>, way = by.value) {
  if (way === 'as-is') return emit('change', { size: null });
  const { width, height } = props.framed;
  const first = {
    fit: { width: Math.min(1600, width), height: Math.min(1600, height) },
    cover: { width: Math.min(1600, width), height: Math.min(600, height) },
    width: { width: Math.min(1600, width) },
    height: { height: Math.min(1600, height) },
    longest: { pixels: Math.min(1600, Math.max(width, height)) },
    percent: { percent: 50 },
  }[way];
  const { enlarge, sharpen } = props.size ?? {};
  const before = props.size?.by === way ? props.size : {};
  const next = { ...first, ...before, enlarge, sharpen, ...change, by: way };
  emit('change', { size: JSON.parse(JSON.stringify(next)) as Size });
}
const sizeNumbers = computed(() => {
  const { size } = props;
  if (!size) return [];
  const names = { width: 'Width', height: 'Height', pixels: 'Pixels', percent: 'Per cent' } as const;
  return (Object.keys(names) as (keyof typeof names)[]).flatMap((key) =>
    key in size ? [{ key, name: names[key], value: (size as unknown as Record<string, number>)[key]! }] : [],
  );
});

const output = computed<FileStep>(() => props.file ?? {});
function setFile(change: { [Name in keyof FileStep]?: FileStep[Name] | undefined }) {
  emit('change', { file: JSON.parse(JSON.stringify({ ...output.value, ...change })) as FileStep });
}
const format = computed(() => output.value.format ?? 'keep');
const lossless = computed(
  () =>
    output.value.format === 'png' || (!output.value.format && (props.drawing || props.mime === 'image/png')),
);
const quality = computed(() => {
  const { quality } = output.value;
  return quality === undefined || typeof quality === 'number'
    ? 'number'
    : quality === 'same'
      ? 'same'
      : 'most';
});
function setQuality(how: string) {
  setFile({ quality: how === 'same' ? 'same' : how === 'most' ? { mostBytes: 200_000 } : 82 });
}
</script>

<template>
  <AppFold title="Size" open>
    <label class="field"
      >Resize
      <AppSelect v-model="by"
        ><AppOption v-for="[key, name] in SIZES" :key="key" :value="key" :label="name"
      /></AppSelect>
    </label>
    <div v-if="size" class="four">
      <label v-for="one in sizeNumbers" :key="one.key"
        >{{ one.name }}
        <AppNumber
          :model-value="one.value"
          :min="1"
          :max="one.key === 'percent' ? 400 : 20000"
          @change="$event !== null && setSize({ [one.key]: $event })"
        />
      </label>
    </div>
    <template v-if="size">
      <AppCheckbox
        v-if="!drawing"
        :model-value="size.enlarge ?? false"
        @update:model-value="setSize({ enlarge: $event || undefined })"
        >Enlarge where it is smaller</AppCheckbox
      >
      <label class="field"
        >Sharpen
        <AppSelect
          :model-value="size.sharpen ?? 'off'"
          @update:model-value="setSize({ sharpen: $event === 'off' ? undefined : $event })"
          ><AppOption value="off" label="off" /><AppOption value="light" label="light" /><AppOption
            value="strong"
            label="strong"
        /></AppSelect>
      </label>
    </template>
  </AppFold>
  <AppFold title="File" open>
    <label class="field"
      >Format
      <AppSelect
        :model-value="format"
        @update:model-value="setFile({ format: $event === 'keep' ? undefined : $event })"
        ><AppOption value="keep" label="as it is" /><AppOption
          v-for="one in FORMATS"
          :key="one"
          :value="one"
          :label="FORMAT_NAMES[one]"
      /></AppSelect>
    </label>
    <label v-if="!lossless" class="field"
      >Quality
      <AppSelect :model-value="quality" @update:model-value="setQuality"
        ><AppOption value="number" label="a number" /><AppOption
          value="same"
          label="as small as looks the same" /><AppOption value="most" label="at most so many kB"
      /></AppSelect>
    </label>
    <label v-if="!lossless && quality === 'number'" class="field"
      >Number
      <AppNumber
        :model-value="typeof output.quality === 'number' ? output.quality : 82"
        :min="1"
        :max="100"
        @change="$event !== null && setFile({ quality: $event })"
    /></label>
    <label v-if="!lossless && quality === 'most'" class="field"
      >kB
      <AppNumber
        :model-value="typeof output.quality === 'object' ? Math.round(output.quality.mostBytes / 1000) : 200"
        :min="1"
        :max="1000000"
        @change="$event !== null && setFile({ quality: { mostBytes: 1000 * $event } })"
    /></label>
    <label v-if="output.format === 'jpeg' && mime !== 'image/jpeg'" class="field"
      >Where it is transparent
      <AppInput
        type="color"
        :model-value="output.ground ?? '#ffffff'"
        @update:model-value="setFile({ ground: $event })"
    /></label>
  </AppFold>
</template>

<style scoped src="./tools.css"></style>
