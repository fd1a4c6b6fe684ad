<script setup lang="ts">
import { ElDialog } from 'element-plus/es/components/dialog/index';
import 'element-plus/es/components/dialog/style/css';
import 'element-plus/es/components/overlay/style/css';
import { nextTick, onBeforeUnmount, useTemplateRef } from 'vue';

/**
 * A dialog. The keyboard goes to its first field, or to the choice that it begins with (`data-first`), and back to where it was when it closes. Its head is the head of the dialog only:
 * to screen readers the window has one banner.
 */
const contents = useTemplateRef('contents');
let before: Element | null = null;
async function opened() {
  before ??= document.activeElement;
  await nextTick();
  const dialog = unheaded();
  // Behind the library's own focus on the box.
  requestAnimationFrame(() => focusFirst(dialog));
}
/** The library has put the focus on the box: only now is it ours to give. One that is open from the start stands there only now. */
const trapped = () => requestAnimationFrame(() => focusFirst(unheaded()));
function unheaded() {
  const dialog = contents.value?.closest('.el-dialog');
  dialog?.querySelector(':scope > header')?.setAttribute('role', 'presentation');
  return dialog;
}
const FIELDS =
  'input:not([type=checkbox], [type=radio], [type=file], [type=hidden], :disabled, [readonly]), textarea:not(:disabled, [readonly])';
function focusFirst(dialog: Element | null | undefined) {
  const at = document.activeElement;
  if (!dialog || (at && at !== dialog && dialog.contains(at) && at.matches('input, textarea, button')))
    return;
  const seen = (one: HTMLElement) => one.checkVisibility();
  const choice = dialog.querySelector<HTMLElement>('[data-first] input:checked');
  if (choice) return choice.focus();
  const field = [...dialog.querySelectorAll<HTMLElement>(FIELDS)].find(seen);
  (field ?? dialog.querySelector<HTMLElement>('.el-dialog__footer .main'))?.focus();
}
/** Nobody is left at the top of the window: where what had the focus is gone, the work has it. */
function back() {
  const to = before;
  before = null;
  requestAnimationFrame(() => {
    const at = document.activeElement;
    if (at && at !== document.body && at.isConnected) return;
    if (to instanceof HTMLElement && to !== document.body && to.isConnected && to.checkVisibility())
      to.focus();
    else document.getElementById('work')?.focus();
  });
}
onBeforeUnmount(back);
</script>

<template>
  <ElDialog @open="opened" @open-auto-focus="trapped" @closed="back">
    <div ref="contents"><slot></slot></div>
    <template v-if="$slots['footer']" #footer><slot name="footer"></slot></template>
  </ElDialog>
</template>
