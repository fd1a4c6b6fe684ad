<script setup lang="ts">
/** Fields that belong together: all of them are off where `disabled`. */
defineProps<{ disabled?: boolean }>();
</script>

<template>
  <form>
    <fieldset :disabled="disabled"><slot></slot></fieldset>
  </form>
</template>

<style scoped>
fieldset {
  display: contents;
}
</style>
