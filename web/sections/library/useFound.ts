import { ref, shallowReactive, shallowRef, watch, type Ref } from 'vue';
import type { ItemView } from '../../../api/items.ts';
import type { FoundGroups } from '../../../api/items.ts';
import { api, sentenceOf, type Query } from '../../api/client.ts';

/** Rows asked for at once: few enough that taking them in holds up no frame. */
const CHUNK = 24;
/** So many items are kept; the earliest of the others go. */
const KEPT = 2000;

/**
 * All that a query finds: ids and shapes of every item, so that a sheet of any length can be laid out and selected, and the
 * items themselves only for what is in sight.
 */
export function useFound(query: Ref<Query>, revision: () => number) {
  const ids = shallowRef<Uint32Array>(new Uint32Array());
  const ratios = shallowRef<Uint16Array>(new Uint16Array());
  const bytes = ref(0);
  /** How many different items: in groups, one may stand more than once. */
  const total = ref(0);
  const groups = shallowRef<FoundGroups['groups']>([]);
  const loaded = ref(false);
  const fault = ref('');
  const items = shallowReactive(new Map<number, ItemView>());
  /** Ids whose item is as the server has it now; others are asked for again when they come in sight. */
  let fresh = new Set<number>();
  let asked = 0;

  async function load() {
    const mine = ++asked;
    try {
      const found = await api.itemsFound(query.value);
      if (mine !== asked) return;
      fresh = new Set();
      ids.value = found.ids;
      ratios.value = found.ratios;
      bytes.value = found.bytes;
      total.value = found.items;
      groups.value = found.groups;
      fault.value = '';
      loaded.value = true;
      need(seen.from, seen.to);
    } catch (error) {
      if (mine === asked) fault.value = sentenceOf(error);
    }
  }

  const seen = { from: 0, to: 0 };
  const coming = new Set<number>();
  /** Asks for the items of a range that are not here yet. */
  function need(from: number, to: number) {
    Object.assign(seen, { from, to });
    const wanted: number[] = [];
    for (let at = Math.max(0, from); at < Math.min(to, ids.value.length); at++) {
      const id = ids.value[at]!;
      if (!fresh.has(id) && !coming.has(id)) wanted.push(id);
    }
    for (let at = 0; at < wanted.length; at += CHUNK) void ask(wanted.slice(at, at + CHUNK));
  }
  /** A whole library walked through would fill the memory. */
  function forget() {
    if (items.size <= KEPT + 500) return;
    const inSight = new Set(ids.value.subarray(seen.from, seen.to));
    for (const id of items.keys()) {
      if (items.size <= KEPT) break;
      if (inSight.has(id)) continue;
      items.delete(id);
      fresh.delete(id);
    }
  }
  async function ask(some: number[]) {
    const round = fresh;
    for (const id of some) coming.add(id);
    try {
      for (const item of await api.itemsSome(some, String(query.value['q'] ?? ''))) items.set(item.id, item);
      for (const id of some) round.add(id);
      forget();
    } catch (error) {
      fault.value = sentenceOf(error);
    } finally {
      for (const id of some) coming.delete(id);
      // A change came in between: what is in sight is asked for once more.
      if (round !== fresh) need(seen.from, seen.to);
    }
  }

  watch(query, () => void load());
  watch(revision, () => void load(), { immediate: true });
  return { ids, ratios, bytes, total, groups, loaded, fault, items, need };
}
