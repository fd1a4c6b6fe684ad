import { nextTick, type Ref } from 'vue';

/** Of a list that hangs open: one that is longer than its window can be scrolled by keys, too. The library leaves it to the mouse. */
export function useScrollable(list: Ref<{ scrollbarRef?: { wrapRef?: HTMLElement } } | null>) {
  return async (open: boolean) => {
    await nextTick();
    const wrap = list.value?.scrollbarRef?.wrapRef;
    if (open && wrap) wrap.tabIndex = 0;
  };
}
