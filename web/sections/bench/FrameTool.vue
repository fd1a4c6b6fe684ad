<script setup lang="ts">
import { computed, ref } from 'vue';
import type { SubjectView } from '../../../api/edits.ts';
import { heldTo, inPixels, typed, WHOLE } from '../../../core/picture/recipe/frame.ts';
import { geometry, type Extent } from '../../../core/picture/recipe/geometry.ts';
import type { Beyond, Frame, Orient } from '../../../core/picture/recipe/recipe.ts';
import { inOriented } from '../../../core/picture/recipe/treatments.ts';
import { framing } from '../../../core/picture/subject.ts';
import { sentenceOf } from '../../api/client.ts';
import AppButton from '../../kit/AppButton.vue';
import AppFold from '../../kit/AppFold.vue';
import AppInput from '../../kit/AppInput.vue';
import AppNumber from '../../kit/AppNumber.vue';
import AppOption from '../../kit/AppOption.ts';
import AppSelect from '../../kit/AppSelect.vue';

/** What is kept of the image: by a ratio, in numbers, or around the thing that stands on its ground. */
const props = defineProps<{
  orient: Orient;
  /** None: all of the image. */
  frame: Frame | undefined;
  size: Extent;
  /** That its folder asks for. */
  asked: readonly [number, number] | null;
  subject: () => Promise<SubjectView>;
}>();
const emit = defineEmits<{ frame: [frame: Frame | null] }>();

const turned = computed(() => geometry({ version: 1, orient: props.orient }, props.size));
const oriented = computed(() => turned.value.oriented);
const kept = computed(() => props.frame ?? WHOLE);
const pixels = computed(() => (props.frame ? inPixels(props.frame, oriented.value) : turned.value.frame));

const COMMON = ['1:1', '3:2', '4:3', '16:9', '2:3', '3:4', '9:16'];
const folders = computed(() => props.asked?.join(':'));
const RATIOS = computed(() => [...new Set([...(folders.value ? [folders.value] : []), ...COMMON])]);
const labelOf = (name: string) =>
  `${name}${name === '1:1' ? ' (square)' : ''}${name === folders.value ? ', as its folder asks' : ''}`;
/** One of a person's own is being typed. */
const typing = ref(false);
const held = computed(() => props.frame?.ratio);
const ratio = computed({
  get: () => {
    const name = held.value?.join(':');
    return typing.value || (name && !RATIOS.value.includes(name)) ? 'other' : (name ?? 'free');
  },
  set: (name) => {
    typing.value = name === 'other';
    if (name === 'other') return;
    hold(name === 'free' ? undefined : (name.split(':').map(Number) as [number, number]));
  },
});
/** What is typed before anything is held to it: the ratio that there is. */
const sides = computed<readonly [number, number]>(
  () => held.value ?? [pixels.value.width, pixels.value.height],
);
function hold(wanted: readonly [number, number] | undefined) {
  emit('frame', heldTo(kept.value, wanted, oriented.value));
}

const BEYOND: [Beyond['fill'], string][] = [
  ['colour', 'a colour'],
  ['edge', 'the colour of its edge'],
  ['blur', 'a blurred copy'],
  ['none', 'nothing (transparent)'],
];
const beyond = computed<Beyond>(() => kept.value.beyond ?? { fill: 'colour', colour: '#ffffff' });
function fill(kind: Beyond['fill'], colour = '#ffffff') {
  emit('frame', { ...kept.value, beyond: kind === 'colour' ? { fill: kind, colour } : { fill: kind } });
}

const margin = ref(8);
const looking = ref(false);
const said = ref('');
async function frameThing() {
  looking.value = true;
  said.value = '';
  try {
    const { subject, why } = await props.subject();
    if (!subject) {
      said.value = why;
      return;
    }
    const box = inOriented(subject, props.orient, props.size);
    const own: [number, number] = [box.width * oriented.value.width, box.height * oriented.value.height];
    const found = framing(
      box,
      { ratio: held.value ?? own, margin: margin.value / 100, place: 'centred' },
      oriented.value,
    );
    const { ratio: _, ...free } = found;
    emit('frame', { ...(held.value ? found : free), beyond: kept.value.beyond ?? { fill: 'edge' } });
  } catch (error) {
    said.value = sentenceOf(error);
  } finally {
    looking.value = false;
  }
}
</script>

<template>
  <AppFold title="Frame" open>
    <label class="field"
      >Ratio
      <AppSelect v-model="ratio"
        ><AppOption value="free" label="free" /><AppOption
          v-for="one in RATIOS"
          :key="one"
          :value="one"
          :label="labelOf(one)" /><AppOption value="other" label="other"
      /></AppSelect>
    </label>
    <div v-if="ratio === 'other'" class="four">
      <label v-for="(name, side) in ['Ratio, across', 'Ratio, down']" :key="name"
        >{{ name }}
        <AppNumber
          :model-value="sides[side]!"
          :min="0.1"
          :max="10000"
          @change="$event !== null && hold(side === 0 ? [$event, sides[1]] : [sides[0], $event])"
        />
      </label>
    </div>
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
          @change="$event !== null && emit('frame', typed(frame ?? { ...WHOLE }, key, $event, oriented))"
        />
      </label>
    </div>
    <div class="thing">
      <AppButton :busy="looking" @click="frameThing">Frame the thing on it</AppButton>
      <label
        >Margin, %
        <AppNumber :model-value="margin" :min="0" :max="45" @change="$event !== null && (margin = $event)"
      /></label>
    </div>
    <p v-if="said" class="note" role="status">{{ said }}</p>
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
    <AppButton v-if="frame" look="link" @click="emit('frame', null)">Whole image</AppButton>
  </AppFold>
</template>

<style scoped src="./tools.css"></style>
<style scoped>
.thing {
  display: flex;
  align-items: end;
  padding: 6px 0;
  gap: 10px;
}
.thing label {
  width: 76px;
  font-size: 12.5px;
}
</style>
