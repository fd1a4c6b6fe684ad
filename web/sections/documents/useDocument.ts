import { useEventListener, watchDebounced } from '@vueuse/core';
import { computed, onBeforeUnmount, ref, watch } from 'vue';
import type { DocumentView } from '../../../api/documents.ts';
import { documentsApi } from '../../api/documents.ts';
import { sentenceOf } from '../../api/client.ts';
import { usePlan } from '../../stores/plan.ts';
import { useSite } from '../../stores/site.ts';

/** Milliseconds without a key after which what is written goes to the server. */
const PAUSE = 800;
/** Milliseconds after which what could not be kept is sent again. */
const AGAIN = 5000;

/** A document that is being edited: what is written goes to the server by itself, and to the site as a plan only. */
export function useDocument(path: () => string) {
  const plan = usePlan();
  const site = useSite();
  const document = ref<DocumentView>();
  const fault = ref('');
  /** As it is written now. */
  const text = ref('');
  /** Of the file that was opened. */
  const base = ref('');
  const savedAt = ref('');
  const others = ref<DocumentView['others']>([]);
  /** Counts how often what is written came from elsewhere: then an editor begins anew. */
  const fresh = ref(0);
  /** The file is another one by now: as it is on the site. */
  const theirs = ref<DocumentView>();
  const dirty = computed(() => document.value !== undefined && text.value !== document.value.text);

  let keeping: Promise<void> = Promise.resolve();
  /** What was kept last, so that the same is not sent twice. */
  let kept = '';
  function take(opened: DocumentView, mine = opened.mine) {
    document.value = opened;
    others.value = opened.others;
    text.value = mine?.text ?? opened.text;
    kept = mine?.text ?? '';
    base.value = mine?.base ?? opened.sha256;
    savedAt.value = mine?.savedAt ?? '';
    theirs.value = base.value === opened.sha256 ? undefined : opened;
    fresh.value++;
  }
  async function open() {
    // What was written last goes to the server before another document stands here.
    await keep();
    fault.value = '';
    document.value = undefined;
    theirs.value = undefined;
    try {
      take(await documentsApi.open(path()));
    } catch (error) {
      fault.value = sentenceOf(error);
    }
  }
  watch(path, open, { immediate: true });
  /** The site has changed, by this person or by others: an untouched text follows, one that is being written is not overwritten. */
  watch(
    () => site.revision,
    async () => {
      const at = document.value;
      const now = at && (await documentsApi.open(at.path).catch(() => undefined));
      if (!now || now.path !== document.value?.path || now.sha256 === document.value.sha256) return;
      if (!dirty.value || now.text === text.value) take(now, null);
      else theirs.value = now;
    },
  );

  async function keepNow() {
    if (!document.value || !dirty.value || text.value === kept || !site.may('bring-in')) return;
    const now = text.value;
    try {
      const answer = await documentsApi.keep(document.value.path, base.value, now);
      kept = now;
      savedAt.value = answer.savedAt;
      others.value = answer.others;
      fault.value = '';
      if (answer.sha256 !== base.value) theirs.value = await documentsApi.open(document.value.path);
    } catch (error) {
      fault.value = `What you write could not be kept: ${sentenceOf(error)}`;
      setTimeout(() => void keep(), AGAIN);
    }
  }
  function keep(): Promise<void> {
    keeping = keeping.then(keepNow);
    return keeping;
  }
  watchDebounced(text, keep, { debounce: PAUSE });
  onBeforeUnmount(() => void keep());
  useEventListener(window, 'beforeunload', (event) => {
    if (dirty.value && text.value !== kept) event.preventDefault();
  });

  /** Shows the plan that saves it. */
  async function save() {
    if (!document.value) return;
    await keep();
    if (theirs.value) return;
    const { path: at, itemId, draft } = document.value;
    await plan.propose({
      kind: 'document',
      path: at,
      ...(draft && itemId !== null ? { itemId } : {}),
      base: base.value,
      text: text.value,
    });
    if (plan.plan)
      plan.afterwards(async () => {
        // What stays of it says the same as the site, and is passed over.
        await documentsApi.drop(path()).catch(() => undefined);
        await open();
      });
    else if (plan.fault) {
      // Somebody may have saved it since.
      const now = await documentsApi.open(document.value.path).catch(() => undefined);
      if (!now || now.sha256 === base.value) return;
      theirs.value = now;
      // It is told where both texts can be compared.
      plan.close();
    }
  }
  async function discard() {
    if (!document.value) return;
    fault.value = '';
    try {
      await documentsApi.drop(document.value.path);
      text.value = document.value.text;
      await open();
    } catch (error) {
      fault.value = sentenceOf(error);
    }
  }
  /** Goes on with this text, over the file as it is by now. */
  function goOnWith(words: string) {
    const now = theirs.value;
    if (!now) return;
    take(now, { base: now.sha256, text: words, savedAt: savedAt.value });
    // It begins elsewhere now.
    kept = '';
    void keep();
  }
  return {
    document,
    fault,
    text,
    base,
    savedAt,
    others,
    fresh,
    theirs,
    dirty,
    save,
    discard,
    goOnWith,
    keep,
  };
}
