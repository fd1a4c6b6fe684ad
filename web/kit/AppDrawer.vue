<script setup lang="ts">
import { ElDrawer } from 'element-plus/es/components/drawer/index';
import 'element-plus/es/components/drawer/style/css';
import 'element-plus/es/components/overlay/style/css';

/** A pane that lies over the left of the window until it is closed: where there is no room for it beside the work. */
defineProps<{ title: string }>();
const open = defineModel<boolean>({ required: true });
</script>

<template>
  <ElDrawer v-model="open" class="app-drawer" direction="ltr" size="min(320px, 88vw)" :title="title">
    <slot></slot>
  </ElDrawer>
</template>
