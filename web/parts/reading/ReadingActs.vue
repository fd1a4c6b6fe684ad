<script setup lang="ts">
import AppButton from '../../kit/AppButton.vue';

/** What can be done with any document that is read. */
defineProps<{ print?: (() => void) | undefined }>();
const finding = defineModel<boolean>('finding', { required: true });
</script>

<template>
  <AppButton look="link" :aria-expanded="finding" @click="finding = !finding"
    >Find … <kbd>Ctrl F</kbd></AppButton
  >
  <AppButton v-if="print" look="link" @click="print()">Print …</AppButton>
</template>
