import { useEventListener, useIntervalFn } from '@vueuse/core';
import { defineStore } from 'pinia';
import { z } from 'zod';
import { computed, ref, watch } from 'vue';
import { SomeWords, type ItemView } from '../../api/items.ts';
import { api, sentenceOf } from '../api/client.ts';
import { useSite } from './site.ts';

/** What was typed into a record and the server does not have yet, with what stood there before. */
const Draft = z.strictObject({
  item: z.int(),
  name: z.string(),
  rowVersion: z.int(),
  before: SomeWords,
  words: SomeWords,
  /** When it was typed, in milliseconds. */
  at: z.number(),
  /** The person has moved on: it may be sent without them. */
  left: z.boolean(),
});
export type Draft = z.infer<typeof Draft>;
const PREFIX = 'iconomos-draft';
/** Milliseconds until what could not be sent is tried again. */
const AGAIN = 10_000;

/** Text typed and not yet saved, kept in this browser: it outlives a reload, a lost connection, and a crash of the window. */
export const useDrafts = defineStore('drafts', () => {
  const site = useSite();
  const drafts = ref(new Map<number, Draft>());
  /** Records whose text is being edited in this window. */
  const open = ref(new Set<number>());
  const faults = ref(new Map<number, string>());
  /** Whose drafts these are is known, and they have been read. */
  const ready = ref(false);
  /** Texts that wait and whose record is not open in this window. */
  const unsent = computed(() => [...drafts.value.values()].filter((draft) => !open.value.has(draft.item)));
  /** Drafts are a person's own: they are saved under the name of who typed them. */
  const mine = computed(() => `${PREFIX} ${site.site?.folder ?? ''} ${site.site?.person.id ?? ''} `);
  const key = (item: number) => mine.value + item;

  /** Reads what earlier windows left; what cannot be read as a draft is no draft of this version and stays where it lies. */
  function read() {
    drafts.value = new Map();
    faults.value = new Map();
    ready.value = site.site !== undefined;
    if (!ready.value) return;
    for (let at = 0; at < localStorage.length; at++) {
      const name = localStorage.key(at)!;
      if (!name.startsWith(mine.value)) continue;
      const found = Draft.safeParse(JSON.parse(localStorage.getItem(name)!));
      if (found.success) drafts.value.set(found.data.item, found.data);
    }
    void sendLeft();
  }
  watch(mine, read, { immediate: true });
  watch(
    () => site.connected,
    (yes) => yes && void sendLeft(),
  );
  // A lost connection is often noticed late, or never: what could not be sent is tried again by itself.
  useEventListener(window, 'online', () => void sendLeft());
  useIntervalFn(() => void sendLeft(), AGAIN);
  useEventListener(window, 'beforeunload', (event) => {
    if (faults.value.size > 0) event.preventDefault();
  });

  function put(draft: Draft) {
    if (!ready.value) return;
    drafts.value.set(draft.item, draft);
    localStorage.setItem(key(draft.item), JSON.stringify(draft));
  }
  function drop(item: number) {
    drafts.value.delete(item);
    faults.value.delete(item);
    localStorage.removeItem(key(item));
  }
  /** @returns what was typed into the record before, if the server does not have it */
  function edit(item: number): Draft | undefined {
    open.value.add(item);
    return drafts.value.get(item);
  }
  function keep(base: ItemView, words: Draft['words']) {
    const before = Object.fromEntries(
      Object.keys(words).map((field) => [field, base.words[field as keyof typeof words]]),
    );
    put({
      item: base.id,
      name: base.name,
      rowVersion: base.rowVersion,
      before,
      words,
      at: Date.now(),
      left: false,
    });
  }
  /** Why the text could not be saved. */
  function failed(item: number, fault: string) {
    if (drafts.value.has(item)) faults.value.set(item, fault);
  }
  /** The person has moved on. */
  function leave(item: number) {
    open.value.delete(item);
    const draft = drafts.value.get(item);
    if (draft) put({ ...draft, left: true });
  }

  async function send(item: number) {
    const draft = drafts.value.get(item);
    if (!draft || open.value.has(item)) return;
    try {
      await api.saveWords(item, { rowVersion: draft.rowVersion, words: draft.words });
      drop(item);
      await site.changed();
    } catch (error) {
      failed(item, sentenceOf(error));
    }
  }
  async function sendLeft() {
    for (const draft of unsent.value) if (draft.left) await send(draft.item);
  }
  return { ready, unsent, faults, edit, keep, failed, leave, drop, send };
});
