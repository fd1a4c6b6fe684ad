<script setup lang="ts">
import { ref } from 'vue';
import type { Recipe } from '../../../core/picture/recipe/recipe.ts';
import { asTreatment, treatmentInWords } from '../../../core/picture/recipe/treatments.ts';
import { sentenceOf } from '../../api/client.ts';
import AppButton from '../../kit/AppButton.vue';
import AppDialog from '../../kit/AppDialog.vue';
import AppInput from '../../kit/AppInput.vue';
import { usePlan } from '../../stores/plan.ts';

/** What was made of one image, kept by a name to be made of many: all but what is of this image only. */
const props = defineProps<{ recipe: Recipe }>();
const emit = defineEmits<{ close: [] }>();
const plan = usePlan();
const name = ref('');
const fault = ref('');
const treatment = asTreatment(props.recipe);
const words = treatmentInWords(treatment);
async function keep() {
  try {
    await plan.make({ kind: 'treatment', name: name.value.trim(), treatment });
    emit('close');
  } catch (error) {
    fault.value = sentenceOf(error);
  }
}
</script>

<template>
  <AppDialog :model-value="true" title="Keep as treatment" width="520px" @closed="emit('close')">
    <form id="keep-treatment" @submit.prevent="keep">
      <label>Name <AppInput v-model="name" maxlength="100" /></label>
      <p v-if="words" class="soft">{{ words }}</p>
      <p v-if="recipe.frame || recipe.covers" class="soft">
        {{
          recipe.frame?.ratio
            ? 'Of the frame, its shape is kept: each image is cropped to it about its middle.'
            : recipe.frame
              ? 'The frame is of this image only and isn’t kept. Hold it to a ratio to keep its shape.'
              : ''
        }}
        {{ recipe.covers ? 'Covered parts are of this image only and aren’t kept.' : '' }}
      </p>
      <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
    </form>
    <template #footer>
      <AppButton @click="emit('close')">Cancel</AppButton>
      <AppButton look="main" type="submit" form="keep-treatment" :disabled="!name.trim() || !words"
        >Keep</AppButton
      >
    </template>
  </AppDialog>
</template>
