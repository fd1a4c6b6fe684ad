<script setup lang="ts">
import AppTour from '../kit/AppTour.vue';
import { useOneColumn } from '../kit/screen.ts';

/** What a person who is here for the first time has to know: five things. */
const emit = defineEmits<{ end: [] }>();
const oneColumn = useOneColumn();
const at = (section: string) => `.rail a[href='/${section}']`;
const STEPS = [
  {
    target: at('intake'),
    title: 'Bring files in',
    text: 'Drop files or folders anywhere in the window. Each is checked and compared with what the site has; nothing goes on the site until you say so.',
  },
  {
    target: at('library'),
    title: 'Find and collect',
    text: 'The Library holds every item of the site. Click one to open its record; tick several to collect them in the tray, then tag, rename or move them together.',
  },
  {
    target: at('describe'),
    title: 'Describe',
    text: 'Alt text and metadata, one item after the other, with suggestions from the pages that use it. Everything is saved as you go.',
  },
  {
    target: at('upkeep'),
    title: 'Keep it clean',
    text: 'Upkeep finds what is unused, duplicated, too heavy, poorly named or broken, and offers a remedy for each.',
  },
  {
    target: at('ledger'),
    title: 'Undo anything',
    text: 'You review every change before it happens, and references in pages are updated with it. The Ledger lists all changes; each can be undone to the byte.',
  },
];
</script>

<template>
  <AppTour :steps="STEPS" :placement="oneColumn ? 'top' : 'right'" @end="emit('end')" />
</template>
