import type { Ref } from 'vue';
import type { Replaceable } from '../../parts/reading/findable.ts';

/** Finding and replacing in an editor that lies within another part. */
export const passedOn = (inner: Readonly<Ref<Replaceable | null>>): Replaceable => ({
  settle: () => inner.value?.settle?.(),
  get waiting() {
    return inner.value?.waiting ?? false;
  },
  find: (words, options, tell) => inner.value?.find(words, options, tell) ?? 0,
  show: (at) => inner.value?.show(at) ?? '',
  replace: (at, by) => inner.value?.replace(at, by),
  replaceAll: (by) => inner.value?.replaceAll(by),
  end: () => inner.value?.end(),
});
