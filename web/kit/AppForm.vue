<script setup lang="ts">
import { ElForm } from 'element-plus/es/components/form/index';
import 'element-plus/es/components/form/style/css';

/** Fields that belong together: all of them are off where `disabled`. */
defineProps<{ disabled?: boolean }>();
</script>

<template>
  <ElForm :disabled="disabled"><slot></slot></ElForm>
</template>
