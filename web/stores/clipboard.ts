import { defineStore } from 'pinia';
import { computed, shallowRef } from 'vue';
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

  /** What stands in the system's clipboard for what is held, so that it is known when something else was copied since. */
  let text = '';
  /** Takes the place of what a cut or copy would write to the system's clipboard. @param paths of the items or the folder, where known */
  function hold(next: Held, event: ClipboardEvent, paths: readonly string[]) {
    held.value = next;
    text = paths.map((path) => `/${path}`).join('\n') || what.value;
    event.clipboardData?.setData('text/plain', text);
    event.preventDefault();
  }
  /** Whether a paste means what is held here, and not what was copied elsewhere later. */
  const meant = (event: ClipboardEvent) =>
    held.value !== undefined && event.clipboardData?.getData('text/plain') === text;
  function clear() {
    held.value = undefined;
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
    // What was cut is let go once it has moved, not when the plan is only looked at.
    if (it.do === 'cut' && plan.plan) plan.afterwards(clear);
  }
  return { held, what, hold, meant, clear, paste };
});
