import { computed, ref, shallowRef, watch, type Ref } from 'vue';
import type { DescribeView } from '../../../api/items.ts';
import { api, sentenceOf, type Query } from '../../api/client.ts';

/**
 * The items that need words, one after the other. Those that come next are asked for ahead, so that going on takes no
 * waiting.
 */
export function useQueue(query: Ref<Query>) {
  const ids = shallowRef<number[]>([]);
  const at = ref(0);
  const view = shallowRef<DescribeView>();
  const fault = ref('');
  const loaded = ref(false);
  /** The next one is asked for; what stands there is still the one before. */
  const coming = ref(false);
  const ahead = new Map<number, Promise<DescribeView>>();
  /** Milliseconds that each item of this sitting took. */
  const took: number[] = [];
  let since = performance.now();

  async function load() {
    loaded.value = false;
    try {
      ids.value = [...(await api.itemsFound(query.value)).ids];
      fault.value = '';
    } catch (error) {
      fault.value = sentenceOf(error);
    }
    loaded.value = true;
    ahead.clear();
    await show(0);
  }
  function ask(id: number): Promise<DescribeView> {
    let asked = ahead.get(id);
    if (!asked) ahead.set(id, (asked = api.describe(id)));
    return asked;
  }
  /** Shows the item at a place of the queue, once it is here; until then the one before stays. */
  async function show(place: number) {
    const id = ids.value[place];
    wanted = place;
    coming.value = true;
    try {
      const found = id === undefined ? undefined : await ask(id);
      if (wanted !== place) return;
      at.value = place;
      view.value = found;
      fault.value = '';
    } catch (error) {
      fault.value = sentenceOf(error);
    }
    coming.value = false;
    if (id !== undefined) ahead.delete(id);
    for (const next of ids.value.slice(place + 1, place + 3)) ask(next).catch(() => ahead.delete(next));
  }
  let wanted = 0;
  function go(step: 1 | -1): Promise<void> {
    const now = performance.now();
    // A pause is no work: minutes are not counted.
    if (step === 1 && now - since < 180_000) took.push(now - since);
    since = now;
    return show(Math.min(ids.value.length, Math.max(0, wanted + step)));
  }
  const left = computed(() => ids.value.length - at.value);
  /** 'about 40 minutes': by the pace of this sitting, else by one item in twelve seconds. */
  const time = computed(() => {
    const pace =
      took.length < 3
        ? 12_000
        : took.slice(-20).reduce((sum, one) => sum + one, 0) / Math.min(20, took.length);
    const minutes = Math.max(1, Math.round((left.value * pace) / 60_000));
    return minutes === 1 ? 'about a minute' : `about ${minutes.toLocaleString('en')} minutes`;
  });
  watch(query, load, { immediate: true });
  return { ids, at, view, coming, fault, loaded, left, time, go };
}
