import { defineStore } from 'pinia';
import { computed, shallowRef, watch } from 'vue';
import { baseName, joinPath } from '../../core/address/path.ts';
import { usePlan } from './plan.ts';

/** What was cut or copied in the Library, to be pasted into a folder. */
type Held = { do: 'cut' | 'copy'; ids: readonly number[] } | { do: 'cut'; folder: string };

/** Items and folders that were cut or copied by keys; pasting them is a plan like any other. */
export const useClipboard = defineStore('clipboard', () => {
  const held = shallowRef<Held>();
  const what = computed(() => {
    const it = held.value;
    if (!it) return '';
    if ('folder' in it) return `The folder “${it.folder}” is cut`;
    const many = it.ids.length === 1 ? '1 item is' : `${it.ids.length.toLocaleString('en')} items are`;
    return `${many} ${it.do === 'cut' ? 'cut' : 'copied'}`;
  });

  function hold(next: Held | undefined) {
    held.value = next;
  }
  /** Plans to put what is held into a folder. */
  async function paste(folder: string): Promise<void> {
    const it = held.value;
    const plan = usePlan();
    if (!it) return;
    if ('folder' in it)
      await plan.propose({ kind: 'folder', folder: it.folder, to: joinPath(folder, baseName(it.folder)) });
    else if (it.do === 'cut') await plan.propose({ kind: 'move', itemIds: [...it.ids], folder });
    else await plan.propose({ kind: 'copies', itemIds: [...it.ids], folder });
    if (it.do !== 'cut' || !plan.plan) return;
    // What was cut is let go once it has moved, not when the plan is only looked at.
    const before = plan.done;
    const stop = watch(
      () => plan.plan,
      (now) => {
        if (now) return;
        if (plan.done !== before) held.value = undefined;
        stop();
      },
    );
  }
  return { held, what, hold, paste };
});
