<script setup lang="ts">
import { computed, onMounted, reactive, ref } from 'vue';
import type { LayoutView } from '../../api/pages.ts';
import type { LayoutPart } from '../../core/reference/layout.ts';
import { api, sentenceOf } from '../api/client.ts';
import AppDialog from '../kit/AppDialog.vue';
import { usePlan } from '../stores/plan.ts';
import AppButton from '../kit/AppButton.vue';
import AppInput from '../kit/AppInput.vue';

/** Where pages, media and what is served lie in the site's folder; what is left empty is found out. */
const emit = defineEmits<{ close: [] }>();
const plan = usePlan();
const open = computed({ get: () => true, set: () => emit('close') });
const view = ref<LayoutView>();
const fault = ref('');
const texts = reactive<Record<LayoutPart, string>>({
  public: '',
  pages: '',
  media: '',
  leftOut: '',
  published: '',
});

onMounted(async () => {
  try {
    view.value = await api.layout();
    for (const part of Object.keys(texts) as LayoutPart[])
      texts[part] = view.value.set[part].map((line) => line || '/').join('\n');
  } catch (error) {
    fault.value = sentenceOf(error);
  }
});
const PARTS = computed<{ part: LayoutPart; name: string; help: string; found: string }[]>(() => [
  {
    part: 'public',
    name: 'Served from the root',
    help: 'Folders whose contents visitors get under /. A generator’s “static” or “public”, or / for the site’s own folder.',
    found: view.value?.public.map((one) => one || '/').join(', ') ?? '',
  },
  {
    part: 'pages',
    name: 'Pages lie in',
    help: 'Only there files are read as pages. Everywhere, when empty.',
    found: 'everywhere',
  },
  {
    part: 'media',
    name: 'Media lie in',
    help: 'Only there files are items. Everywhere, when empty.',
    found: 'everywhere',
  },
  {
    part: 'leftOut',
    name: 'Not looked at',
    help: 'Folders that a generator writes, packages, archives.',
    found: 'nothing',
  },
  {
    part: 'published',
    name: 'Own addresses',
    help: 'Where the site is published, as https://www.site.example/. Such addresses on pages then lead to its own files.',
    found: view.value?.published.join(', ') || 'none was learned',
  },
]);
async function show() {
  const lines = (text: string) =>
    text
      .split('\n')
      .map((line) => line.trim())
      .filter(Boolean);
  await plan.propose({
    kind: 'layout',
    layout: {
      public: lines(texts.public),
      pages: lines(texts.pages),
      media: lines(texts.media),
      leftOut: lines(texts.leftOut),
      published: lines(texts.published),
    },
  });
  emit('close');
}
</script>

<template>
  <AppDialog v-model="open" width="720px" top="6vh" title="Site folders">
    <p v-if="fault" class="note losing">{{ fault }}</p>
    <form id="layout" @submit.prevent="show">
      <div v-for="one in PARTS" :key="one.part" class="part">
        <label :for="`layout-${one.part}`">{{ one.name }}</label>
        <AppInput
          :id="`layout-${one.part}`"
          v-model="texts[one.part]"
          class="mono"
          spellcheck="false"
          :placeholder="one.found ? `detected: ${one.found}` : ''"
          :aria-describedby="`layout-help-${one.part}`"
          :rows="2"
        />
        <p :id="`layout-help-${one.part}`" class="soft">{{ one.help }} One per line.</p>
      </div>
    </form>
    <template #footer>
      <AppButton look="main" type="submit" form="layout" :disabled="plan.busy">Review changes</AppButton>
      <AppButton @click="emit('close')">Cancel</AppButton>
    </template>
  </AppDialog>
</template>

<style scoped>
.part {
  display: grid;
  grid-template-columns: 150px 1fr;
  gap: 2px 12px;
  padding: 6px 0;
  border-bottom: 1px solid var(--rule);
}
.part p {
  grid-column: 2;
  margin: 0;
}
</style>
