<script setup lang="ts">
import { computed } from 'vue';

/** A path or a name that breaks behind slashes, dots and low lines (hyphens break by themselves), within a word only when it must. */
const props = defineProps<{ path: string }>();
const parts = computed(() => props.path.split(/(?<=[/_.])(?=.)/));
</script>

<template>
  <span class="path-text"
    ><template v-for="(part, at) in parts" :key="at"><wbr v-if="at" />{{ part }}</template></span
  >
</template>

<style scoped>
.path-text {
  overflow-wrap: anywhere;
}
</style>
