<script setup lang="ts">
import { computed, onUnmounted, ref, shallowRef, watch } from 'vue';
import type { FramingView } from '../../../api/edits.ts';
import { baseName } from '../../../core/address/path.ts';
import { heldTo } from '../../../core/picture/recipe/frame.ts';
import { geometry } from '../../../core/picture/recipe/geometry.ts';
import type { Frame, Recipe } from '../../../core/picture/recipe/recipe.ts';
import type { Treatment } from '../../../core/picture/recipe/treatments.ts';
import { api, sentenceOf } from '../../api/client.ts';
import AppButton from '../../kit/AppButton.vue';
import AppCheckbox from '../../kit/AppCheckbox.vue';
import { count } from '../../parts/words.ts';
import BenchStage from './BenchStage.vue';

/** How a treatment frames a set, side by side on one grid, so that the odd one out is seen; any of them gets a frame of its own. */
const props = defineProps<{ ids: readonly number[]; treatment: Treatment }>();
const own = defineModel<Map<number, Frame>>('own', { required: true });
/** The one that is framed at once; told only once. */
const first = defineModel<number>('first');
const lines = ref<FramingView[]>([]);
const fault = ref('');
const boxes = ref(true);

/** Some at a time, so that the first are seen at once. */
const AT_ONCE = 24;
let left = false;
onUnmounted(() => (left = true));
async function load() {
  try {
    if (first.value !== undefined) {
      [open.value] = await api.framings([first.value], props.treatment);
      first.value = undefined;
    }
    for (let at = 0; at < props.ids.length && !left; at += AT_ONCE)
      lines.value.push(...(await api.framings(props.ids.slice(at, at + AT_ONCE), props.treatment)));
  } catch (error) {
    fault.value = sentenceOf(error);
  }
}
const unsure = computed(() => lines.value.filter((one) => one.why !== '' && one.original).length);

const frameOf = (line: FramingView): Frame => own.value.get(line.itemId) ?? line.frame;
const recipeOf = (line: FramingView, frame = frameOf(line)): Recipe => ({
  version: 1,
  ...(line.orient ? { orient: line.orient } : {}),
  frame,
});
/** What a cell shows: the image drawn so that its frame is the cell. */
function cell(line: FramingView) {
  const { width, height } = line.original!;
  const { oriented } = geometry(line.orient ? { version: 1, orient: line.orient } : { version: 1 }, {
    width,
    height,
  });
  const frame = frameOf(line);
  const beyond = frame.beyond ?? props.treatment.shape?.beyond;
  return {
    box: {
      aspectRatio: `${frame.width * oriented.width} / ${frame.height * oriented.height}`,
      background: beyond?.fill === 'colour' ? beyond.colour : '#ffffff',
    },
    image: {
      width: `${100 / frame.width}%`,
      height: `${100 / frame.height}%`,
      left: `${(-100 * frame.x) / frame.width}%`,
      top: `${(-100 * frame.y) / frame.height}%`,
    },
    subject: line.subject && {
      left: `${(100 * (line.subject.x - frame.x)) / frame.width}%`,
      top: `${(100 * (line.subject.y - frame.y)) / frame.height}%`,
      width: `${(100 * line.subject.width) / frame.width}%`,
      height: `${(100 * line.subject.height) / frame.height}%`,
    },
  };
}
const source = (line: FramingView, side: number) =>
  `/api/items/${line.itemId}/edit/image?of=${line.original!.sha256}&side=${side}`;

