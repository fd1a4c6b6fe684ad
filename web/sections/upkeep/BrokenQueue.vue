<script setup lang="ts">
import { ref, watch } from 'vue';
import type { BrokenView } from '../../../api/pages.ts';
import { api, sentenceOf } from '../../api/client.ts';
import BrokenList from '../../parts/BrokenList.vue';
import { useSite } from '../../stores/site.ts';

const site = useSite();
const broken = ref<BrokenView[]>();
const fault = ref('');
watch(
  () => site.revision,
  async () => {
    try {
      broken.value = await api.broken();
    } catch (error) {
      fault.value = sentenceOf(error);
    }
  },
  { immediate: true },
);
</script>

<template>
  <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
  <BrokenList v-if="broken?.length" :broken="broken" pages />
  <p v-else-if="broken" class="empty">No broken references.</p>
</template>
