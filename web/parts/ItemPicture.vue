<script lang="ts">
import { thumbHashToDataURL } from 'thumbhash';

/** Drawing a placeholder takes longer than anything else of a card: the latest are kept. */
const kept = new Map<string, string>();
function drawn(placeholder: string): string {
  let url = kept.get(placeholder);
  if (url === undefined) {
    url = thumbHashToDataURL(Uint8Array.from(atob(placeholder), (letter) => letter.charCodeAt(0)));
    if (kept.size >= 500) kept.delete(kept.keys().next().value!);
    kept.set(placeholder, url);
  }
  return url;
}
</script>
<script setup lang="ts">
import { PhFile, PhFileText, PhFilmStrip, PhImage, PhSpeakerHigh } from '@phosphor-icons/vue';
import { computed, ref, watch } from 'vue';
import { extensionOf } from '../../core/address/path.ts';

const props = defineProps<{
  sha256: string;
  kind: string;
  name: string;
  /** ThumbHash, base64: shown until the image has come. */
  placeholder?: string | null;
  size?: 320 | 1280;
  alt?: string;
}>();
const failed = ref(false);
const loaded = ref(false);
watch(
  () => props.sha256,
  () => (failed.value = loaded.value = false),
);
/** Of what has come nothing shines through: transparent parts stay paper. */
const blur = computed(() => {
  if (!props.placeholder || loaded.value) return {};
  return { backgroundImage: `url(${drawn(props.placeholder)})` };
});
const glyph = computed(
  () =>
    ({ image: PhImage, video: PhFilmStrip, audio: PhSpeakerHigh, document: PhFileText })[props.kind] ??
    PhFile,
);
</script>

<template>
  <img
    v-if="kind !== 'other' && !failed && !(kind === 'document' && placeholder === null)"
    :src="`/api/thumbnails/${size ?? 320}/${sha256}`"
    :alt="alt ?? ''"
    loading="lazy"
    decoding="async"
    draggable="false"
    :style="blur"
    @load="loaded = true"
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
  background: var(--paper-sunk) center / contain no-repeat;
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
