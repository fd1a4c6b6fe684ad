import { computed, onScopeDispose, reactive, ref } from 'vue';
import type { ItemView, Words } from '../../api/items.ts';
import { ItemView as ItemSchema } from '../../api/items.ts';
import { api, Refused, sentenceOf } from '../api/client.ts';
import { useSite } from '../stores/site.ts';

/** Words being edited, saved by themselves, never over someone else's. */
export function useWords(first: ItemView) {
  const site = useSite();
  const words = reactive<Words>(clone(first.words));
  let base: ItemView = first;
  const saving = ref(false);
  const savedAt = ref('');
  const fault = ref('');
  /** The record as someone else left it, while the person decides. */
  const theirs = ref<ItemView>();
  let timer: ReturnType<typeof setTimeout> | undefined;
  let queue: Promise<boolean> = Promise.resolve(true);

  function changes(): Partial<Words> {
    const changed: Partial<Words> = {};
    for (const key of Object.keys(words) as (keyof Words)[]) {
      if (JSON.stringify(words[key]) !== JSON.stringify(base.words[key]))
        Object.assign(changed, { [key]: clone(words[key]) });
    }
    return changed;
  }

  async function saveNow(): Promise<boolean> {
    const changed = changes();
    if (Object.keys(changed).length === 0) return true;
    if (theirs.value) return false;
    saving.value = true;
    try {
      base = await api.saveWords(base.id, { rowVersion: base.rowVersion, words: changed });
      savedAt.value = new Date().toLocaleTimeString('en-GB', { hour: '2-digit', minute: '2-digit' });
      fault.value = '';
      void site.changed();
      return true;
    } catch (error) {
      fault.value = sentenceOf(error);
      if (error instanceof Refused && error.fault.code === 'stale-record') {
        const current = await api.item(base.id);
        theirs.value = ItemSchema.parse(current.item);
      }
      return false;
    } finally {
      saving.value = false;
    }
  }

  /** Saves at once; saves run one after the other. */
  function save(): Promise<boolean> {
    clearTimeout(timer);
    queue = queue.then(saveNow, saveNow);
    return queue;
  }

  /** Saves when the typing rests. */
  function touch() {
    clearTimeout(timer);
    timer = setTimeout(() => void save(), 800);
  }

  function keepMine() {
    if (!theirs.value) return;
    base = theirs.value;
    theirs.value = undefined;
    void save();
  }

  function takeTheirs() {
    if (!theirs.value) return;
    base = theirs.value;
    Object.assign(words, clone(base.words));
    theirs.value = undefined;
    fault.value = '';
  }

  /** A fresher record: taken over where nothing is being edited here. */
  function refresh(item: ItemView) {
    if (item.rowVersion === base.rowVersion || Object.keys(changes()).length > 0 || saving.value) return;
    base = item;
    Object.assign(words, clone(item.words));
  }

  onScopeDispose(() => void save());
  const state = computed(() =>
    saving.value ? 'Saving …' : fault.value ? 'Not saved' : savedAt.value ? `Saved ${savedAt.value}` : '',
  );
  return { words, state, fault, theirs, touch, save, keepMine, takeTheirs, refresh };
}

/** A copy without Vue's proxies, which structuredClone refuses. */
function clone<Value>(value: Value): Value {
  return JSON.parse(JSON.stringify(value)) as Value;
}
