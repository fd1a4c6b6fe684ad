import { useEventListener } from '@vueuse/core';
import { defineStore } from 'pinia';
import { computed, ref, shallowRef, watch } from 'vue';
import type { ItemView } from '../../api/items.ts';
import { api } from '../api/client.ts';
import { useSite } from './site.ts';

const KEPT = 'iconomos.tray';

export const TRAY_ACTS = [
  'compare',
  'tags',
  'suggest',
  'prepare',
  'words',
  'names',
  'embed',
  'sidecars',
  'move',
  'copy',
  'duplicate',
  'owner',
  'family',
  'addresses',
  'download',
  'export',
  'publish',
  'withdraw',
  'discard',
  'restore',
  'aside',
] as const;
export type TrayAct = (typeof TRAY_ACTS)[number];

/**
 * What the person has gathered, across folders and searches, to act on together: ids only, as it may be the whole library.
 * It stays while moving between sections, and through a reload.
 */
export const useTray = defineStore('tray', () => {
  const ids = shallowRef<ReadonlySet<number>>(
    new Set(JSON.parse(sessionStorage.getItem(KEPT) ?? '[]') as number[]),
  );
  const bytes = ref(0);
  /** How many of them are set aside: those can be restored, and little else. */
  const aside = ref(0);
  /** How many of them are drafts. */
  const drafts = ref(0);
  /** The act that is being prepared. */
  const act = ref<TrayAct>();
  /** The newest of them, to be seen. */
  const last = shallowRef<ItemView[]>([]);
  const size = computed(() => ids.value.size);

  function set(next: Set<number>) {
    ids.value = next;
    clearTimeout(keeping);
    keeping = setTimeout(keep, 250);
  }
  /** Writing a hundred thousand ids takes longer than a frame: it waits until the gathering rests, or the page is left. */
  let keeping: ReturnType<typeof setTimeout> | undefined;
  function keep() {
    clearTimeout(keeping);
    keeping = undefined;
    sessionStorage.setItem(KEPT, JSON.stringify([...ids.value]));
  }
  useEventListener('pagehide', () => keeping && keep());
  const has = (id: number) => ids.value.has(id);
  function toggle(id: number) {
    const next = new Set(ids.value);
    if (!next.delete(id)) next.add(id);
    set(next);
  }
  function add(more: Iterable<number>) {
    const next = new Set(ids.value);
    for (const id of more) next.add(id);
    set(next);
  }
  function remove(some: Iterable<number>) {
    const next = new Set(ids.value);
    for (const id of some) next.delete(id);
    set(next);
  }
  function clear() {
    set(new Set());
  }

  /** Weight and images follow, once the gathering rests. What is no longer there falls out. */
  let timer: ReturnType<typeof setTimeout> | undefined;
  async function look() {
    if (size.value === 0) {
      last.value = [];
      bytes.value = aside.value = drafts.value = 0;
      return;
    }
    const mine = ids.value;
    const newest = [...mine].slice(-12);
    const [sum, items] = await Promise.all([api.itemsSum([...mine]), api.itemsSome(newest)]);
    if (mine !== ids.value) return;
    bytes.value = sum.bytes;
    aside.value = sum.aside;
    drafts.value = sum.drafts;
    last.value = items;
  }
  watch(
    [ids, () => useSite().revision],
    () => {
      clearTimeout(timer);
      timer = setTimeout(() => void look(), 120);
    },
    { immediate: true },
  );

  return { ids, size, bytes, aside, drafts, act, last, has, toggle, add, remove, clear };
});
