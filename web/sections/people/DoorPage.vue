<script setup lang="ts">
/** A page for who is not signed in: one thing to do, under the name of the site. */
defineProps<{ site: string | undefined; title: string }>();
</script>

<template>
  <main>
    <div class="sheet">
      <p class="site">{{ site ?? ' ' }}</p>
      <h1>{{ title }}</h1>
      <slot></slot>
    </div>
  </main>
</template>

<style scoped>
main {
  height: 100%;
  overflow: auto;
}
.sheet {
  width: min(560px, 100% - 32px);
  padding: 30px 34px 34px;
  border: 1px solid var(--rule-strong);
  border-top: 5px solid var(--verdigris);
  margin: 9vh auto 24px;
  background: var(--paper-raised);
}
.site {
  color: var(--ink-soft);
  font-family: var(--mono);
}
h1 {
  padding: 2px 0 18px;
  font-size: 24px;
}
.sheet :deep(form) {
  display: grid;
  max-width: 380px;
  gap: 14px;
  justify-items: start;
}
.sheet :deep(form label) {
  display: grid;
  width: 100%;
  gap: 3px;
}
.sheet :deep(form .note) {
  width: 100%;
}
</style>
