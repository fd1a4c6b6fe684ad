<script setup lang="ts">
import { computed } from 'vue';
import type { ItemDetail } from '../../api/items.ts';
import { isPrintable } from '../../core/document/reading.ts';
import AppButton from '../kit/AppButton.vue';
import { usePlan } from '../stores/plan.ts';
import { useSite } from '../stores/site.ts';

/** The PDF of a document, or the document of a PDF: made anew when the document has changed. */
const props = defineProps<{
  detail: Pick<ItemDetail, 'item' | 'madeFrom' | 'pdfs'>;
  /** What it stands under. */
  heading?: 'h2' | 'h3';
}>();
const plan = usePlan();
const site = useSite();
const item = computed(() => props.detail.item);
const printable = computed(() => item.value.state === 'here' && isPrintable(item.value.path));
const may = computed(() => site.can('clean'));
const make = (itemId: number) => plan.propose({ kind: 'make-pdf', itemId });
const to = (id: number) => ({ name: 'library', query: { item: id } });
</script>

<template>
  <section v-if="detail.madeFrom || detail.pdfs.length || (printable && may)" aria-label="PDF">
    <component :is="heading ?? 'h3'">PDF</component>
    <p v-if="detail.madeFrom">
      Made from
      <RouterLink class="mono" :to="to(detail.madeFrom.id)" :title="detail.madeFrom.path">{{
        detail.madeFrom.name
      }}</RouterLink>{{ detail.madeFrom.current ? '.' : ', which has changed since.' }}
    </p>
    <p v-for="one in detail.pdfs" :key="one.id">
      <RouterLink class="mono" :to="to(one.id)" :title="one.path">{{ one.name }}</RouterLink>
      {{ one.current ? 'is up to date.' : 'was made from an earlier version.' }}
    </p>
    <template v-if="may">
      <AppButton v-if="detail.madeFrom && !detail.madeFrom.current" @click="make(detail.madeFrom.id)"
        >Remake PDF …</AppButton
      >
      <AppButton v-else-if="printable && !detail.pdfs.length" @click="make(item.id)">Make PDF …</AppButton>
      <AppButton v-else-if="detail.pdfs.some((one) => !one.current)" @click="make(item.id)"
        >Remake PDF …</AppButton
      >
    </template>
  </section>
</template>

<style scoped>
p {
  margin: 0 0 6px;
}
</style>
