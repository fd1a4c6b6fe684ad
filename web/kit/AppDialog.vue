<script setup lang="ts">
import { ElDialog } from 'element-plus/es/components/dialog/index';
import 'element-plus/es/components/dialog/style/css';
import 'element-plus/es/components/overlay/style/css';
import { nextTick } from 'vue';

/** A dialog. Its head is the head of the dialog only: to screen readers the window has one banner. */
async function opened() {
  await nextTick();
  for (const head of document.querySelectorAll('.el-dialog > header'))
    head.setAttribute('role', 'presentation');
}
</script>

<template>
  <ElDialog @open="opened">
    <slot></slot>
    <template v-if="$slots['footer']" #footer><slot name="footer"></slot></template>
  </ElDialog>
</template>
