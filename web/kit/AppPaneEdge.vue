<script setup lang="ts">
import { inject } from 'vue';
import { PANE_EDGE } from './panes.ts';

/** The edge of a pane, for keys; the pointer has the library’s own. Stands within the landmark that the pane holds. */
const edge = inject(PANE_EDGE, undefined);
</script>

<template>
  <div
    v-if="edge"
    class="pane-edge"
    :class="edge.side"
    role="separator"
    aria-orientation="vertical"
    tabindex="0"
    :title="edge.label"
    :aria-label="edge.label"
    :aria-valuenow="edge.size"
    :aria-valuemin="edge.min"
    :aria-valuemax="edge.max"
    @keydown="edge.onKey"
  ></div>
</template>
