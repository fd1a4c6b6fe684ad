<script setup lang="ts">
import AppDialog from './AppDialog.vue';
import { computed, onMounted, onUnmounted, ref } from 'vue';
import { useRoute } from 'vue-router';
import { offered, type OfferedAct } from './tray-acts.ts';

const open = ref(false);
const route = useRoute();
type Keys = [string, string][];
const act = ({ key, words }: OfferedAct): [string, string] => [key, words.replace(' …', '').toLowerCase()];
const one = offered(1, 0);
const KEYS: Record<string, [string, Keys][]> = {
  library: [
    [
      'Going about',
      [
        ['← → ↑ ↓', 'from item to item; in the table, from line to line'],
        ['Page up, Page down', 'a screen up or down'],
        ['Home, End', 'the first, the last'],
        ['Enter', 'open the record; in the table, write the cell and go on'],
        ['L', 'look closer: it fills the window (also by double click)'],
        ['Space', 'gather into the tray, or take out'],
        ['Shift + arrows', 'gather from item to item'],
        ['Escape', 'close the record'],
      ],
    ],
    [
      'With what is gathered, or else the item you are on',
      [...[...one.first, ...one.more, offered(2, 0).first[0]!].map(act), ['R', 'restore, when set aside']],
    ],
    [
      'Folders',
      [
        ['Ctrl + X, Ctrl + C', 'cut or copy what is gathered, or the item or folder you are on'],
        ['Ctrl + V', 'put it into the folder that is shown, or that you are on'],
      ],
    ],
    [
      'With a record open',
      [
        ['A', 'copy its address'],
        ['N', 'name or move it'],
      ],
    ],
  ],
  pages: [
    [
      'In the list',
      [
        ['↑ ↓, Home, End', 'from page to page'],
        ['Enter', 'open the page'],
      ],
    ],
    [
      'With a page open, also in the page itself',
      [
        ['J, K', 'the next placement, the one before'],
        ['P', 'place an item: then Tab goes from spot to spot'],
        ['G', 'place a gallery'],
        ['B', 'put a background behind a block'],
        ['E', 'edit the chosen placement'],
        ['Escape', 'leave off; close the page'],
      ],
    ],
  ],
  describe: [
    [
      '',
      [
        ['Enter', 'in the alt text: save and go to the next (anywhere: Ctrl + Enter)'],
        ['↓', 'from the end of the alt text to the suggestions; Enter takes one'],
        ['Escape', 'leave the field, so that the letters below act'],
        ['D', 'decorative: the page says all there is to say'],
        ['S', 'skip this one'],
        ['P', 'the same words as the previous one'],
        ['B', 'back to the one before'],
        ['1 to 6', 'take this suggestion'],
      ],
    ],
  ],
};
const groups = computed<[string, Keys][]>(() => [
  ...(KEYS[String(route.name)] ?? []),
  [
    'Everywhere',
    [
      ['F', 'find: go to the find box'],
      ['?', 'show these keys'],
    ],
  ],
]);

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
onMounted(() => window.addEventListener('keydown', onKey));
onUnmounted(() => window.removeEventListener('keydown', onKey));
</script>

<template>
  <AppDialog v-model="open" title="Keys of this screen" width="860px" top="6vh">
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
