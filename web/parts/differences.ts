import { ref, watch } from 'vue';
import type { DifferingView } from '../../api/upkeep.ts';
import { api, sentenceOf } from '../api/client.ts';
import { count } from './words.ts';

/** Where images differ from the first of them; asked for when they are to be marked. */
export function useDifferences(ids: () => readonly number[]) {
  const shown = ref(false);
  const busy = ref(false);
  const fault = ref('');
  /** One for each image but the first; null: it shows something else. */
  const of = ref<DifferingView[]>([]);
  watch(ids, () => {
    shown.value = false;
    of.value = [];
  });

  async function toggle() {
    if (busy.value) return;
    if (shown.value || of.value.length > 0) {
      shown.value = !shown.value;
      return;
    }
    const [first, ...others] = ids();
    busy.value = true;
    fault.value = '';
    try {
      const found = await Promise.all(others.map((other) => api.differences(first!, other)));
      if (ids()[0] !== first) return;
      of.value = found;
      shown.value = true;
    } catch (error) {
      fault.value = sentenceOf(error);
    } finally {
      busy.value = false;
    }
  }
  return { shown, busy, fault, of, toggle };
}

/** What differs, in a sentence. */
export function differencesInWords(one: DifferingView): string {
  if (one === null) return 'something else: nothing can be laid over it';
  const turned =
    one.orientation & 4
      ? 'turned'
      : one.orientation === 3
        ? 'upside down'
        : one.orientation
          ? 'mirrored'
          : '';
  const part = one.window ? (one.exchanged ? 'the first is a part of it' : 'a part of the first') : '';
  const light =
    Math.abs(one.lighter) >= 3
      ? `${Math.abs(one.lighter)} of 255 levels ${one.lighter > 0 ? 'lighter' : 'darker'}`
      : '';
  const share = one.share < 0.01 ? 'less than 1 %' : `${Math.round(one.share * 100)} %`;
  const places =
    one.marks.length > 0
      ? `${count(one.marks.length, 'place')} differ${one.marks.length === 1 ? 's' : ''}, ${share} of what both show`
      : 'no place differs';
  return [part, turned, light, places].filter(Boolean).join('; ');
}
