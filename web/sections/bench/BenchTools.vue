<script setup lang="ts">
import {
  PhArrowClockwise,
  PhArrowCounterClockwise,
  PhFlipHorizontal,
  PhFlipVertical,
} from '@phosphor-icons/vue';
import { computed, ref } from 'vue';
import { FORMAT_NAMES } from '../../../core/picture/recipe/describe.ts';
import { heldTo, inPixels, typed, WHOLE } from '../../../core/picture/recipe/frame.ts';
import { geometry, unsized, type Extent } from '../../../core/picture/recipe/geometry.ts';
import {
  FORMATS,
  merge,
  type Beyond,
  type FileStep,
  type Frame,
  type Levels,
  type Orient,
  type Recipe,
  type RecipeChange,
  type Size,
  type Tone,
} from '../../../core/picture/recipe/recipe.ts';
import AppButton from '../../kit/AppButton.vue';
import AppCheckbox from '../../kit/AppCheckbox.vue';
import AppFold from '../../kit/AppFold.vue';
import AppInput from '../../kit/AppInput.vue';
import AppNumber from '../../kit/AppNumber.vue';
import AppOption from '../../kit/AppOption.ts';
import AppSelect from '../../kit/AppSelect.vue';
import AppSlider from '../../kit/AppSlider.vue';
import LevelsTool from './LevelsTool.vue';

/** The steps of a recipe, each with its settings. */
const props = defineProps<{
  recipe: Recipe;
  size: Extent;
  mime: string;
  histogram: Uint32Array | undefined;
  levels: Levels | undefined;
}>();
const tool = defineModel<'frame' | 'level' | 'cover'>('tool', { required: true });
const emit = defineEmits<{ change: [change: RecipeChange] }>();

const orient = computed<Orient>(() => props.recipe.orient ?? {});
function setOrient(change: Partial<Orient>) {
  emit('change', { orient: { ...orient.value, ...change } });
}
/** A frame turns with the image. */
function turn(by: 1 | 3) {
  const turns = (((orient.value.turns ?? 0) + by) % 4) as 0 | 1 | 2 | 3;
  const { frame } = props.recipe;
  const turned: Frame | undefined = frame && {
    ...(by === 1
      ? { x: 1 - frame.y - frame.height, y: frame.x }
      : { x: frame.y, y: 1 - frame.x - frame.width }),
    width: frame.height,
    height: frame.width,
    ...(frame.ratio ? { ratio: [frame.ratio[1], frame.ratio[0]] as [number, number] } : {}),
    ...(frame.beyond ? { beyond: frame.beyond } : {}),
  };
  emit('change', { orient: { ...orient.value, turns }, ...(turned ? { frame: turned } : {}) });
}

const oriented = computed(
  () =>
    geometry(props.recipe.orient ? { version: 1, orient: props.recipe.orient } : { version: 1 }, props.size)
      .oriented,
);
const frame = computed(() => props.recipe.frame ?? WHOLE);
const pixels = computed(() => {
  if (props.recipe.frame) return inPixels(props.recipe.frame, oriented.value);
  const { frame: box } = geometry(unsized(props.recipe), props.size);
  return box;
});
const RATIOS = ['1:1', '3:2', '4:3', '16:9', '2:3', '3:4', '9:16'];
const ratio = computed({
  get: () => props.recipe.frame?.ratio?.join(':') ?? 'free',
  set: (name) => {
    const wanted = name === 'free' ? undefined : (name.split(':').map(Number) as [number, number]);
    emit('change', { frame: heldTo(frame.value, wanted, oriented.value) });
  },
});
const BEYOND: [Beyond['fill'], string][] = [
  ['colour', 'a colour'],
  ['edge', 'the colour of its edge'],
  ['blur', 'a blurred copy'],
  ['none', 'nothing (transparent)'],
];
const beyond = computed<Beyond>(() => frame.value.beyond ?? { fill: 'colour', colour: '#ffffff' });
function fill(kind: Beyond['fill'], colour = '#ffffff') {
  emit('change', {
    frame: { ...frame.value, beyond: kind === 'colour' ? { fill: kind, colour } : { fill: kind } },
  });
}

