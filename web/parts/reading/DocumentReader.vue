<script setup lang="ts">
import { useEventListener } from '@vueuse/core';
import { computed, ref, shallowRef, useTemplateRef } from 'vue';
import type { ItemText, ItemView } from '../../../api/items.ts';
import { readCalendar } from '../../../core/document/calendar.ts';
import { readingKindOf } from '../../../core/document/reading.ts';
import { escapeHtml } from '../../../core/office/paper.ts';
import { api, sentenceOf } from '../../api/client.ts';
import AppButton from '../../kit/AppButton.vue';
import { wantedPart } from '../../kit/later.ts';
import type { Findable } from './findable.ts';
import FindBar from './FindBar.vue';
import ReadingActs from './ReadingActs.vue';
import type { Opened } from './reading-worker.ts';
import { useReader } from './useReader.ts';

const PdfReader = wantedPart(() => import('./PdfReader.vue'));
const SheetReader = wantedPart(() => import('./SheetReader.vue'));
const PaperReader = wantedPart(() => import('./PaperReader.vue'));

/** A document read where it lies: by pages, as sheets, or as text on paper. It belongs to one item. */
const props = defineProps<{ item: ItemView }>();
const kind = computed(() => readingKindOf(props.item.name));
const address = `/api/items/${props.item.id}/file`;
const reader = useReader();
const opened = shallowRef<Opened>();
const text = shallowRef<ItemText>();
const fault = ref('');
const progress = ref(0);
const say = (error: unknown) => {
  fault.value = sentenceOf(error);
};

async function open() {
  try {
    if (kind.value === 'pdf') return;
    if (['word', 'odt', 'slides', 'sheets', 'table'].includes(kind.value))
      opened.value = await reader.open(
        { address, kind: kind.value, name: props.item.name },
        (share) => (progress.value = share),
      );
    else text.value = await api.textOf(props.item.id);
  } catch (error) {
    say(error);
    // What was read of it for searching is better than nothing.
    text.value = await api.textOf(props.item.id).catch(() => undefined);
  }
}
void open();

const calendar = computed(() =>
  kind.value === 'calendar' && text.value?.text ? readCalendar(text.value.text) : undefined,
);
const paper = computed(() => {
  const at = opened.value;
  if (at && 'paper' in at) return { html: at.paper.html };
  if (at && 'bytes' in at)
    return {
      fill: async (into: HTMLElement) => {
        const { drawWord } = await import('./draw-word.ts');
        await drawWord(at.bytes, into);
      },
    };
  if (calendar.value) return { html: calendar.value.html };
  if (text.value?.text && kind.value === 'markdown')
    return {
      fill: async (into: HTMLElement) => {
        const { markdownOnPaper } = await import('./markdown-on-paper.ts');
        into.innerHTML = markdownOnPaper(text.value!.text);
      },
    };
  // As it stands: of what can't be drawn, what was read of it for searching.
  if (text.value?.text) return { html: `<article><pre>${escapeHtml(text.value.text)}</pre></article>` };
  return undefined;
});
const notes = computed(() => {
  const at = opened.value;
  if (!at)
    return [
      ...(calendar.value?.notes ?? []),
      ...(text.value?.more ? ['It goes on in the file: this is its beginning.'] : []),
    ];
  return 'sheets' in at ? [] : 'paper' in at ? at.paper.notes : at.notes;
});
const zoom = ref(1);
const zoomBy = (factor: number) => (zoom.value = Math.min(4, Math.max(0.5, zoom.value * factor)));

type Shown = Findable & { print?: (() => void) | undefined; onKey?: (event: KeyboardEvent) => boolean };
const shown = useTemplateRef<Shown>('shown');
const finding = ref(false);
const root = useTemplateRef('root');
/** @returns whether the key was meant for the document */
function onKey(event: KeyboardEvent): boolean {
  if (event.key === 'Escape' && finding.value) {
    finding.value = false;
    event.preventDefault();
    return true;
  }
  if (shown.value?.onKey?.(event)) {
    event.preventDefault();
    return true;
  }
  const act =
    paper.value &&
    { '+': () => zoomBy(1.25), '-': () => zoomBy(0.8), '0': () => (zoom.value = 1) }[event.key];
  if (!act) return false;
  event.preventDefault();
  act();
  return true;
}
useEventListener('keydown', (event) => {
  if (
    event.key !== 'f' ||
    !(event.ctrlKey || event.metaKey) ||
    event.shiftKey ||
    event.altKey ||
    !shown.value
  )
    return;
  event.preventDefault();
  finding.value = true;
});
defineExpose({
  onKey,
  /** Whether it takes a key itself, as its focus is in it. */
  takes: (event: KeyboardEvent) =>
    root.value?.contains(event.target as Node) === true && (event.key !== 'Escape' || finding.value),
});
</script>

<template>
  <div ref="root" class="read" @wheel.stop @pointerdown.stop>
    <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
    <FindBar v-if="finding && shown" :document="shown" @close="finding = false" />
    <PdfReader
      v-if="kind === 'pdf' && !fault"
      ref="shown"
      :name="item.name"
      :address="address"
      :bytes="item.bytes"
      @fault="fault = $event"
    >
      <ReadingActs v-model:finding="finding" :print="shown?.print" />
    </PdfReader>
    <SheetReader
      v-else-if="opened && 'sheets' in opened"
      ref="shown"
      :name="item.name"
      :sheets="opened.sheets"
      :reader="reader"
      @fault="say"
    >
      <ReadingActs v-model:finding="finding" :print="shown?.print" />
    </SheetReader>
    <template v-else-if="paper">
      <div class="acts">
        <ReadingActs v-model:finding="finding" :print="shown?.print" />
        <span class="spread"></span>
        <AppButton look="link" @click="zoomBy(0.8)">Smaller (-)</AppButton>
        <AppButton look="link" @click="zoomBy(1.25)">Larger (+)</AppButton>
        <span class="figures soft">{{ Math.round(zoom * 100) }} %</span>
      </div>
      <PaperReader ref="shown" :name="item.name" :zoom="zoom" v-bind="paper" @fault="say" />
      <p v-for="note in notes" :key="note" class="soft">{{ note }}</p>
    </template>
    <p v-else-if="text" class="soft">
      No text could be read in it. Download it, and open it with its own program.
    </p>
    <p v-else-if="!fault" class="soft" role="status">
      Opening “{{ item.name }}” …<template v-if="progress > 0"> {{ Math.round(progress * 100) }} %</template>
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
  padding: 6px 12px;
  gap: 8px;
}
.read > :deep(.find) {
  width: 100%;
  padding: 4px 0;
  border: 0;
}
.acts {
  display: flex;
  width: 100%;
  flex-wrap: wrap;
  align-items: baseline;
  gap: 4px 16px;
}
.spread {
  flex: 1;
}
.read > p {
  margin: 0;
}
</style>
