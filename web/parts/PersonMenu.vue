<script setup lang="ts">
import { PhCaretDown } from '@phosphor-icons/vue';
import { computed } from 'vue';
import { useRouter } from 'vue-router';
import { api } from '../api/client.ts';
import AppButton from '../kit/AppButton.vue';
import AppMenu from '../kit/AppMenu.vue';
import { useSite } from '../stores/site.ts';
import { useTray } from '../stores/tray.ts';

/** Who is signed in, and what that person has of their own; in the demo, who else one may be. */
const store = useSite();
const router = useRouter();
const tray = useTray();
const others = computed(() =>
  store.site!.demo ? store.site!.people.filter((one) => one.id !== store.site!.person.id) : [],
);
const items = computed(() => [
  ...others.value.map((one) => ({ key: `as ${one.id}`, label: `Work as ${one.name}, ${one.role}` })),
  { key: 'account', label: 'Your account', divided: others.value.length > 0 },
  ...(store.may('people') ? [{ key: 'people', label: 'People and access' }] : []),
  { key: 'out', label: 'Sign out', divided: true },
]);
async function choose(key: string) {
  if (key === 'account' || key === 'people') return router.push({ name: key });
  // What one person has gathered is not the next one's.
  tray.clear();
  if (key === 'out') {
    await api.signOut();
    // All that is shown was theirs.
    location.assign('/sign-in');
    return;
  }
  await api.signInAs(Number(key.slice('as '.length)));
  location.reload();
}
</script>

<template>
  <AppMenu :items="items" label="Account" @choose="choose"
    ><AppButton class="person"
      ><span class="hidden-words">Signed in as </span>{{ store.site!.person.name }},
      {{ store.site!.person.role }} <PhCaretDown :size="14" aria-hidden="true"
    /></AppButton>
  </AppMenu>
</template>
