<script setup lang="ts">
import { useElementSize, useEventListener, useLocalStorage } from '@vueuse/core';
import { computed, ref, watch } from 'vue';
import { count } from '../../parts/words.ts';
import { DEVICES, type LookMessage, type Measured } from './look.ts';
import AppButton from '../../kit/AppButton.vue';
import AppSegmented from '../../kit/AppSegmented.vue';

/** A page as it is served, without its scripts, its placements outlined; in the width of a phone, a tablet or a wide screen. */
const props = defineProps<{
  src: string;
  title: string;
  chosen: number | undefined;
  /** What a spot is chosen for: between the blocks, or behind one. */
  placing: false | 'item' | 'background';
}>();
const emit = defineEmits<{
  choose: [at: number];
  spot: [spot: NonNullable<LookMessage['spot']>];
  measured: [measured: Measured[]];
  key: [key: string];
}>();

const frame = ref<HTMLIFrameElement>();
/** What of the page lies on other hosts, and whether that is loaded: only once a person wants it, and on this page alone. */
const elsewhere = ref(0);
const loadsElsewhere = ref(false);
const address = computed(() => (loadsElsewhere.value ? `${props.src}&others=1` : props.src));
watch(
  () => props.title,
  () => (loadsElsewhere.value = false),
);
const room = ref<HTMLElement>();
const { width, height } = useElementSize(room);
const deviceName = useLocalStorage('iconomos.look-width', DEVICES[1].name);
const device = computed({
  get: () => DEVICES.find((one) => one.name === deviceName.value) ?? DEVICES[1],
  set: (one) => (deviceName.value = one.name),
});
/** The page is drawn in its full width and made smaller to fit. */
const scale = computed(() => (width.value === 0 ? 1 : Math.min(1, width.value / device.value.width)));

const tell = (message: object) => frame.value?.contentWindow?.postMessage({ iconomos: message }, '*');
function heard(event: MessageEvent<{ iconomos?: LookMessage }>) {
  if (event.source !== frame.value?.contentWindow) return;
  const message = event.data.iconomos;
  if (!message) return;
  if (message.ready) {
    elsewhere.value = Number(message.others ?? 0);
    tell({ placing: props.placing });
    if (props.chosen !== undefined) tell({ choose: props.chosen });
  }
  if (message.chose !== undefined) emit('choose', message.chose);
  if (message.spot) emit('spot', message.spot);
  if (message.measured) emit('measured', message.measured);
  if (typeof message.key === 'string') emit('key', message.key);
}
useEventListener('message', heard);
watch(
  () => props.chosen,
  (start) => start !== undefined && tell({ choose: start }),
);
watch(
  () => props.placing,
  (placing) => tell({ placing }),
);
</script>

<template>
  <div class="look">
    <div class="widths">
      <AppSegmented
        :model-value="device.name"
        label="Width of the screen"
        :options="DEVICES.map((one) => ({ value: one.name, label: one.name, count: one.width }))"
        @update:model-value="(name) => (device = DEVICES.find((one) => one.name === name)!)"
      />
      <slot></slot>
    </div>
    <p v-if="elsewhere > 0" class="elsewhere">
      {{ count(elsewhere, 'file') }} of this page {{ elsewhere === 1 ? 'lies' : 'lie' }} on other hosts
      <template v-if="loadsElsewhere">and {{ elsewhere === 1 ? 'is' : 'are' }} loaded from there.</template>
      <template v-else>and {{ elsewhere === 1 ? 'is' : 'are' }} not loaded.</template>
      <AppButton @click="loadsElsewhere = !loadsElsewhere"
        >{{ loadsElsewhere ? 'Stop loading' : 'Load from other hosts' }}
      </AppButton>
    </p>
    <div ref="room" class="room">
      <iframe
        ref="frame"
        :key="address"
        :src="address"
        :title="title"
        sandbox="allow-scripts"
        :style="{
          width: `${device.width}px`,
          height: `${height / scale}px`,
          transform: `scale(${scale})`,
        }"
      ></iframe>
    </div>
  </div>
</template>

<style scoped>
.look {
  display: flex;
  flex-direction: column;
  min-width: 0;
  min-height: 0;
  height: 100%;
}
.widths {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  gap: 6px;
  padding: 8px 12px;
  border-bottom: 1px solid var(--rule);
}
.widths button[aria-pressed] {
  min-height: 26px;
  padding: 1px 10px;
  border: 1px solid var(--rule-strong);
  border-radius: 2px;
  background: none;
  color: var(--ink);
  font: inherit;
  cursor: pointer;
}
.widths button[aria-pressed='true'] {
  border-color: var(--verdigris);
  background: var(--verdigris-wash);
}
.elsewhere {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  padding: 4px 12px;
  gap: 10px;
  border-bottom: 1px solid var(--rule);
}
.room {
  position: relative;
  min-height: 0;
  flex: 1;
  overflow: hidden;
  background: var(--paper-sunk);
}
iframe {
  display: block;
  border: 0;
  background: #fff;
  transform-origin: 0 0;
}
@media (width < 1440px) {
  .wide {
    display: none;
  }
}
</style>
