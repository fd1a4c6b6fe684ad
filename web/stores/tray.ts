import { defineStore } from 'pinia';
import { computed, ref } from 'vue';
import type { ItemView } from '../../api/items.ts';

/** What the person has gathered, across folders and searches; it stays while moving between sections. */
export const useTray = defineStore('tray', () => {
  const items = ref<ItemView[]>([]);

  function has(id: number) {
    return items.value.some((item) => item.id === id);
  }
  function toggle(item: ItemView) {
    items.value = has(item.id) ? items.value.filter((one) => one.id !== item.id) : [...items.value, item];
  }
  function add(more: readonly ItemView[]) {
    items.value = [...items.value, ...more.filter((item) => !has(item.id))];
  }
  function clear() {
    items.value = [];
  }
  const bytes = computed(() => items.value.reduce((sum, item) => sum + item.bytes, 0));
  return { items, bytes, has, toggle, add, clear };
});
