<script setup lang="ts">
import { ElTour, ElTourStep } from 'element-plus/es/components/tour/index';
import 'element-plus/es/components/tour/style/css';
import 'element-plus/es/components/tour-step/style/css';
import AppButton from './AppButton.vue';

/** A few steps, each beside what it speaks of. It can be left at any step. */
defineProps<{
  steps: readonly { target: string; title: string; text: string }[];
  placement: 'right' | 'top';
}>();
const emit = defineEmits<{ end: [] }>();
</script>

<template>
  <ElTour
    :model-value="true"
    class="app-tour"
    :placement="placement"
    append-to="#menus"
    @close="emit('end')"
    @finish="emit('end')"
  >
    <ElTourStep
      v-for="(one, at) in steps"
      :key="one.title"
      :target="one.target"
      :next-button-props="{ children: at + 1 === steps.length ? 'Start' : 'Next' }"
      :prev-button-props="{ children: 'Back' }"
      ><template #header
        ><h2>{{ one.title }}</h2></template
      >
      <p>{{ one.text }}</p></ElTourStep
    >
    <template #indicators="{ current, total }">
      <span class="figures soft">{{ current + 1 }} of {{ total }}</span>
      <AppButton v-if="current + 1 < total" look="link" @click="emit('end')">Skip tour</AppButton>
    </template>
  </ElTour>
</template>
