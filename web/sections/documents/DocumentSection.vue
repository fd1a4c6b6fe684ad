<script setup lang="ts">
import { useEventListener } from '@vueuse/core';
import { computed, ref, useTemplateRef, watch, type Component } from 'vue';
import { useRoute, useRouter } from 'vue-router';
import type { MadeView } from '../../../api/items.ts';
import type { TextKind } from '../../../core/document/document.ts';
import { documentsApi } from '../../api/documents.ts';
import MadePdf from '../../parts/MadePdf.vue';
import AppButton from '../../kit/AppButton.vue';
import { laterPart, wantedPart } from '../../kit/later.ts';
import { moment, timeOf, weight } from '../../parts/words.ts';
import { usePlan } from '../../stores/plan.ts';
import { useSite } from '../../stores/site.ts';
import ChangedMeanwhile from './ChangedMeanwhile.vue';
import FindBar from '../../parts/reading/FindBar.vue';
import type { Replaceable } from '../../parts/reading/findable.ts';
import LineEditor from './LineEditor.vue';
import { useDocument } from './useDocument.ts';
import VersionList from './VersionList.vue';

const MarkdownEditor = laterPart(() => import('./MarkdownEditor.vue'));
const HtmlEditor = wantedPart(() => import('./HtmlEditor.vue'));
const WordEditor = wantedPart(() => import('./WordEditor.vue'));
const SheetEditor = wantedPart(() => import('./SheetEditor.vue'));

/** A document, read and edited where it lies. */
const route = useRoute();
const router = useRouter();
const site = useSite();
const plan = usePlan();
const path = computed(() => String(route.query['path'] ?? ''));
const { document, fault, text, base, savedAt, others, fresh, theirs, dirty, save, discard, goOnWith } =
  useDocument(() => path.value);
/** PDFs that were made from it, and may be of an earlier version now. */
const pdfs = ref<MadeView[]>();
watch(
  () => [document.value?.path, site.revision] as const,
  async ([at]) => {
    // Without them everything else can still be done.
    pdfs.value = at && !draft.value ? await documentsApi.pdfs(at).catch(() => undefined) : undefined;
  },
  { immediate: true },
);
const draft = computed(() => document.value?.draft ?? false);
const locked = computed(() => (draft.value ? !site.may('bring-in') : !site.can('write')));
const ENCODING = {
  'utf-8': 'UTF-8',
  'utf-16le': 'UTF-16',
  'utf-16be': 'UTF-16',
  'windows-1252': 'windows-1252',
};
const ENDS = { '\n': 'LF', '\r\n': 'CRLF', '\r': 'CR' };
const form = computed(() => {
  const at = document.value;
  if (!at) return '';
  if (!at.form) return weight(at.bytes);
  const { encoding, lineEnd, mixed } = at.form;
  return [weight(at.bytes), ENCODING[encoding], `${mixed ? 'mixed' : ENDS[lineEnd]} line endings`].join(', ');
});
const folder = computed(() => path.value.slice(0, path.value.lastIndexOf('/') + 1));
function close() {
  if (window.history.state?.back) router.back();
  else void router.push({ name: document.value?.itemId ? 'library' : 'pages' });
}
function write(words: string) {
  text.value = words;
}
/** A text from elsewhere: the editor begins anew with it. */
function begin(words: string) {
  text.value = words;
  fresh.value++;
}
const editor = useTemplateRef<Replaceable>('editor');
const finding = ref(false);
/** A table in text, and HTML, can be edited as they are written, too. */
const asText = ref(false);
const ALSO_AS_TEXT: Partial<Record<TextKind, { text: string; other: string }>> = {
  table: { text: 'Edit as text', other: 'Edit as table' },
  html: { text: 'HTML source', other: 'Running text' },
};
const also = computed(() => document.value && ALSO_AS_TEXT[document.value.kind]);
const inCells = computed(
  () => document.value?.kind === 'workbook' || (document.value?.kind === 'table' && !asText.value),
);
const RICH: Partial<Record<TextKind, Component>> = { markdown: MarkdownEditor, html: HtmlEditor };
const textEditor = computed(
  () => (!asText.value && document.value && RICH[document.value.kind]) || LineEditor,
);
async function turn() {
  await editor.value?.settle?.();
  finding.value = false;
  asText.value = !asText.value;
}
/** What was typed just now can be saved at once. */
const unsaved = computed(() => dirty.value || editor.value?.waiting === true);
let saving = false;
async function saveAll() {
  if (saving) return;
  saving = true;
  try {
    await editor.value?.settle?.();
    if (dirty.value && !theirs.value) await save();
  } finally {
    saving = false;
  }
}
watch(path, () => (asText.value = false));
watch([path, fresh], () => (finding.value = false));
useEventListener(window, 'keydown', async (event) => {
  if (!['s', 'f'].includes(event.key) || !(event.ctrlKey || event.metaKey) || event.altKey || event.shiftKey)
    return;
  event.preventDefault();
  if (event.key === 's') {
    if (!locked.value && !plan.plan) await saveAll();
    return;
  }
  await editor.value?.settle?.();
  finding.value = document.value !== undefined;
});
</script>

