<script setup lang="ts">
import AppNumber from '../../kit/AppNumber.vue';
import AppSlider from '../../kit/AppSlider.vue';

/** A number by a slider, and beside it as it is typed. */
const props = defineProps<{
  title: string;
  modelValue: number;
  /** As far below nought. */
  most: number;
  step?: number;
  /** What is counted, for who can’t see it. */
  unit?: string;
}>();
const emit = defineEmits<{ 'update:modelValue': [value: number] }>();
const places = (props.step ?? 1) < 1 ? 1 : 0;
const set = (value: number | null) => emit('update:modelValue', Number((value ?? 0).toFixed(places)));
</script>

<template>
  <div class="slide">
    <span>{{ title }}</span>
    <AppSlider
      :label="unit ? `${title}, in ${unit}` : title"
      :model-value="modelValue"
      :min="-most"
      :max="most"
      :step="step ?? 1"
      @update:model-value="set"
    />
    <label
      ><span class="hidden-words">{{ title }}, in numbers</span
      ><AppNumber
        :model-value="modelValue"
        :min="-most"
        :max="most"
        :step="step ?? 1"
        :precision="places"
        @update:model-value="set"
    /></label>
  </div>
</template>

<style scoped src="./tools.css"></style>
