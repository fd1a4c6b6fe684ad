<script setup lang="ts">
import { PhFile, PhFileText, PhFilmStrip, PhImage, PhSpeakerHigh } from '@phosphor-icons/vue';
import { computed, ref } from 'vue';
import { extensionOf } from '../../core/address/path.ts';

const props = defineProps<{ sha256: string; kind: string; name: string; size?: 320 | 1280; alt?: string }>();
const failed = ref(false);
const glyph = computed(
  () =>
    ({ image: PhImage, video: PhFilmStrip, audio: PhSpeakerHigh, document: PhFileText })[props.kind] ??
    PhFile,
);
</script>

<template>
  <img
    v-if="kind !== 'other' && !failed"
    :src="`/api/thumbnails/${size ?? 320}/${sha256}`"
    :alt="alt ?? ''"
    loading="lazy"
    decoding="async"
    draggable="false"
    @error="failed = true"
  />
  <span v-else class="sign">
    <component :is="glyph" :size="34" weight="light" aria-hidden="true" />
    <span class="mono">{{ extensionOf(name).slice(1) }}</span>
  </span>
</template>

<style scoped>
img {
  display: block;
  width: 100%;
  height: 100%;
  object-fit: contain;
  background: var(--paper-sunk);
}
.sign {
  display: flex;
  width: 100%;
  height: 100%;
  flex-direction: column;
  align-items: center;
  justify-content: center;
  gap: 4px;
  border: 1px solid var(--rule);
  background: var(--paper-raised);
  color: var(--ink-soft);
}
</style>
