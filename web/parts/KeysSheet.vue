<script setup lang="ts">
import { useEventListener } from '@vueuse/core';
import AppDialog from '../kit/AppDialog.vue';
import { computed, ref } from 'vue';
import { useRoute } from 'vue-router';
import { lotOfOne, offered, type OfferedAct } from './tray-acts.ts';

const open = ref(false);
const route = useRoute();
type Keys = [string, string][];
const act = ({ key, words }: OfferedAct): [string, string] => [key, words.replace(' …', '').toLowerCase()];
const anyone = () => true;
const one = offered(lotOfOne('here'), anyone);
const KEYS: Record<string, [string, Keys][]> = {
  library: [
    [
      'Move around',
      [
        ['← → ↑ ↓', 'Previous or next item; in the table, previous or next row'],
        ['Page up, Page down', 'One screen up or down'],
        ['Home, End', 'First or last item'],
        ['Enter', 'Open the record; in the table, save the cell and go to the next'],
        ['L', 'Look closer (or double-click)'],
        ['B', 'Edit the image'],
        ['Space', 'Add to tray, or remove'],
        ['Shift + arrows', 'Add the next items to the tray'],
        ['Escape', 'Close the record'],
      ],
    ],
    [
      'With the tray, or the current item if the tray is empty',
      [
        ...[...one.first, ...one.more, offered({ size: 2, aside: 0, drafts: 0 }, anyone).first[0]!].map(act),
        ['R', 'Restore (set-aside items)'],
      ],
    ],
    [
      'Folders',
      [
        ['Ctrl + X, Ctrl + C', 'Cut or copy the tray, the current item or the current folder'],
        ['Ctrl + V', 'Paste into the current folder'],
      ],
    ],
    [
      'With a record open',
      [
        ['A', 'Copy the address'],
        ['B', 'Edit the image'],
        ['N', 'Move or rename'],
      ],
    ],
  ],
  pages: [
    [
      'In the list',
      [
        ['↑ ↓, Home, End', 'Previous or next page'],
        ['Enter', 'Open the page'],
      ],
    ],
    [
      'With a page open',
      [
        ['J, K', 'Next or previous placement'],
        ['P', 'Place an item (Tab moves between spots)'],
        ['G', 'Place a gallery'],
        ['H', 'Set a background'],
        ['B', 'Edit the image of the selected placement'],
        ['E', 'Edit the selected placement'],
        ['Escape', 'Cancel, or close the page'],
      ],
    ],
  ],
  edit: [
    [
      'On the frame or one of its corners (Tab moves between them)',
      [
        ['Arrows', 'Move by 1 pixel'],
        ['Shift + arrows', 'Move by 10 pixels'],
      ],
    ],
    [
      'Anywhere',
      [
        ['V (held)', 'Show the original'],
        ['C', 'Compare before and after'],
        ['1', 'Look at the result pixel by pixel'],
        ['Ctrl + Z, Ctrl + Y', 'Undo, redo'],
        ['Ctrl + Enter', 'Save'],
      ],
    ],
  ],
  document: [
    [
      '',
      [
        ['Ctrl + S', 'Save the document'],
        ['Ctrl + F', 'Find and replace'],
      ],
    ],
  ],
  intake: [['On a line of the list', [['B', 'Edit the image']]]],
  upkeep: [['On a line of a queue', [['B', 'Edit the image']]]],
  describe: [
    [
      '',
      [
        ['Enter', 'In the alt text: save and go to the next (elsewhere: Ctrl + Enter)'],
        ['↓', 'From the end of the alt text to the suggestions; Enter uses one'],
        ['Escape', 'Leave the field, so that the keys below work'],
        ['D', 'Mark as decorative'],
        ['S', 'Skip'],
        ['P', 'Same as previous'],
        ['B', 'Back'],
        ['1 to 6', 'Use this suggestion'],
      ],
    ],
  ],
};
const groups = computed<[string, Keys][]>(() => [
  ...(KEYS[String(route.name).replace('edit-arrival', 'edit')] ?? []),
  [
    'Everywhere',
    [
      ['F', 'Go to the search box'],
      ['?', 'Show keyboard shortcuts'],
    ],
  ],
]);

defineExpose({ show: () => (open.value = true) });
function onKey(event: KeyboardEvent) {
  const typing =
    event.target instanceof HTMLElement && event.target.closest('input, textarea, select, [contenteditable]');
  if (typing || event.ctrlKey || event.metaKey || event.altKey) return;
  if (event.key === '?') open.value = !open.value;
  else if (event.key === 'f') {
    event.preventDefault();
    document.getElementById('find')?.focus();
  }
}
useEventListener('keydown', onKey);
</script>

<template>
  <AppDialog v-model="open" title="Keyboard shortcuts" width="860px" top="6vh">
    <div class="keys" tabindex="0" role="region" aria-label="Keys">
      <section v-for="[title, keys] in groups" :key="title">
        <h3 v-if="title">{{ title }}</h3>
        <dl>
          <template v-for="[key, what] in keys" :key="key">
            <dt>
              <kbd>{{ key }}</kbd>
            </dt>
            <dd>{{ what }}</dd>
          </template>
        </dl>
      </section>
    </div>
  </AppDialog>
</template>

<style scoped>
.keys {
  max-height: 76vh;
  columns: 2;
  column-gap: 28px;
  overflow: auto;
}
section {
  padding-bottom: 14px;
  break-inside: avoid;
}
h3 {
  padding-bottom: 4px;
  border-bottom: 1px solid var(--rule);
  break-after: avoid;
}
dl {
  display: grid;
  margin: 6px 0 0;
  gap: 5px 12px;
  grid-template-columns: max-content 1fr;
}
dd {
  margin: 0;
}
kbd {
  white-space: nowrap;
}
</style>
