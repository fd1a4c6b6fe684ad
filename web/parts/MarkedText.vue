<script setup lang="ts">
import { marked } from '../../core/find/marks.ts';

/** A text with what a search found in it. */
defineProps<{ text: string; words: readonly string[] }>();
</script>

<template>
  <template v-if="words.length === 0">{{ text }}</template>
  <template v-for="(piece, at) in marked(text, words)" v-else :key="at"
    ><mark v-if="piece.hit">{{ piece.text }}</mark
    ><template v-else>{{ piece.text }}</template></template
  >
</template>

<style scoped>
mark {
  background: var(--ochre-wash);
  color: inherit;
  text-decoration: underline;
  text-decoration-color: var(--ochre);
  text-underline-offset: 2px;
}
</style>