const tone = computed<Tone>(() => props.recipe.tone ?? {});
function setTone(change: { [Name in keyof Tone]?: Tone[Name] | undefined }) {
  emit('change', { tone: { ...tone.value, ...change } as Tone });
}
const SLIDERS = [
  ['brightness', 'Brightness'],
  ['contrast', 'Contrast'],
  ['saturation', 'Saturation'],
  ['warmth', 'Warmth'],
] as const;
const veil = computed(() => tone.value.veil ?? { colour: '#000000', opacity: 0 });

const COVERS = [
  ['blur', 'Blur'],
  ['mosaic', 'Mosaic'],
  ['colour', 'Black'],
] as const;

const by = ref<Size['by'] | 'as-is'>(props.recipe.size?.by ?? 'as-is');
const SIZES: [Size['by'] | 'as-is', string][] = [
  ['as-is', 'as it is'],
  ['fit', 'fit within'],
  ['cover', 'fill exactly'],
  ['width', 'width'],
  ['height', 'height'],
  ['longest', 'longest side'],
  ['percent', 'per cent'],
];
function setSize(change: Record<string, number | boolean | string | undefined>) {
  if (by.value === 'as-is') return emit('change', { size: null });
  const { width, height } = pixels.value;
  const first = {
    fit: { width: Math.min(1600, width), height: Math.min(1600, height) },
    cover: { width: Math.min(1600, width), height: Math.min(600, height) },
    width: { width: Math.min(1600, width) },
    height: { height: Math.min(1600, height) },
    longest: { pixels: Math.min(1600, Math.max(width, height)) },
    percent: { percent: 50 },
  }[by.value];
  const { enlarge, sharpen } = props.recipe.size ?? {};
  const before = props.recipe.size?.by === by.value ? props.recipe.size : {};
  const next = { ...first, ...before, enlarge, sharpen, ...change, by: by.value };
  emit('change', { size: JSON.parse(JSON.stringify(next)) as Size });
}
const sizeNumbers = computed(() => {
  const { size } = props.recipe;
  if (!size) return [];
  const names = { width: 'Width', height: 'Height', pixels: 'Pixels', percent: 'Per cent' } as const;
  return (Object.keys(names) as (keyof typeof names)[]).flatMap((key) =>
    key in size ? [{ key, name: names[key], value: (size as unknown as Record<string, number>)[key]! }] : [],
  );
});

const file = computed<FileStep>(() => props.recipe.file ?? {});
function setFile(change: { [Name in keyof FileStep]?: FileStep[Name] | undefined }) {
  emit('change', { file: JSON.parse(JSON.stringify({ ...file.value, ...change })) as FileStep });
}
const format = computed(() => file.value.format ?? 'keep');
const lossless = computed(
  () => file.value.format === 'png' || (!file.value.format && props.mime === 'image/png'),
);
const quality = computed(() => {
  const { quality } = file.value;
  return quality === undefined || typeof quality === 'number'
    ? 'number'
    : quality === 'same'
      ? 'same'
      : 'most';
});
function setQuality(how: string) {
  setFile({ quality: how === 'same' ? 'same' : how === 'most' ? { mostBytes: 200_000 } : 82 });
}
const isMerged = (change: RecipeChange) =>
  JSON.stringify(merge(props.recipe, change)) === JSON.stringify(props.recipe);
const nothingToReset = computed(() => isMerged({ tone: null }));
</script>

