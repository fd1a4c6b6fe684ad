<script setup lang="ts">
import { PhQuestion } from '@phosphor-icons/vue';
import { useLocalStorage } from '@vueuse/core';
import { useTemplateRef } from 'vue';
import AppButton from '../kit/AppButton.vue';
import AppMenu from '../kit/AppMenu.vue';
import KeysSheet from './KeysSheet.vue';
import { laterPart } from '../kit/later.ts';

/** Help, and the tour that a first visit begins with. */
const FirstTour = laterPart(() => import('./FirstTour.vue'));
const seen = useLocalStorage('iconomos.tour-seen', false);
const keys = useTemplateRef('keys');
const ITEMS = [
  { key: 'keys', label: 'Keyboard shortcuts', keys: '?' },
  { key: 'tour', label: 'Show the tour' },
] as const;
function choose(key: 'keys' | 'tour') {
  if (key === 'tour') seen.value = false;
  else keys.value?.show();
}
</script>

<template>
  <AppMenu :items="ITEMS" label="Help" @choose="choose"
    ><AppButton look="glyph" aria-label="Help" title="Help"><PhQuestion :size="20" /></AppButton>
  </AppMenu>
  <KeysSheet ref="keys" />
  <FirstTour v-if="!seen" @end="seen = true" />
</template>
