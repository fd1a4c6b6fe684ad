import { computed, onScopeDispose, reactive, ref, watch } from 'vue';
import type { ItemView, Words } from '../../api/items.ts';
import { ItemView as ItemSchema } from '../../api/items.ts';
import { api, Refused, sentenceOf } from '../api/client.ts';
import { isDescribed } from '../../core/describe/record.ts';
import { useDrafts } from '../stores/drafts.ts';
import { useSite } from '../stores/site.ts';
import { moment, timeOf } from './words.ts';

/** Words being edited, saved by themselves, never over someone else's; what is not saved yet is kept as a draft. */
export function useWords(first: ItemView) {
  const site = useSite();
  const drafts = useDrafts();
  const words = reactive<Words>(clone(first.words));
  let base: ItemView = first;
  const saving = ref(false);
  const savedAt = ref('');
  const fault = ref('');
  /** The record as someone else left it, while the person decides. */
  const theirs = ref<ItemView>();
  let timer: ReturnType<typeof setTimeout> | undefined;
  let queue: Promise<boolean> = Promise.resolve(true);
  const unsaved = ref(false);
  const restored = ref('');

  function changes(): Partial<Words> {
    const changed: Partial<Words> = {};
    for (const key of Object.keys(words) as (keyof Words)[]) {
      if (asKept(words[key]) !== asKept(base.words[key]))
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
      restored.value = '';
      keepDraft();
      savedAt.value = timeOf(new Date());
      fault.value = '';
      void site.changed();
      return true;
    } catch (error) {
      fault.value = sentenceOf(error);
      drafts.failed(base.id, fault.value);
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

  /** What is typed now would make the item a described one. */
  const becomesDescribed = () => !isDescribed(base) && isDescribed({ ...base, words });

  /** Saves when the typing rests. The first words of an item wait until the person moves on: half a sentence does not describe it. */
  function touch() {
    clearTimeout(timer);
    if (becomesDescribed()) return;
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

  function keepDraft() {
    const changed = changes();
    unsaved.value = Object.keys(changed).length > 0;
    if (unsaved.value) drafts.keep(base, changed);
    else drafts.drop(base.id);
  }
  /** What was typed here before and never saved; where the record has changed since, the person decides. */
  function restore() {
    const kept = drafts.edit(base.id);
    // What is being typed already is newer.
    if (!kept || Object.keys(changes()).length > 0) return;
    const changedSince = (Object.keys(kept.words) as (keyof Words)[]).some(
      (field) => asKept(kept.before[field]!) !== asKept(base.words[field]),
    );
    Object.assign(words, clone(kept.words));
    unsaved.value = Object.keys(changes()).length > 0;
    if (!unsaved.value) drafts.drop(base.id);
    else if (changedSince) {
      theirs.value = base;
      fault.value = 'This record has changed since you typed this. Choose which text to keep.';
    } else {
      restored.value = `Restored what you typed at ${moment(new Date(kept.at).toISOString())}`;
      touch();
    }
  }
  watch(
    () => drafts.ready,
    (yes) => yes && restore(),
    { immediate: true },
  );
  watch(words, keepDraft, { flush: 'sync' });

  onScopeDispose(() => {
    // Left before it is sent: what ends the window now must not lose it.
    drafts.leave(base.id);
    void save();
  });
  const state = computed(() => {
    if (saving.value) return 'Saving …';
    if (fault.value) return 'Not saved';
    if (restored.value) return restored.value;
    if (unsaved.value) return 'Draft kept in this browser';
    return savedAt.value ? `Saved ${savedAt.value}` : '';
  });
  return { words, state, fault, theirs, touch, save, keepMine, takeTheirs, refresh };
}

/** For comparing: white space around a text is not kept. */
function asKept(value: Words[keyof Words]): string {
  return JSON.stringify(typeof value === 'string' ? value.trim() : value);
}

/** A copy without Vue's proxies, which structuredClone refuses. */
function clone<Value>(value: Value): Value {
  return JSON.parse(JSON.stringify(value)) as Value;
}