/** The one that is being framed by itself. */
const open = ref<FramingView>();
const frame = ref<Frame>();
const image = shallowRef<ImageBitmap>();
watch(open, async (line) => {
  image.value = undefined;
  if (!line) return;
  frame.value = frameOf(line);
  const answer = await fetch(source(line, 1200));
  if (!answer.ok) {
    fault.value = 'The image couldn’t be opened. Reload the page.';
    return;
  }
  const bitmap = await createImageBitmap(await answer.blob());
  if (open.value === line) image.value = bitmap;
});
void load();
function take() {
  own.value = new Map(own.value).set(open.value!.itemId, frame.value!);
  open.value = undefined;
}
function common(line: FramingView) {
  const next = new Map(own.value);
  next.delete(line.itemId);
  own.value = next;
  open.value = undefined;
}
/** Held to the shape of the others, where they have one. */
function whole() {
  const { width, height } = open.value!.original!;
  const { oriented } = geometry(recipeOf(open.value!), { width, height });
  const { beyond } = frame.value!;
  frame.value = {
    ...heldTo({ x: 0, y: 0, width: 1, height: 1 }, props.treatment.shape?.ratio, oriented),
    ...(beyond ? { beyond } : {}),
  };
}
</script>

<template>
  <div v-if="open" class="one">
    <p>
      <strong class="mono">{{ baseName(open.path) }}</strong>
      <span class="soft"> Drag the frame, or move it by the arrow keys. The others keep theirs.</span>
    </p>
    <div class="stage-room">
      <BenchStage
        :image="image"
        :recipe="recipeOf(open, frame)"
        :size="open.original!"
        tool="frame"
        @frame="frame = $event"
      />
    </div>
    <p class="acts">
      <AppButton look="main" @click="take">Use this frame</AppButton>
      <AppButton @click="whole">As much as fits</AppButton>
      <AppButton v-if="own.has(open.itemId)" @click="common(open)">Use the common frame</AppButton>
      <AppButton @click="open = undefined">Cancel</AppButton>
    </p>
  </div>
  <div v-else>
    <p class="head">
      <span role="status">
        <template v-if="lines.length < ids.length && !fault"
          >{{ lines.length }} of {{ count(ids.length, 'image') }} …</template
        >
        <template v-else-if="unsure"
          >{{ count(unsure, 'image') }} framed as a whole: look at {{ unsure === 1 ? 'it' : 'them' }}.
        </template>
        <template v-else>Choose an image to give it a frame of its own.</template>
      </span>
      <AppCheckbox v-if="lines.some((one) => one.subject)" v-model="boxes">Show what was found</AppCheckbox>
    </p>
    <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
    <ul class="set">
      <li v-for="line in lines" :key="line.itemId">
        <AppButton
          v-if="line.original"
          look="tile"
          class="cell"
          :aria-label="`Frame ${baseName(line.path)} by itself`"
          @click="open = line"
        >
          <span class="framed" :style="cell(line).box">
            <img :src="source(line, 480)" alt="" loading="lazy" :style="cell(line).image" />
            <i v-if="boxes && cell(line).subject" class="subject" :style="cell(line).subject!"></i>
          </span>
        </AppButton>
        <span class="mono name">{{ baseName(line.path) }}</span>
        <span v-if="own.has(line.itemId)" class="own">A frame of its own</span>
        <span v-else-if="line.why" class="soft">{{ line.why }}</span>
      </li>
    </ul>
  </div>
</template>

<style scoped>
.head {
  display: flex;
  align-items: baseline;
  justify-content: space-between;
  padding-bottom: 8px;
  gap: 16px;
}
.set {
  display: grid;
  padding: 0;
  gap: 14px 12px;
  grid-template-columns: repeat(auto-fill, minmax(150px, 1fr));
}
.set li {
  display: flex;
  min-width: 0;
  flex-direction: column;
  font-size: 12.5px;
}
.cell {
  width: 100%;
  padding: 0;
}
.framed {
  position: relative;
  display: block;
  width: 100%;
  border: 1px solid var(--rule-strong);
  overflow: hidden;
}
.framed img {
  position: absolute;
  max-width: none;
}
.subject {
  position: absolute;
  outline: 1px dashed var(--mark-edge);
  outline-offset: 0;
  box-shadow: inset 0 0 0 1px var(--mark);
}
.name {
  overflow: hidden;
  padding-top: 4px;
  text-overflow: ellipsis;
  white-space: nowrap;
}
.own {
  color: var(--verdigris);
  font-weight: 600;
}
.stage-room {
  display: flex;
  height: 58vh;
}
.acts {
  display: flex;
  padding-top: 10px;
  gap: 8px;
}
</style>
