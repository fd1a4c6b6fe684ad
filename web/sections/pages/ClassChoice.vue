<script setup lang="ts">
import AppButton from '../../kit/AppButton.vue';
import AppInput from '../../kit/AppInput.vue';
/** Classes for a placement: those that the site offers are a click away, others are typed. */
defineProps<{ offered: readonly string[] }>();
const classes = defineModel<string>({ required: true });
const names = () => classes.value.split(/\s+/).filter(Boolean);
const has = (name: string) => names().includes(name);
function toggle(name: string) {
  classes.value = (has(name) ? names().filter((one) => one !== name) : [...names(), name]).join(' ');
}
</script>

<template>
  <p v-if="offered.length" class="classes">
    <AppButton
      v-for="name in offered"
      :key="name"
      look="tile"
      class="mono"
      :aria-pressed="has(name)"
      @click="toggle(name)"
      >{{ name }}
    </AppButton>
  </p>
  <label>
    <span class="hidden-words">Classes</span>
    <AppInput v-model="classes" class="mono" spellcheck="false" maxlength="200" placeholder="none" />
  </label>
</template>

<style scoped>
.classes {
  display: flex;
  flex-wrap: wrap;
  gap: 4px;
  margin: 0;
}
.classes button {
  min-height: 24px;
  border: 1px solid var(--rule-strong);
  background: none;
  color: var(--ink);
  cursor: pointer;
}
.classes button[aria-pressed='true'] {
  background: var(--verdigris-wash);
}
</style>
