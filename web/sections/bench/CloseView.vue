<script setup lang="ts">
import { watchDebounced } from '@vueuse/core';
import { onUnmounted, ref } from 'vue';
import type { Recipe } from '../../../core/picture/recipe/recipe.ts';
import { sentenceOf } from '../../api/client.ts';
import type { Workpiece } from './workpiece.ts';

/** The very file that would be saved, each of its pixels one on the screen: what an encoder has done is seen nowhere else. */
const props = defineProps<{ piece: Workpiece; recipe: Recipe }>();
const address = ref('');
const fault = ref('');
let asked: AbortController | undefined;
watchDebounced(
  () => props.recipe,
  async (recipe) => {
    asked?.abort();
    const mine = (asked = new AbortController());
    try {
      const bytes = await props.piece.made(recipe, mine.signal);
      URL.revokeObjectURL(address.value);
      address.value = URL.createObjectURL(bytes);
      fault.value = '';
    } catch (error) {
      if (!mine.signal.aborted) fault.value = sentenceOf(error);
    }
  },
  { debounce: 300, immediate: true },
);
onUnmounted(() => {
  asked?.abort();
  URL.revokeObjectURL(address.value);
});
</script>

<template>
  <div class="close" tabindex="0" role="region" aria-label="The result pixel by pixel. Arrow keys move it.">
    <img v-if="address" :src="address" alt="The image as it would be saved" />
    <p v-else-if="fault" class="note losing" role="alert">{{ fault }}</p>
    <p v-else class="soft">Encoding …</p>
  </div>
</template>

<style scoped>
.close {
  min-width: 0;
  flex: 1;
  background: var(--paper-sunk);
  overflow: auto;
}
img {
  display: block;
  max-width: none;
  margin: auto;
}
p {
  padding: 16px;
}
</style>
