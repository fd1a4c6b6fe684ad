<script setup lang="ts">
import { ElDialog } from 'element-plus/es/components/dialog/index';
import 'element-plus/es/components/dialog/style/css';
import 'element-plus/es/components/overlay/style/css';
import { computed, onMounted, onUnmounted, ref } from 'vue';
import { useRoute } from 'vue-router';

const open = ref(false);
const route = useRoute();
const KEYS: Record<string, [string, string][]> = {
  library: [
    ['← → ↑ ↓', 'go from item to item'],
    ['Enter', 'open the record'],
    ['L', 'look closer: the picture fills the window (also by double click)'],
    ['Space', 'gather into the tray, or take out'],
    ['Shift + arrows', 'gather from item to item'],
    ['Page up, Page down, Home, End', 'go by screens, to the first, to the last'],
    ['A', 'copy the address'],
    ['N', 'name or move: change the address'],
    ['Escape', 'close the record'],
  ],
  describe: [
    ['Ctrl + Enter', 'save and go to the next picture'],
    ['Escape', 'leave the field, so that the letters below act'],
    ['D', 'decorative: the page says all there is to say'],
    ['S', 'skip this picture'],
  ],
};
const keys = computed(() => [
  ...(KEYS[String(route.name)] ?? []),
  ['F', 'find: go to the find box'] as const,
  ['?', 'show these keys'] as const,
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
  <ElDialog v-model="open" title="Keys of this screen" width="440px">
    <table class="ruled">
      <tbody>
        <tr v-for="[key, what] in keys" :key="key">
          <td>
            <kbd>{{ key }}</kbd>
          </td>
          <td>{{ what }}</td>
        </tr>
      </tbody>
    </table>
  </ElDialog>
</template>
