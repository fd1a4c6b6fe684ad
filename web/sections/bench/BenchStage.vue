<script setup lang="ts">
import { useElementSize } from '@vueuse/core';
import { computed, ref, useTemplateRef, watchEffect } from 'vue';
import { drawn, inPixels, levelling, moved, type Grip } from '../../../core/picture/recipe/frame.ts';
import { geometry, unsized, type Extent } from '../../../core/picture/recipe/geometry.ts';
import type { Cover, Frame, Recipe } from '../../../core/picture/recipe/recipe.ts';
import { followPointer } from '../../kit/pointer.ts';
import { drawBlurred, drawSplit } from './canvases.ts';
import { usePreview } from './preview.ts';

/** The image as its recipe makes it, with the frame over it: moved and drawn by the pointer or the arrow keys. */
const props = defineProps<{
  image: ImageBitmap | undefined;
  recipe: Recipe;
  /** Of the original, upright. */
  size: Extent;
  /** What the pointer does: draw the frame, a line that is to be level, or a part to cover. */
  tool: 'frame' | 'level' | 'cover' | 'none';
  /** Before and after beside each other, by a divider. */
  compare?: boolean;
  clipping?: boolean;
  /** Text is to stand on it. */
  reading?: boolean;
}>();
const emit = defineEmits<{
  frame: [frame: Frame];
  straighten: [degrees: number];
  cover: [part: Pick<Cover, 'x' | 'y' | 'width' | 'height'>];
}>();

const room = useTemplateRef('room');
const { width: roomWide, height: roomHigh } = useElementSize(room);
const shape = computed(() => geometry(unsized(props.recipe), props.size));
const oriented = computed(() => shape.value.oriented);
/** The frame as it is, also where the recipe has none of its own. */
const frame = computed<Frame>(() => {
  if (props.recipe.frame) return props.recipe.frame;
  const { x, y, width, height } = shape.value.frame;
  const { width: wide, height: high } = oriented.value;
  return { x: x / wide, y: y / high, width: width / wide, height: height / high };
});
/** CSS pixels for each of the oriented original; what the frame holds beyond the image is in sight too. */
const scale = computed(() => {
  const { x, y, width, height } = frame.value;
  const wide = (Math.max(1, x + width) - Math.min(0, x)) * oriented.value.width;
  const high = (Math.max(1, y + height) - Math.min(0, y)) * oriented.value.height;
  return Math.max(0, Math.min((roomWide.value - 56) / wide, (roomHigh.value - 56) / high, 4));
});
const origin = computed(() => {
  const { x, y, width, height } = frame.value;
  const [left, right] = [Math.min(0, x), Math.max(1, x + width)];
  const [top, bottom] = [Math.min(0, y), Math.max(1, y + height)];
  const { width: wide, height: high } = oriented.value;
  return {
    x: roomWide.value / 2 - ((left + right) / 2) * wide * scale.value,
    y: roomHigh.value / 2 - ((top + bottom) / 2) * high * scale.value,
  };
});

/** The image that is worked on is smaller than the original; it is drawn as large as it is shown. */
const share = computed(() => (props.image ? props.image.width / props.size.width : 1));
const density = Math.min(2, window.devicePixelRatio || 1);
const drawScale = computed(() => (share.value > 0 ? Math.min(1, (scale.value * density) / share.value) : 0));
const image = computed(() => props.image);
const recipe = computed(() => props.recipe);
const looks = computed(() => ({
  compare: props.compare === true,
  clipping: props.clipping === true,
  cells: props.reading === true,
}));
const { bitmap, drawnAt, histogram, levels, plain, cells, edge } = usePreview(
  image,
  recipe,
  drawScale,
  looks,
);
defineExpose({ histogram, levels, cells });
/** Where the image after begins, in parts of the stage's width. */
const divider = ref(0.5);
function divide(event: PointerEvent) {
  const room = (event.currentTarget as HTMLElement).parentElement!.getBoundingClientRect();
  event.preventDefault();
  (event.currentTarget as HTMLElement).focus();
  followPointer((to) => (divider.value = held((to.clientX - room.left) / room.width)));
}
const held = (part: number) => Math.min(0.98, Math.max(0.02, part));
function divideBy(event: KeyboardEvent) {
  const way = { ArrowLeft: -1, ArrowRight: 1 }[event.key];
  if (!way) return;
  event.preventDefault();
  event.stopPropagation();
  divider.value = held(divider.value + way * (event.shiftKey ? 0.1 : 0.01));
}
const canvas = useTemplateRef('canvas');
watchEffect(
  () => {
    const [one, into] = [bitmap.value, canvas.value];
    if (!one || !into || !canvasBox.value) return;
    const { left, width } = canvasBox.value;
    const column = Math.round(((divider.value * roomWide.value - left) / width) * one.width);
    drawSplit(into, one, props.compare ? plain.value : undefined, column);
  },
  { flush: 'post' },
);
/** What fills the frame beyond the image, when that is the image itself: as large as the frame, and out of focus. */
const blurred = useTemplateRef('blurred');
watchEffect(
  () => {
    const [one, into] = [bitmap.value, blurred.value];
    const box = canvasBox.value;
    if (!one || !into || !box) return;
    const { width: wide, height: high } = oriented.value;
    const { width, height } = frame.value;
    drawBlurred(into, one, box, {
      width: width * wide * scale.value,
      height: height * high * scale.value,
    });
  },
  { flush: 'post' },
);
const canvasBox = computed(() => {
  const one = bitmap.value;
  if (!one || drawnAt.value === 0) return undefined;
  const css = scale.value / (drawnAt.value * share.value);
  const [wide, high] = [one.width * css, one.height * css];
  return {
    width: wide,
    height: high,
    left: origin.value.x + (oriented.value.width * scale.value - wide) / 2,
    top: origin.value.y + (oriented.value.height * scale.value - high) / 2,
  };
});
const canvasStyle = computed(() => {
  const box = canvasBox.value;
  if (!box) return { display: 'none' };
  return Object.fromEntries(Object.entries(box).map(([side, pixels]) => [side, `${pixels}px`]));
});
const boxStyle = (box: { x: number; y: number; width: number; height: number }) => ({
  left: `${origin.value.x + box.x * oriented.value.width * scale.value}px`,
  top: `${origin.value.y + box.y * oriented.value.height * scale.value}px`,
  width: `${box.width * oriented.value.width * scale.value}px`,
  height: `${box.height * oriented.value.height * scale.value}px`,
});
const ground = computed(() => {
  const beyond = props.recipe.frame?.beyond;
  if (!beyond || beyond.fill === 'colour')
    return { background: beyond?.fill === 'colour' ? beyond.colour : '#ffffff' };
  return beyond.fill === 'edge' && edge.value ? { background: edge.value } : {};
});

