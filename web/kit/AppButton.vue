<script setup lang="ts">
import { ElButton } from 'element-plus/es/components/button/index';
import 'element-plus/es/components/button/style/css';
import { useTemplateRef } from 'vue';

/**
 * A button. `main` is the one act of its place, `plain` those beside it, `link` reads as part of a text, `glyph` is an icon alone
 * (it needs an aria-label), `tool` an icon over its word, and `tile` is a surface that acts and is drawn by whoever uses it.
 */
const {
  look = 'plain',
  type = 'button',
  danger = false,
  busy = false,
} = defineProps<{
  look?: 'main' | 'plain' | 'link' | 'glyph' | 'tool' | 'tile';
  type?: 'button' | 'submit';
  /** It takes something away. */
  danger?: boolean;
  disabled?: boolean;
  /** It is at work: it says so and cannot be pressed again. */
  busy?: boolean;
}>();
const button = useTemplateRef<{ $el: HTMLElement } | HTMLElement>('button');
defineExpose({
  focus() {
    const of = button.value;
    (of && '$el' in of ? of.$el : of)?.focus();
  },
});
</script>

<template>
  <button v-if="look === 'tile'" ref="button" :type="type" :disabled="disabled"><slot></slot></button>
  <ElButton
    v-else
    ref="button"
    class="app-button"
    :class="[look, { danger }]"
    :tag="$attrs['href'] ? 'a' : 'button'"
    :native-type="$attrs['href'] ? undefined : type"
    :type="look === 'main' ? (danger ? 'danger' : 'primary') : undefined"
    :link="look === 'link'"
    :text="look === 'glyph' || look === 'tool'"
    :disabled="disabled"
    :loading="busy"
    ><slot></slot
  ></ElButton>
</template>
