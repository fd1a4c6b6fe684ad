<script setup lang="ts">
/** The ways to describe: one after the other, as a sheet, and the names. */
const WAYS = [
  ['describe', 'Queue'],
  ['suggested-tags', 'Suggested tags'],
  ['page-words', 'Text on pages'],
  ['table', 'Table'],
  ['names', 'Names'],
] as const;
</script>

<template>
  <nav aria-label="Ways to describe">
    <RouterLink v-for="[name, words] in WAYS" :key="name" :to="{ name }">{{ words }}</RouterLink>
  </nav>
</template>

<style scoped>
nav {
  display: flex;
  flex-wrap: wrap;
  gap: 2px 14px;
  white-space: nowrap;
}
a {
  padding: 2px 0;
  border-bottom: 2px solid transparent;
  color: var(--ink);
  text-decoration: none;
}
a.router-link-exact-active {
  border-bottom-color: var(--verdigris);
  color: var(--verdigris);
  font-weight: 650;
}
</style>
