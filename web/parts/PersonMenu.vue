<script setup lang="ts">
import { useSite } from '../stores/site.ts';
import AppOption from '../kit/AppOption.ts';
import AppSelect from '../kit/AppSelect.vue';

const store = useSite();
</script>

<template>
  <label class="person">
    <span class="hidden-words">Signed in as</span>
    <AppSelect :model-value="store.site!.person.id" :chars="22" @change="store.choosePerson"
      ><AppOption
        v-for="one in store.site!.people"
        :key="one.id"
        :value="one.id"
        :label="`${one.name}, ${one.role}`"
      />
    </AppSelect>
  </label>
</template>