<template>
  <div class="tools">
    <AppFold title="Turn and straighten" open>
      <div class="row">
        <AppButton look="glyph" title="Turn left" aria-label="Turn left" @click="turn(3)"
          ><PhArrowCounterClockwise :size="18"
        /></AppButton>
        <AppButton look="glyph" title="Turn right" aria-label="Turn right" @click="turn(1)"
          ><PhArrowClockwise :size="18"
        /></AppButton>
        <AppButton
          look="glyph"
          title="Mirror left to right"
          aria-label="Mirror left to right"
          :aria-pressed="Boolean(orient.mirror)"
          @click="setOrient({ mirror: !orient.mirror })"
          ><PhFlipHorizontal :size="18"
        /></AppButton>
        <AppButton
          look="glyph"
          title="Mirror top to bottom"
          aria-label="Mirror top to bottom"
          :aria-pressed="Boolean(orient.flip)"
          @click="setOrient({ flip: !orient.flip })"
          ><PhFlipVertical :size="18"
        /></AppButton>
      </div>
      <div class="slide">
        <span>Straighten</span>
        <AppSlider
          label="Straighten, in degrees"
          :model-value="orient.straighten ?? 0"
          :min="-45"
          :max="45"
          :step="0.1"
          @update:model-value="setOrient({ straighten: Math.round($event * 10) / 10 })"
        />
        <label
          ><span class="hidden-words">Degrees</span
          ><AppNumber
            :model-value="orient.straighten ?? 0"
            :min="-45"
            :max="45"
            :step="0.1"
            :precision="1"
            @update:model-value="setOrient({ straighten: Math.round(($event ?? 0) * 10) / 10 })"
        /></label>
      </div>
      <AppButton
        look="link"
        :aria-pressed="tool === 'level'"
        @click="tool = tool === 'level' ? 'frame' : 'level'"
        >{{
          tool === 'level' ? 'Draw along what should be level or upright' : 'Straighten by a line'
        }}</AppButton
      >
    </AppFold>
    <AppFold title="Frame" open>
      <label class="field"
        >Ratio
        <AppSelect v-model="ratio"
          ><AppOption value="free" label="free" /><AppOption
            v-for="one in RATIOS"
            :key="one"
            :value="one"
            :label="one === '1:1' ? '1:1 (square)' : one"
        /></AppSelect>
      </label>
      <div class="four">
        <label
          v-for="[key, name] in [
            ['width', 'Width'],
            ['height', 'Height'],
            ['x', 'Left'],
            ['y', 'Top'],
          ] as const"
          :key="key"
          >{{ name }}
          <AppNumber
            :model-value="pixels[key]"
            :min="key === 'width' || key === 'height' ? 1 : -20000"
            :max="20000"
            @change="
              $event !== null &&
              emit('change', { frame: typed(recipe.frame ?? { ...WHOLE }, key, $event, oriented) })
            "
          />
        </label>
      </div>
      <label class="field"
        >Beyond the image
        <AppSelect :model-value="beyond.fill" @update:model-value="fill($event as Beyond['fill'])"
          ><AppOption v-for="[key, name] in BEYOND" :key="key" :value="key" :label="name"
        /></AppSelect>
      </label>
      <label v-if="beyond.fill === 'colour'" class="field"
        >Colour
        <AppInput type="color" :model-value="beyond.colour" @update:model-value="fill('colour', $event)"
      /></label>
      <AppButton v-if="recipe.frame" look="link" @click="emit('change', { frame: null })"
        >Whole image</AppButton
      >
    </AppFold>
    <AppFold title="Light and colour" open>
      <LevelsTool
        :model-value="tone.levels"
        :histogram="histogram"
        :found="levels"
        @update:model-value="setTone({ levels: $event })"
      />
      <div v-for="[key, name] in SLIDERS" :key="key" class="slide">
        <span>{{ name }}</span>
        <AppSlider
          :label="name"
          :model-value="tone[key] ?? 0"
          :min="-100"
          :max="100"
          :step="1"
          @update:model-value="setTone({ [key]: $event })"
        />
        <label
          ><span class="hidden-words">{{ name }}, in numbers</span
          ><AppNumber
            :model-value="tone[key] ?? 0"
            :min="-100"
            :max="100"
            @update:model-value="setTone({ [key]: $event ?? 0 })"
        /></label>
      </div>
      <AppCheckbox
        :model-value="tone.blackAndWhite ?? false"
        @update:model-value="setTone({ blackAndWhite: $event })"
        >Black and white</AppCheckbox
      >
      <div class="slide">
        <span>Veil</span>
        <AppSlider
          label="Opacity of the veil, in per cent"
          :model-value="Math.round(100 * veil.opacity)"
          :min="0"
          :max="100"
          :step="1"
          @update:model-value="setTone({ veil: { ...veil, opacity: $event / 100 } })"
        />
        <label
          ><span class="hidden-words">Colour of the veil</span
          ><AppInput
            type="color"
            :model-value="veil.colour"
            @update:model-value="setTone({ veil: { colour: $event, opacity: veil.opacity || 0.4 } })"
        /></label>
      </div>
      <AppButton look="link" :disabled="nothingToReset" @click="emit('change', { tone: null })"
        >Reset light and colour</AppButton
      >
    </AppFold>
    <AppFold title="Cover parts">
      <p class="soft">Faces, number plates, addresses: nothing of what lies beneath is in the saved file.</p>
      <AppButton :aria-pressed="tool === 'cover'" @click="tool = tool === 'cover' ? 'frame' : 'cover'">{{
        tool === 'cover' ? 'Draw over the part' : 'Cover a part'
      }}</AppButton>
      <ul v-if="recipe.covers">
        <li v-for="(one, at) in recipe.covers" :key="at" class="row">
          <label
            ><span class="hidden-words">Part {{ at + 1 }}</span>
            <AppSelect
              :chars="7"
              :model-value="one.as"
              @update:model-value="
                emit('change', {
                  covers: recipe.covers!.map((cover, index) =>
                    index === at ? { ...cover, as: $event } : cover,
                  ),
                })
              "
              ><AppOption v-for="[key, name] in COVERS" :key="key" :value="key" :label="name"
            /></AppSelect>
          </label>
          <AppButton
            look="link"
            @click="emit('change', { covers: recipe.covers!.filter((_, index) => index !== at) })"
            >Remove part {{ at + 1 }}</AppButton
          >
        </li>
      </ul>
    </AppFold>
    <AppFold title="Size" open>
      <label class="field"
        >Resize
        <AppSelect v-model="by" @change="setSize({})"
          ><AppOption v-for="[key, name] in SIZES" :key="key" :value="key" :label="name"
        /></AppSelect>
      </label>
      <div v-if="recipe.size" class="four">
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
      <template v-if="recipe.size">
        <AppCheckbox
          :model-value="recipe.size.enlarge ?? false"
          @update:model-value="setSize({ enlarge: $event || undefined })"
          >Enlarge where it is smaller</AppCheckbox
        >
        <label class="field"
          >Sharpen
          <AppSelect
            :model-value="recipe.size.sharpen ?? 'off'"
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
          :model-value="typeof file.quality === 'number' ? file.quality : 82"
          :min="1"
          :max="100"
          @change="$event !== null && setFile({ quality: $event })"
      /></label>
      <label v-if="!lossless && quality === 'most'" class="field"
        >kB
        <AppNumber
          :model-value="typeof file.quality === 'object' ? Math.round(file.quality.mostBytes / 1000) : 200"
          :min="1"
          :max="1000000"
          @change="$event !== null && setFile({ quality: { mostBytes: 1000 * $event } })"
      /></label>
      <label v-if="file.format === 'jpeg' && mime !== 'image/jpeg'" class="field"
        >Where it is transparent
        <AppInput
          type="color"
          :model-value="file.ground ?? '#ffffff'"
          @update:model-value="setFile({ ground: $event })"
      /></label>
    </AppFold>
  </div>
</template>

<style scoped>
.tools {
  padding: 4px 14px 24px;
}
.row,
.slide {
  display: flex;
  align-items: center;
  gap: 8px;
}
.slide > span {
  width: 78px;
  flex: none;
}
.slide > label {
  width: 64px;
  flex: none;
}
.field {
  display: grid;
  align-items: center;
  padding: 3px 0;
  grid-template-columns: 110px minmax(0, 1fr);
  gap: 8px;
}
.four {
  display: grid;
  padding: 4px 0;
  grid-template-columns: 1fr 1fr;
  gap: 4px 10px;
}
.four label {
  font-size: 12.5px;
}
ul {
  padding: 6px 0 0;
}
</style>
