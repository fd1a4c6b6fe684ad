import { defineStore } from 'pinia';
import { ref } from 'vue';

/** Images that one treatment is being chosen for, from wherever they were taken: the tray, a folder, what was found. */
export const usePreparing = defineStore('preparing', () => {
  const ids = ref<readonly number[]>();
  /** Where they come from, as the end of a title: 'in the tray'. */
  const where = ref('');
  /** The one that is wanted a frame of its own, from the line that shows it before and after. */
  const framing = ref<number>();
  function start(of: readonly number[], from: string) {
    ids.value = of;
    where.value = from;
  }
  function close() {
    ids.value = undefined;
    framing.value = undefined;
  }
  return { ids, where, framing, start, close };
});