<template>
  <div class="document">
    <header>
      <div class="name">
        <h1>{{ document?.name ?? path }}</h1>
        <p class="soft mono">{{ folder }}</p>
      </div>
      <p v-if="document" class="soft figures">{{ form }}</p>
      <span class="spread"></span>
      <p v-if="dirty && savedAt" class="soft figures" role="status">
        {{
          draft
            ? `Kept at ${timeOf(savedAt)}; not saved yet`
            : `Draft kept at ${timeOf(savedAt)}; not on the site yet`
        }}
      </p>
      <AppButton v-if="also" look="link" @click="turn">{{ asText ? also.other : also.text }}</AppButton>
      <AppButton v-if="document" look="link" :aria-expanded="finding" @click="finding = !finding"
        >Find … <kbd>Ctrl F</kbd></AppButton
      >
      <template v-if="document && !locked">
        <AppButton v-if="dirty" look="link" @click="discard">Discard changes</AppButton>
        <AppButton look="main" :disabled="!unsaved || theirs !== undefined" :busy="plan.busy" @click="saveAll"
          >Save … <kbd>Ctrl S</kbd></AppButton
        >
      </template>
      <AppButton @click="close">Close</AppButton>
    </header>
    <div class="notes">
      <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
      <p v-if="others.length" class="note" role="status">
        {{ others.map(({ person, savedAt: at }) => `${person} (${moment(at)})`).join(', ') }}
        {{ others.length === 1 ? 'has' : 'have' }} unsaved changes in this document. Whoever saves second sees
        both texts.
      </p>
      <ChangedMeanwhile
        v-if="document && theirs"
        :document="document"
        :theirs="theirs"
        :base="base"
        :mine="text"
        @take="goOnWith"
        @drop="discard"
      />
      <FindBar
        v-if="finding && editor"
        :document="editor"
        :text="text"
        :editor="locked ? undefined : editor"
        @close="finding = false"
      />
    </div>
    <div v-if="document" class="body">
      <component
        :is="inCells ? SheetEditor : WordEditor"
        v-if="inCells || document.kind === 'word'"
        ref="editor"
        :key="`${document.path} ${fresh} ${inCells}`"
        :document="document"
        :base="base"
        :text="text"
        :locked="locked"
        @write="write"
      />
      <component
        :is="textEditor"
        v-else
        ref="editor"
        :key="`${document.path} ${fresh} ${asText}`"
        :path="document.path"
        :base="textEditor === HtmlEditor ? base : undefined"
        :text="text"
        :locked="locked"
        @write="write"
      />
      <aside>
        <MadePdf v-if="pdfs" :path="document.path" :made-from="null" :pdfs="pdfs" heading="h2" />
        <p v-if="draft" class="soft">
          A draft: it is not on the site yet. Its versions are kept from when it is published.
        </p>
        <VersionList v-else :document="document" :locked="locked" @take="begin" />
      </aside>
    </div>
  </div>
</template>

<style scoped>
.document {
  display: grid;
  height: 100%;
  min-height: 0;
  grid-template: auto auto minmax(0, 1fr) / minmax(0, 1fr);
}
header {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  padding: 12px 24px;
  border-bottom: 1px solid var(--rule);
  gap: 6px 14px;
}
header p,
h1 {
  margin: 0;
}
h1 {
  overflow-wrap: anywhere;
}
.spread {
  flex: 1;
}
.notes > * {
  margin: 0;
  padding: 8px 24px;
}
.body {
  display: grid;
  min-height: 0;
  grid-template-columns: minmax(0, 1fr) 280px;
}
aside {
  padding: 14px 20px;
  border-left: 1px solid var(--rule);
  overflow: auto;
}
aside > :not(:last-child) {
  margin-bottom: 20px;
}
@media (width <= 900px) {
  .body {
    grid-template: minmax(300px, 1fr) auto / minmax(0, 1fr);
    overflow: auto;
  }
  aside {
    border-top: 1px solid var(--rule);
    border-left: 0;
  }
}
</style>