const GRIPS: (Grip & { name: string })[] = [
  { x: -1, y: -1, name: 'left upper corner' },
  { x: 0, y: -1, name: 'upper edge' },
  { x: 1, y: -1, name: 'right upper corner' },
  { x: 1, y: 0, name: 'right edge' },
  { x: 1, y: 1, name: 'right lower corner' },
  { x: 0, y: 1, name: 'lower edge' },
  { x: -1, y: 1, name: 'left lower corner' },
  { x: -1, y: 0, name: 'left edge' },
];
function drag(event: PointerEvent, change: (start: Frame, by: { x: number; y: number }) => Frame) {
  if (props.tool !== 'frame' || event.button !== 0) return;
  event.preventDefault();
  (event.currentTarget as HTMLElement).focus();
  const start = frame.value;
  const [x, y, at] = [event.clientX, event.clientY, scale.value];
  followPointer((to) => emit('frame', change(start, { x: (to.clientX - x) / at, y: (to.clientY - y) / at })));
}
const ARROWS: Record<string, [number, number]> = {
  ArrowLeft: [-1, 0],
  ArrowRight: [1, 0],
  ArrowUp: [0, -1],
  ArrowDown: [0, 1],
};
function nudge(event: KeyboardEvent, change: (start: Frame, by: { x: number; y: number }) => Frame) {
  const way = ARROWS[event.key];
  if (!way || event.ctrlKey || event.metaKey || event.altKey) return;
  event.preventDefault();
  const far = event.shiftKey ? 10 : 1;
  emit('frame', change(frame.value, { x: way[0] * far, y: way[1] * far }));
}
const move = (start: Frame, by: { x: number; y: number }) => moved(start, by, oriented.value);
const pull = (grip: Grip) => (start: Frame, by: { x: number; y: number }) =>
  drawn(start, grip, by, oriented.value);

/** What is drawn over the image with the other tools, in CSS pixels of the room. */
const line = ref<{ from: { x: number; y: number }; to: { x: number; y: number } }>();
function draw(event: PointerEvent) {
  if (props.tool === 'frame' || props.tool === 'none' || event.button !== 0) return;
  event.preventDefault();
  const edge = room.value!.getBoundingClientRect();
  const at = (one: PointerEvent) => ({ x: one.clientX - edge.left, y: one.clientY - edge.top });
  line.value = { from: at(event), to: at(event) };
  followPointer(
    (to) => (line.value = { from: line.value!.from, to: at(to) }),
    () => {
      const { from, to } = line.value!;
      line.value = undefined;
      if (Math.hypot(to.x - from.x, to.y - from.y) < 12) return;
      if (props.tool === 'level') {
        const degrees = (props.recipe.orient?.straighten ?? 0) + levelling({ from, to });
        emit('straighten', Math.round(10 * Math.min(45, Math.max(-45, degrees))) / 10);
      } else {
        const [wide, high] = [oriented.value.width * scale.value, oriented.value.height * scale.value];
        emit('cover', {
          x: (Math.min(from.x, to.x) - origin.value.x) / wide,
          y: (Math.min(from.y, to.y) - origin.value.y) / high,
          width: Math.abs(to.x - from.x) / wide,
          height: Math.abs(to.y - from.y) / high,
        });
      }
    },
  );
}
const framePixels = computed(() => inPixels(frame.value, oriented.value));
</script>

