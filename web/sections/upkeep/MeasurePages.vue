<script setup lang="ts">
import { useEventListener } from '@vueuse/core';
import { computed, onUnmounted, ref, watch } from 'vue';
import type { ToMeasure } from '../../../api/upkeep.ts';
import { api, sentenceOf } from '../../api/client.ts';
import { count } from '../../parts/words.ts';
import { useSite } from '../../stores/site.ts';
import { shownWidth, type LookMessage, type Measured } from '../pages/look.ts';
import AppButton from '../../kit/AppButton.vue';

/** Pages are drawn one after the other, at the widths of screens, and how large they show their images is kept. */
const emit = defineEmits<{ done: [] }>();

/** In CSS pixels; the widest first: there most images are largest. */
const WINDOWS = [1920, 1024, 390];
const HEIGHT = 1080;
/** The page in small, as it is drawn. */
const SCALE = 1 / 8;
/** A page that takes longer is left out. */
const PATIENCE = 15_000;

const site = useSite();
const left = ref<ToMeasure>();
const fault = ref('');
const at = ref(-1);
const width = ref(WINDOWS[0]!);
const missed = ref<string[]>([]);
const running = computed(() => at.value >= 0);
const page = computed(() => left.value?.pages[at.value]);
const frame = ref<HTMLIFrameElement>();
let stopped = false;

async function load() {
  try {
    left.value = await api.toMeasure();
  } catch (error) {
    fault.value = sentenceOf(error);
  }
}
watch(
  () => site.revision,
  () => running.value || load(),
  { immediate: true },
);

let heard: (message: LookMessage) => void = () => undefined;
function hear(event: MessageEvent<{ iconomos?: LookMessage }>) {
  const message = event.source === frame.value?.contentWindow ? event.data.iconomos : undefined;
  if (message) heard(message);
}
useEventListener('message', hear);
onUnmounted(() => (stopped = true));

/** What the page says once all of it is there and it is drawn in that width; undefined: it never does. */
function measuredAt(wanted: number): Promise<Measured[] | undefined> {
  width.value = wanted;
  return new Promise((done) => {
    const timer = setTimeout(() => done(undefined), PATIENCE);
    heard = ({ measured, window: wide, complete }) => {
      if (!measured || !complete || wide !== wanted) return;
      clearTimeout(timer);
      done(measured);
    };
  });
}

async function measure() {
  stopped = false;
  missed.value = [];
  fault.value = '';
  try {
    for (const [index, one] of left.value!.pages.entries()) {
      at.value = index;
      const widest = new Map<number, number>();
      let whole = true;
      for (const window of WINDOWS) {
        const boxes = await measuredAt(window);
        if (stopped) return;
        if (!boxes) {
          whole = false;
          break;
        }
        for (const box of boxes)
          for (const start of box.starts)
            widest.set(start, Math.max(widest.get(start) ?? 0, shownWidth(box)));
      }
      if (!whole) missed.value.push(one.title || one.path);
      else
        await api.measured(
          one.path,
          [...widest].filter(([, wide]) => wide > 0).map(([start, wide]) => ({ start, wide })),
        );
    }
  } catch (error) {
    fault.value = sentenceOf(error);
  } finally {
    at.value = -1;
    await load();
    emit('done');
  }
}
function stop() {
  stopped = true;
  heard = () => undefined;
  at.value = -1;
  void load().then(() => emit('done'));
}
</script>

<template>
  <div v-if="left" class="measure">
    <template v-if="running && page">
      <div class="small" :style="{ width: `${WINDOWS[0]! * SCALE}px`, height: `${HEIGHT * SCALE}px` }">
        <iframe
          ref="frame"
          :key="page.path"
          :src="page.look"
          title="The page that is measured"
          tabindex="-1"
          sandbox="allow-scripts"
          :style="{ width: `${width}px`, height: `${HEIGHT}px`, transform: `scale(${SCALE})` }"
        ></iframe>
      </div>
      <p role="status" class="figures">
        Measuring “{{ page.title || page.path }}”, {{ at + 1 }} of {{ count(left.pages.length, 'page') }}, on
        a screen {{ width }} wide.
        <AppButton look="link" @click="stop">Stop</AppButton>
      </p>
    </template>
    <p v-else class="figures">
      <template v-if="left.pages.length === 0 && left.measured > 0">
        Widths are measured on {{ count(left.measured, 'page') }}, on screens of
        {{ WINDOWS.join(', ') }} pixels.
      </template>
      <template v-else-if="left.pages.length > 0">
        {{ left.measured > 0 ? `${count(left.measured, 'page')} measured.` : '' }} For
        {{ count(left.pages.length, 'page') }} only the widths written in
        {{ left.pages.length === 1 ? 'it' : 'them' }} are known; where none is written, 1920 pixels are taken.
        <AppButton look="link" @click="measure">Measure on the pages</AppButton>
      </template>
    </p>
    <p v-if="missed.length" class="note">
      Could not be measured, as they were not drawn in time: {{ missed.slice(0, 5).join(', ')
      }}{{ missed.length > 5 ? ` and ${missed.length - 5} more` : '' }}.
    </p>
    <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
  </div>
</template>

<style scoped>
.measure {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 4px 14px;
  margin-bottom: 8px;
}
.measure p {
  margin: 0;
}
.small {
  overflow: hidden;
  border: 1px solid var(--rule-strong);
  background: #fff;
}
iframe {
  border: 0;
  transform-origin: 0 0;
}
</style>
