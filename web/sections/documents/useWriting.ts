import { useEventListener } from '@vueuse/core';
import { computed, onBeforeUnmount, ref } from 'vue';

/** Milliseconds without a key after which what an editor holds is put into words. */
const PAUSE = 200;

/** Putting into words what an editor holds: that of a long text takes longer than a key, so it waits for a pause. */
export function useWriting(write: () => void) {
  const waiting = ref<ReturnType<typeof setTimeout>>();
  /** All that has been typed is in words now. */
  function now() {
    if (waiting.value === undefined) return;
    clearTimeout(waiting.value);
    waiting.value = undefined;
    write();
  }
  function soon() {
    clearTimeout(waiting.value);
    waiting.value = setTimeout(now, PAUSE);
  }
  onBeforeUnmount(now);
  // Before those who ask whether anything is unsaved.
  useEventListener(window, 'beforeunload', now, { capture: true });
  return { now, soon, waiting: computed(() => waiting.value !== undefined) };
}
