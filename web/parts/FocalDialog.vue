<script setup lang="ts">
import { computed, ref } from 'vue';
import {
  coverCrop,
  positionOf,
  readFocal,
  SCREENS,
  writeFocal,
  type FocalPoint,
} from '../../core/picture/focal.ts';
import { usePlan } from '../stores/plan.ts';
import AppDialog from '../kit/AppDialog.vue';
import AppButton from '../kit/AppButton.vue';
import AppCheckbox from '../kit/AppCheckbox.vue';

/** What must be seen of an image, and what phone, tablet and wide screen make of it, side by side. */
const props = defineProps<{
  item: {
    id: number;
    name: string;
    sha256: string;
    width: number | null;
    height: number | null;
    focal: string;
  };
  /** Placements that can follow it: those that are shown in an `img`. */
  places: readonly { page: string; title: string; start: number; line: number; cropped?: boolean }[];
}>();
const emit = defineEmits<{ close: [] }>();
const plan = usePlan();
const open = computed({ get: () => true, set: () => emit('close') });
const point = ref<FocalPoint>(readFocal(props.item.focal) ?? { x: 0.5, y: 0.5 });
const chosen = ref(props.places.filter((one) => one.cropped).map((one) => `${one.page} ${one.start}`));
function choose(place: string, yes: boolean) {
  chosen.value = chosen.value.filter((one) => one !== place).concat(yes ? [place] : []);
}
const picture = ref<HTMLElement>();
const src = computed(() => `/api/thumbnails/1280/${props.item.sha256}`);

function put(event: PointerEvent) {
  if (event.type === 'pointermove' && event.buttons === 0) return;
  const rect = picture.value!.getBoundingClientRect();
  const part = (at: number) => Math.round(Math.min(1, Math.max(0, at)) * 100) / 100;
  point.value = {
    x: part((event.clientX - rect.left) / rect.width),
    y: part((event.clientY - rect.top) / rect.height),
  };
}
function onKey(event: KeyboardEvent) {
  const by = { ArrowLeft: [-1, 0], ArrowRight: [1, 0], ArrowUp: [0, -1], ArrowDown: [0, 1] }[event.key];
  if (!by) return;
  event.preventDefault();
  const step = event.shiftKey ? 0.1 : 0.01;
  const part = (at: number) => Math.round(Math.min(1, Math.max(0, at)) * 100) / 100;
  point.value = { x: part(point.value.x + by[0]! * step), y: part(point.value.y + by[1]! * step) };
}
/** How much of the image is seen in a shape. */
function seen(ratio: number): string {
  const { width, height } = props.item;
  if (!width || !height) return '';
  const crop = coverCrop({ width, height }, ratio, point.value);
  return `${Math.round((100 * crop.width * crop.height) / (width * height))} % of it is seen`;
}
async function show() {
  await plan.propose({
    kind: 'focal',
    itemId: props.item.id,
    focal: writeFocal(point.value),
    places: props.places
      .filter((one) => chosen.value.includes(`${one.page} ${one.start}`))
      .map(({ page, start }) => ({ page, start })),
  });
  emit('close');
}
</script>

<template>
  <AppDialog v-model="open" width="960px" top="5vh" :title="`Focal point of “${item.name}”`">
    <div class="two">
      <div>
        <p class="soft">Click the part that must stay visible, or use the arrow keys.</p>
        <div
          ref="picture"
          class="picture"
          role="slider"
          tabindex="0"
          aria-label="Focal point"
          aria-valuemin="0"
          aria-valuemax="100"
          :aria-valuenow="Math.round(point.x * 100)"
          :aria-valuetext="`${Math.round(point.x * 100)} % from the left, ${Math.round(point.y * 100)} % from the top`"
          @pointerdown="put"
          @pointermove="put"
          @keydown="onKey"
        >
          <img :src="src" alt="" draggable="false" />
          <span class="point" :style="{ left: `${point.x * 100}%`, top: `${point.y * 100}%` }"></span>
        </div>
        <p class="figures">
          {{ Math.round(point.x * 100) }} % from the left, {{ Math.round(point.y * 100) }} % from the top
          <AppButton look="link" @click="point = { x: 0.5, y: 0.5 }">Center</AppButton>
        </p>
      </div>
      <div class="crops">
        <figure v-for="screen in SCREENS" :key="screen.name">
          <img
            :src="src"
            alt=""
            :style="{
              height: `${screen.ratio < 1 ? 190 : 130}px`,
              aspectRatio: String(screen.ratio),
              objectPosition: positionOf(point),
            }"
          />
          <figcaption>
            {{ screen.name }} <span class="soft figures">{{ seen(screen.ratio) }}</span>
          </figcaption>
        </figure>
      </div>
    </div>
    <fieldset v-if="places.length">
      <legend>Apply on these pages, as <span class="mono">object-position</span></legend>
      <AppCheckbox
        v-for="one in places.slice(0, 40)"
        :key="`${one.page} ${one.start}`"
        :model-value="chosen.includes(`${one.page} ${one.start}`)"
        @change="choose(`${one.page} ${one.start}`, $event)"
      >
        {{ one.title }}
        <span class="soft">line {{ one.line }}{{ one.cropped ? ', cropped there' : '' }}</span>
      </AppCheckbox>
    </fieldset>
    <template #footer>
      <AppButton look="main" :disabled="plan.busy" @click="show">Review changes</AppButton>
      <AppButton @click="emit('close')">Cancel</AppButton>
    </template>
  </AppDialog>
</template>

<style scoped>
.two {
  display: grid;
  grid-template-columns: minmax(0, 1fr) minmax(0, 1.1fr);
  gap: 20px;
}
.picture {
  position: relative;
  display: inline-block;
  cursor: crosshair;
  touch-action: none;
}
.picture img {
  display: block;
  max-width: 100%;
  max-height: 46vh;
  user-select: none;
}
.point {
  position: absolute;
  width: 26px;
  height: 26px;
  margin: -13px;
  border: 3px solid #fff;
  border-radius: 50%;
  outline: 2px solid #000;
  pointer-events: none;
}
.crops {
  display: flex;
  flex-wrap: wrap;
  align-content: flex-start;
  gap: 14px;
}
.crops figure {
  margin: 0;
}
.crops img {
  display: block;
  max-width: 100%;
  object-fit: cover;
}
fieldset {
  display: grid;
  max-height: 150px;
  margin: 10px 0 0;
  padding: 6px 10px;
  border: 1px solid var(--rule);
  overflow: auto;
}
</style>
