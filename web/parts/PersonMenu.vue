<script setup lang="ts">
import { useSite } from '../stores/site.ts';

const store = useSite();
function choose(event: Event) {
  void store.choosePerson(Number((event.target as HTMLSelectElement).value));
}
</script>

<template>
  <label class="person">
    <span class="hidden-words">Signed in as</span>
    <select :value="store.site!.person.id" @change="choose">
      <option v-for="one in store.site!.people" :key="one.id" :value="one.id">
        {{ one.name }}, {{ one.role }}
      </option>
    </select>
  </label>
</template>

<style scoped>
select {
  height: 30px;
  border: 0;
  border-bottom: 1px solid var(--rule-strong);
  background: transparent;
}
select option {
  background: var(--paper-raised);
}
</style>
