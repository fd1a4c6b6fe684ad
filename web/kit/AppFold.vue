<script setup lang="ts">
import { ElCollapse, ElCollapseItem } from 'element-plus/es/components/collapse/index';
import 'element-plus/es/components/collapse/style/css';
import 'element-plus/es/components/collapse-item/style/css';
import { ref } from 'vue';

/** What is not always needed, folded away under its title. */
const props = defineProps<{ title: string; open?: boolean }>();
const open = ref<string[]>(props.open ? ['it'] : []);
</script>

<template>
  <ElCollapse v-model="open" class="app-fold" expand-icon-position="left">
    <ElCollapseItem name="it" :title="title"><slot></slot></ElCollapseItem>
  </ElCollapse>
</template>
