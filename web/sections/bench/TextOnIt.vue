<script setup lang="ts">
import { computed, ref } from 'vue';
import { contrastOver, READABLE, readableVeil } from '../../../core/picture/contrast.ts';
import AppButton from '../../kit/AppButton.vue';
import AppCheckbox from '../../kit/AppCheckbox.vue';
import AppInput from '../../kit/AppInput.vue';

/** Whether text could be read on what the frame holds, and how much of a veil it takes. */
const props = defineProps<{ cells: Uint8Array | undefined; veil: { colour: string; opacity: number } }>();
const on = defineModel<boolean>('on', { required: true });
const emit = defineEmits<{ veil: [veil: { colour: string; opacity: number }] }>();
const ink = ref('#ffffff');
const contrast = computed(() => props.cells && contrastOver(props.cells, ink.value, props.veil));
const needed = computed(() => props.cells && readableVeil(props.cells, ink.value, props.veil.colour));
const said = (ratio: number) => (Math.floor(10 * ratio) / 10).toFixed(1);
</script>

<template>
  <AppCheckbox v-model="on">Text will stand on it</AppCheckbox>
  <div v-if="on" class="on">
    <label class="field">Colour of the text <AppInput v-model="ink" type="color" /></label>
    <template v-if="contrast">
      <p role="status" class="figures" :class="contrast.least >= READABLE ? 'good' : 'poor'">
        Contrast {{ said(contrast.least) }} at least, {{ said(contrast.mean) }} on average.
        {{
          contrast.least >= READABLE
            ? 'It can be read everywhere.'
            : `Text needs ${READABLE} to be read everywhere.`
        }}
      </p>
      <template v-if="contrast.least < READABLE">
        <AppButton
          v-if="needed !== undefined"
          @click="emit('veil', { colour: veil.colour, opacity: needed! })"
          >Veil at {{ Math.round(100 * needed) }} %</AppButton
        >
        <p v-else class="soft">No veil of this colour does it. Choose a darker or lighter one.</p>
      </template>
    </template>
  </div>
</template>

<style scoped src="./tools.css"></style>
<style scoped>
.on {
  padding: 2px 0 8px 24px;
}
.good {
  color: var(--verdigris);
}
.poor {
  color: var(--ochre);
}
</style>