<template>
  <div ref="room" class="stage" :class="tool" @pointerdown="draw">
    <div
      v-if="shape.beyond"
      class="ground"
      :class="recipe.frame?.beyond?.fill ?? 'colour'"
      :style="{ ...boxStyle(frame), ...ground }"
    >
      <canvas v-if="recipe.frame?.beyond?.fill === 'blur'" ref="blurred" aria-hidden="true"></canvas>
    </div>
    <canvas ref="canvas" :style="canvasStyle" aria-label="The image as it is edited" role="img"></canvas>
    <div
      v-if="image && tool !== 'none'"
      class="framed"
      role="group"
      tabindex="0"
      :aria-label="`Frame: ${framePixels.width} by ${framePixels.height} pixels. Arrow keys move it, Shift moves it by 10.`"
      :style="boxStyle(frame)"
      @pointerdown="drag($event, move)"
      @keydown.self="nudge($event, move)"
    >
      <template v-if="tool === 'frame'">
        <i class="third down" style="left: 33.333%"></i><i class="third down" style="left: 66.667%"></i
        ><i class="third across" style="top: 33.333%"></i><i class="third across" style="top: 66.667%"></i>
        <span
          v-for="grip in GRIPS"
          :key="grip.name"
          class="grip"
          role="button"
          tabindex="0"
          :aria-label="`Frame: ${grip.name}. Arrow keys move it.`"
          :style="{ left: `${50 + 50 * grip.x}%`, top: `${50 + 50 * grip.y}%` }"
          @pointerdown.stop="drag($event, pull(grip))"
          @keydown="nudge($event, pull(grip))"
        ></span>
      </template>
    </div>
    <div
      v-if="compare && canvasBox"
      class="divider"
      role="slider"
      tabindex="0"
      aria-label="Divider between the image before and after"
      aria-valuemin="2"
      aria-valuemax="98"
      :aria-valuenow="Math.round(100 * divider)"
      :style="{ left: `${100 * divider}%` }"
      @pointerdown.stop="divide"
      @keydown="divideBy"
    >
      <span class="before">Before</span><span class="after">After</span>
    </div>
    <svg v-if="line" class="line" aria-hidden="true">
      <line v-if="tool === 'level'" :x1="line.from.x" :y1="line.from.y" :x2="line.to.x" :y2="line.to.y" />
      <rect
        v-else
        :x="Math.min(line.from.x, line.to.x)"
        :y="Math.min(line.from.y, line.to.y)"
        :width="Math.abs(line.to.x - line.from.x)"
        :height="Math.abs(line.to.y - line.from.y)"
      />
    </svg>
  </div>
</template>

<style scoped>
.stage {
  position: relative;
  min-width: 0;
  min-height: 0;
  flex: 1;
  background: var(--paper-sunk);
  overflow: hidden;
  touch-action: none;
}
.stage.level,
.stage.cover {
  cursor: crosshair;
}
canvas,
.ground,
.framed,
.line {
  position: absolute;
}
.ground {
  overflow: hidden;
}
.ground canvas {
  width: 100%;
  height: 100%;
}
/* Nothing: a chequered ground is seen through. */
.ground.none {
  background: repeating-conic-gradient(#d7d7d7 0 25%, #ffffff 0 50%) 0 0 / 20px 20px;
}
.divider {
  position: absolute;
  z-index: 1;
  top: 0;
  bottom: 0;
  width: 24px;
  margin-left: -12px;
  cursor: ew-resize;
}
.divider::before {
  position: absolute;
  top: 0;
  bottom: 0;
  left: 11px;
  width: 2px;
  background: var(--mark);
  box-shadow: 0 0 0 1px var(--mark-edge);
  content: '';
}
.divider span {
  position: absolute;
  top: 8px;
  padding: 1px 8px;
  background: var(--mark);
  color: #1c1a16;
  font-size: 12.5px;
  pointer-events: none;
}
.before {
  right: 16px;
}
.after {
  left: 16px;
}
/* What is cut away stays in sight, but behind a veil. */
.framed {
  box-shadow:
    0 0 0 1px var(--mark-edge),
    0 0 0 2px var(--mark),
    0 0 0 6000px rgb(0 0 0 / 0.55);
  cursor: move;
  outline-offset: 4px;
}
.level .framed,
.cover .framed {
  cursor: crosshair;
  pointer-events: none;
}
.third {
  position: absolute;
  background: rgb(255 255 255 / 0.35);
  pointer-events: none;
}
.third.down {
  top: 0;
  bottom: 0;
  width: 1px;
}
.third.across {
  right: 0;
  left: 0;
  height: 1px;
}
.grip {
  position: absolute;
  width: 24px;
  height: 24px;
  margin: -12px;
  cursor: grab;
}
.grip::before {
  position: absolute;
  inset: 7px;
  border: 1px solid var(--mark-edge);
  background: var(--mark);
  content: '';
}
.grip:focus-visible {
  outline: 2px solid var(--mark);
}
.line {
  inset: 0;
  width: 100%;
  height: 100%;
  pointer-events: none;
}
.line line,
.line rect {
  fill: rgb(255 215 106 / 0.2);
  stroke: var(--mark);
  stroke-width: 2;
}
</style>
