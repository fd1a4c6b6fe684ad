<script setup lang="ts">
import { computed, ref, watch } from 'vue';
import type { ItemDetail, ItemText, ItemView } from '../../api/items.ts';
import { api, sentenceOf } from '../api/client.ts';
import AppTable from '../kit/AppTable.vue';
import AppButton from '../kit/AppButton.vue';
import AppNumber from '../kit/AppNumber.vue';

/** A document read in place: the pages of a PDF, the rows of a table, or its text. */
const props = defineProps<{
  item: ItemView;
  /** Width of a page in widths of the pane; 0: the whole page is seen. */
  zoom: number;
}>();
const pages = ref(0);
const page = ref(1);
const text = ref<ItemText>();
const fault = ref('');
watch(
  () => props.item.id,
  async (id) => {
    pages.value = 0;
    page.value = 1;
    text.value = undefined;
    fault.value = '';
    try {
      const detail: ItemDetail = await api.item(id);
      pages.value = props.item.mime === 'application/pdf' ? (detail.content?.pages ?? 0) : 0;
      if (pages.value === 0) text.value = await api.textOf(id);
    } catch (error) {
      fault.value = sentenceOf(error);
    }
  },
  { immediate: true },
);
/** The lines of a table below its first, each cell under its column's number. */
const cells = computed(() =>
  (text.value?.rows ?? []).slice(1).map((row, line): Record<string, string> => ({
    ...Object.fromEntries(row.map((cell, at) => [String(at), cell])),
    line: String(line),
  })),
);
function turn(by: number) {
  page.value = Math.min(pages.value, Math.max(1, page.value + by));
  fault.value = '';
}
/** Page up and down turn pages; everything else belongs to the window around it. */
function onKey(event: KeyboardEvent) {
  const by = { PageDown: 1, PageUp: -1 }[event.key];
  if (!by || pages.value === 0) return;
  event.preventDefault();
  turn(by);
}
defineExpose({ onKey });
</script>

<template>
  <div class="read" @wheel.stop @pointerdown.stop>
    <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
    <template v-if="pages">
      <div class="turner" role="group" aria-label="Pages">
        <AppButton look="link" :disabled="page <= 1" @click="turn(-1)">Page before</AppButton>
        <label
          >Page
          <AppNumber v-model="page" :min="1" :max="pages" @change="turn(0)" />
          of {{ pages }}</label
        >
        <AppButton look="link" :disabled="page >= pages" @click="turn(1)">Next page</AppButton>
        <span class="soft">Page up, Page down</span>
      </div>
      <div
        class="paper"
        :class="{ whole: zoom === 0 }"
        tabindex="0"
        :aria-label="`Page ${page} of ${pages}`"
        role="region"
      >
        <img
          :key="page"
          :src="`/api/items/${item.id}/pages/${page}`"
          :alt="`Page ${page} of ${item.name}`"
          :style="zoom > 0 ? { width: `${100 * zoom}%`, maxWidth: 'none' } : {}"
          @error="fault = `Page ${page} cannot be shown. Open the file itself.`"
        />
      </div>
    </template>
    <div
      v-else-if="text?.rows"
      class="paper"
      tabindex="0"
      role="region"
      :aria-label="`The table ${item.name}`"
    >
      <AppTable
        :label="item.name"
        :rows="cells"
        :columns="(text.rows[0] ?? []).map((label, at) => ({ key: String(at), label, minWidth: 110 }))"
        :row-key="(row) => row.line!"
      />
      <p v-if="text.more" class="soft">It goes on in the file.</p>
    </div>
    <div
      v-else-if="text?.text"
      class="paper"
      tabindex="0"
      role="region"
      :aria-label="`The text of ${item.name}`"
    >
      <pre>{{ text.text }}</pre>
    </div>
    <p v-else-if="text" class="soft">
      No text could be read in it. Download it, and open it with its own program.
    </p>
  </div>
</template>

<style scoped>
.read {
  display: flex;
  width: 100%;
  height: 100%;
  min-height: 0;
  flex-direction: column;
  align-items: center;
  gap: 8px;
}
.turner {
  display: flex;
  align-items: center;
  padding-top: 6px;
  gap: 14px;
}
.paper {
  width: min(100%, 920px);
  min-height: 0;
  flex: 1;
  padding: 14px 20px;
  background: var(--paper-raised);
  overflow: auto;
}
.paper img {
  display: block;
  max-width: 100%;
  margin: 0 auto;
}
.paper.whole {
  display: grid;
  background: none;
  place-items: center;
}
.paper.whole img {
  max-height: 100%;
  min-height: 0;
}
pre {
  margin: 0;
  font: 14px/1.5 var(--sans);
  white-space: pre-wrap;
}
</style>
