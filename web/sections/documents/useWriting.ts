import { useEventListener } from '@vueuse/core';
import { onBeforeUnmount } from 'vue';

/** Milliseconds without a key after which what an editor holds is put into words. */
const PAUSE = 200;

/** Putting into words what an editor holds: that of a long text takes longer than a key, so it waits for a pause. */
export function useWriting(write: () => void) {
  let waiting: ReturnType<typeof setTimeout> | undefined;
  /** All that has been typed is in words now. */
  function now() {
    if (waiting === undefined) return;
    clearTimeout(waiting);
    waiting = undefined;
    write();
  }
  function soon() {
    clearTimeout(waiting);
    waiting = setTimeout(now, PAUSE);
  }
  onBeforeUnmount(now);
  // Before those who ask whether anything is unsaved.
  useEventListener(window, 'beforeunload', now, { capture: true });
  return { now, soon };
}
