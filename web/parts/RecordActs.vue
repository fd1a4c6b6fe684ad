<script setup lang="ts">
import { computed, ref } from 'vue';
import type { ItemDetail } from '../../api/items.ts';
import { api, sentenceOf } from '../api/client.ts';
import { usePlan } from '../stores/plan.ts';
import FocalDialog from './FocalDialog.vue';
import ReplaceDialog from './ReplaceDialog.vue';

/** What can be done with an item beside its words: other bytes, its focal point, a snippet for use elsewhere. */
const props = defineProps<{ detail: ItemDetail }>();
const plan = usePlan();
const item = computed(() => props.detail.item);
const replacing = ref(false);
const focusing = ref(false);
const snipping = ref(false);
const form = ref<'html' | 'markdown' | 'plain'>('html');
const size = ref<'web' | 'full'>('web');
const told = ref('');

async function copy() {
  told.value = '';
  try {
    const { text } = await api.snippet(item.value.id, form.value, size.value);
    if (text === null) {
      await plan.propose({ kind: 'sizes', itemId: item.value.id });
      told.value = 'Its web size is made first; then copy again.';
      return;
    }
    await navigator.clipboard.writeText(text);
    told.value = `Copied: ${text}`;
  } catch (error) {
    told.value = sentenceOf(error);
  }
}
const places = computed(() =>
  props.detail.placements
    .filter((one) => one.place === 'img src')
    .map((one) => ({ page: one.page, title: one.pageTitle || one.page, start: one.start, line: one.line })),
);
</script>

<template>
  <div class="acts">
    <button class="link" type="button" @click="replacing = true">Replace …</button>
    <button v-if="item.kind === 'image'" class="link" type="button" @click="focusing = true">
      Focal point …
    </button>
    <button class="link" type="button" :aria-expanded="snipping" @click="snipping = !snipping">
      Snippet …
    </button>
    <form v-if="snipping" class="snippet" @submit.prevent="copy">
      <label>
        <span class="hidden-words">Form of the snippet</span>
        <select v-model="form">
          <option value="html">HTML</option>
          <option value="markdown">Markdown</option>
          <option value="plain">address</option>
        </select>
      </label>
      <label v-if="item.kind === 'image'">
        <span class="hidden-words">Size of the picture</span>
        <select v-model="size">
          <option value="web">web size</option>
          <option value="full">full size</option>
        </select>
      </label>
      <button class="act quiet" type="submit">Copy</button>
    </form>
    <p v-if="told" class="soft mono told" role="status">{{ told }}</p>
    <ReplaceDialog v-if="replacing" :item="item" @close="replacing = false" />
    <FocalDialog v-if="focusing" :item="item" :places="places" @close="focusing = false" />
  </div>
</template>

<style scoped>
.acts {
  display: flex;
  flex-wrap: wrap;
  gap: 4px 14px;
}
.snippet {
  display: flex;
  width: 100%;
  gap: 6px;
}
.told {
  width: 100%;
  margin: 0;
  overflow-wrap: anywhere;
}
</style>
