<script setup lang="ts">
import { whoMay, type Right } from '../../core/people/rights.ts';
import { useSite } from '../stores/site.ts';

/** Who may do what somebody may not; nothing for who may. The words that follow: 'can delete for good.' */
defineProps<{ right: Right }>();
const site = useSite();
</script>

<template>
  <p v-if="!site.may(right)" class="soft">Only {{ whoMay(right) }} <slot></slot></p>
</template>
