<script setup lang="ts">
import {
  PhArrowClockwise,
  PhArrowCounterClockwise,
  PhFlipHorizontal,
  PhFlipVertical,
} from '@phosphor-icons/vue';
import { computed } from 'vue';
import { inPixels, WHOLE } from '../../../core/picture/recipe/frame.ts';
import type { SubjectView } from '../../../api/edits.ts';
import { geometry, type Extent } from '../../../core/picture/recipe/geometry.ts';
import {
  merge,
  type Frame,
  type Levels,
  type Orient,
  type Recipe,
  type RecipeChange,
  type Tone,
} from '../../../core/picture/recipe/recipe.ts';
import AppButton from '../../kit/AppButton.vue';
import AppCheckbox from '../../kit/AppCheckbox.vue';
import AppFold from '../../kit/AppFold.vue';
import AppInput from '../../kit/AppInput.vue';
import AppOption from '../../kit/AppOption.ts';
import AppSelect from '../../kit/AppSelect.vue';
import AppSlider from '../../kit/AppSlider.vue';
import FrameTool from './FrameTool.vue';
import LevelsTool from './LevelsTool.vue';
import OutputTools from './OutputTools.vue';
import SlideNumber from './SlideNumber.vue';
import TextOnIt from './TextOnIt.vue';

/** The steps of a recipe, each with its settings. */
const props = defineProps<{
  recipe: Recipe;
  size: Extent;
  mime: string;
  histogram: Uint32Array | undefined;
  levels: Levels | undefined;
  cells: Uint8Array | undefined;
  /** That the folder asks for. */
  ratio: readonly [number, number] | null;
  /** Looks for the thing on it. */
  subject: () => Promise<SubjectView>;
}>();
const tool = defineModel<'frame' | 'level' | 'cover'>('tool', { required: true });
const clipping = defineModel<boolean>('clipping', { required: true });
const reading = defineModel<boolean>('reading', { required: true });
const emit = defineEmits<{ change: [change: RecipeChange] }>();

/** One object each: what is computed from the recipe is the same then, while other steps change. */
const UNTURNED: Orient = {};
const UNTONED: Tone = {};
const UNVEILED = { colour: '#000000', opacity: 0 };
const orient = computed(() => props.recipe.orient ?? UNTURNED);
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

const own = computed(() => props.recipe.frame);
const turned = computed(() => geometry({ version: 1, orient: orient.value }, props.size));
const pixels = computed(() => (own.value ? inPixels(own.value, turned.value.oriented) : turned.value.frame));
const tone = computed(() => props.recipe.tone ?? UNTONED);
function setTone(change: { [Name in keyof Tone]?: Tone[Name] | undefined }) {
  emit('change', { tone: { ...tone.value, ...change } as Tone });
}
const SLIDERS = [
  ['brightness', 'Brightness'],
  ['contrast', 'Contrast'],
  ['saturation', 'Saturation'],
  ['warmth', 'Warmth'],
] as const;
const veil = computed(() => tone.value.veil ?? UNVEILED);

const COVERS = [
  ['blur', 'Blur'],
  ['mosaic', 'Mosaic'],
  ['colour', 'Black'],
] as const;

/** For who draws by keys: the frame becomes a part that is covered, and is the whole image again. */
function coverFrame() {
  const { x, y, width, height } = own.value ?? WHOLE;
  emit('change', {
    frame: null,
    covers: [...(props.recipe.covers ?? []), { x, y, width, height, as: 'blur' }],
  });
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
      <SlideNumber
        title="Straighten"
        unit="degrees"
        :model-value="orient.straighten ?? 0"
        :most="45"
        :step="0.1"
        @update:model-value="setOrient({ straighten: $event })"
      />
      <AppButton
        look="link"
        :aria-pressed="tool === 'level'"
        @click="tool = tool === 'level' ? 'frame' : 'level'"
        >{{
          tool === 'level' ? 'Draw along what should be level or upright' : 'Straighten by a line'
        }}</AppButton
      >
    </AppFold>
    <FrameTool
      :orient="orient"
      :frame="recipe.frame"
      :size="size"
      :asked="ratio"
      :subject="subject"
      @frame="emit('change', { frame: $event })"
    />
    <AppFold title="Light and colour" open>
      <LevelsTool
        :model-value="tone.levels"
        :histogram="histogram"
        :found="levels"
        @update:model-value="setTone({ levels: $event })"
      />
      <AppCheckbox v-model="clipping">Mark pure white and pure black</AppCheckbox>
      <!-- While one moves, the others stay as they are. -->
      <SlideNumber
        v-for="[key, name] in SLIDERS"
        :key="key"
        v-memo="[tone[key]]"
        :title="name"
        :model-value="tone[key] ?? 0"
        :most="100"
        @update:model-value="setTone({ [key]: $event })"
      />
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
      <TextOnIt v-model:on="reading" :cells="cells" :veil="veil" @veil="setTone({ veil: $event })" />
      <AppButton look="link" :disabled="nothingToReset" @click="emit('change', { tone: null })"
        >Reset light and colour</AppButton
      >
    </AppFold>
    <AppFold title="Cover parts">
      <p class="soft">Faces, number plates, addresses: nothing of what lies beneath is in the saved file.</p>
      <AppButton :aria-pressed="tool === 'cover'" @click="tool = tool === 'cover' ? 'frame' : 'cover'">{{
        tool === 'cover' ? 'Draw over the part' : 'Cover a part'
      }}</AppButton>
      <AppButton v-if="recipe.frame" look="link" @click="coverFrame">Cover what the frame holds</AppButton>
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
    <OutputTools
      :size="recipe.size"
      :file="recipe.file"
      :framed="pixels"
      :mime="mime"
      @change="emit('change', $event)"
    />
  </div>
</template>

<style scoped src="./tools.css"></style>
<style scoped>
.tools {
  padding: 4px 14px 24px;
}
.row {
  display: flex;
  align-items: center;
  gap: 8px;
}
ul {
  padding: 6px 0 0;
}
</style>
