<script setup lang="ts">
import { ElOption } from 'element-plus/es/components/select/index';
import 'element-plus/es/components/option/style/css';

/** One of the choices of AppSelect. */
defineProps<{ value: string | number; label: string; disabled?: boolean }>();
</script>

<template>
  <ElOption :value="value" :label="label" :disabled="disabled"><slot></slot></ElOption>
</template>
