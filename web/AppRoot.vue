<script setup lang="ts">
import { useRoute, useRouter } from 'vue-router';
import { whenSignedOut } from './api/client.ts';
import { laterPart } from './kit/later.ts';

/** The window of those who are signed in; who is not sees the door. */
const AppFrame = laterPart(() => import('./AppFrame.vue'));
const route = useRoute();
const router = useRouter();
whenSignedOut(() => {
  if (!route.meta['door']) void router.replace({ name: 'sign-in', query: { back: route.fullPath } });
});
</script>

<template>
  <template v-if="route.matched.length">
    <RouterView v-if="route.meta['door']" />
    <AppFrame v-else />
  </template>
</template>
