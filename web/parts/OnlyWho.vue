<script setup lang="ts">
import type { ItemView } from '../../api/items.ts';
import { whoMay, type Right } from '../../core/people/rights.ts';
import { useSite } from '../stores/site.ts';

/** Who may do what somebody may not; nothing for who may. The words that follow: 'can delete for good.' Of an item, also where they may. */
defineProps<{ right: Right; item?: Pick<ItemView, 'state' | 'path'> }>();
const site = useSite();
</script>

<template>
  <p v-if="!site.may(right)" class="soft">Only {{ whoMay(right) }} <slot></slot></p>
  <p v-else-if="item && !site.reachesItem(item)" class="soft">
    You work in {{ site.site?.person.folders.join(', ') }} only. Other changes you can propose.
  </p>
</template>
