<script setup lang="ts">
import { computed } from 'vue';
import type { MadeView } from '../../api/items.ts';
import { isPrintable } from '../../core/document/reading.ts';
import AppButton from '../kit/AppButton.vue';
import { usePlan } from '../stores/plan.ts';
import { useSite } from '../stores/site.ts';

/** The PDFs of a document, or the document of a PDF: made anew when the document has changed. */
const props = defineProps<{
  path: string;
  madeFrom: MadeView | null;
  pdfs: readonly MadeView[];
  /** What it stands under. */
  heading?: 'h2' | 'h3';
}>();
const plan = usePlan();
const site = useSite();
const printable = computed(() => isPrintable(props.path));
const may = computed(() => site.can('clean'));
const make = (path: string) => plan.propose({ kind: 'make-pdf', path });
const to = ({ id, path }: MadeView) =>
  id === null ? { name: 'document', query: { path } } : { name: 'library', query: { item: id } };
</script>

<template>
  <section v-if="madeFrom || pdfs.length || (printable && may)" aria-label="PDF">
    <component :is="heading ?? 'h3'">PDF</component>
    <p v-if="madeFrom">
      Made from
      <RouterLink class="mono" :to="to(madeFrom)" :title="madeFrom.path">{{ madeFrom.name }}</RouterLink>{{
        madeFrom.current ? '.' : ', which has changed since.'
      }}
    </p>
    <p v-for="one in pdfs" :key="one.path">
      <RouterLink class="mono" :to="to(one)" :title="one.path">{{ one.name }}</RouterLink>
      {{ one.current ? 'is up to date.' : 'was made from an earlier version.' }}
    </p>
    <template v-if="may">
      <AppButton v-if="madeFrom && !madeFrom.current" @click="make(madeFrom.path)">Remake PDF …</AppButton>
      <AppButton v-else-if="printable && !pdfs.length" @click="make(path)">Make PDF …</AppButton>
      <AppButton v-else-if="pdfs.some((one) => !one.current)" @click="make(path)">Remake PDF …</AppButton>
    </template>
  </section>
</template>

<style scoped>
h2 {
  margin: 0 0 8px;
}
p {
  margin: 0 0 6px;
}
</style>
