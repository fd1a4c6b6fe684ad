<script setup lang="ts">
import { applyPatch, createPatch } from 'diff';
import { computed, ref, watch } from 'vue';
import type { DocumentView } from '../../../api/documents.ts';
import { lineEdits } from '../../../core/document/line-changes.ts';
import { draftAsText, draftOfText } from '../../../core/sheet/edits.ts';
import { wordDraftAsText, wordDraftOf } from '../../../core/word/draft.ts';
import { isPackage } from '../../../core/document/document.ts';
import { documentsApi } from '../../api/documents.ts';
import { sentenceOf } from '../../api/client.ts';
import AppButton from '../../kit/AppButton.vue';
import AppDialog from '../../kit/AppDialog.vue';
import LineCompare from './LineCompare.vue';

/** The file has changed on the site while somebody was editing it: both texts, and the ways on. Nothing is overwritten unseen. */
const props = defineProps<{ document: DocumentView; theirs: DocumentView; base: string; mine: string }>();
const emit = defineEmits<{ take: [text: string]; drop: [] }>();
const open = ref(false);
interface Texts {
  /** What both began with; null: it is no longer kept. */
  began: string | null;
  theirs: string;
  mine: string;
}
const texts = ref<Texts>();
const fault = ref('');
const isWorkbook = computed(() => props.document.kind === 'workbook');
const isPackaged = computed(() => isPackage(props.document.kind));
/** Only when they are looked at: what is written changes at every key. */
watch(
  () => [open.value, props.theirs.sha256, props.base, props.mine],
  async () => {
    if (!open.value) return;
    const { path, sha256, text } = props.theirs;
    try {
      const kept = await documentsApi.text(path, props.base).catch(() => null);
      texts.value = {
        began: kept?.text ?? null,
        theirs: isPackaged.value ? (await documentsApi.text(path, sha256)).text : text,
        mine: isPackaged.value ? (await documentsApi.edited(path, props.base, props.mine)).text : props.mine,
      };
      fault.value = '';
    } catch (error) {
      fault.value = sentenceOf(error);
    }
  },
);
/** Both changes in one, where they touch different lines or rows: what goes on is that text, or this person's changes in the workbook of the other. */
const both = computed(() => {
  const { began, theirs, mine } = texts.value ?? { began: null, theirs: '', mine: '' };
  if (began === null || props.document.kind === 'word') return undefined;
  if (!isWorkbook.value) {
    const merged = applyPatch(theirs, createPatch('', began, mine), { fuzzFactor: 0 });
    return merged === false || merged === theirs ? undefined : merged;
  }
  const { from, edits } = draftOfText(props.mine);
  // Where rows came or went, its cells are others.
  const moved = lineEdits(began, theirs).some((one) => one.before === undefined || one.after === undefined);
  const merged =
    !moved && applyPatch(theirs, createPatch('', began, mine, '', '', { context: 0 }), { fuzzFactor: 0 });
  return merged === false || from !== undefined ? undefined : draftAsText({ from, edits });
});
/** Over what is on the site by now. */
function takeMine() {
  if (!isPackaged.value) return take(props.mine);
  if (!isWorkbook.value) {
    const { from, blocks } = wordDraftOf(props.mine);
    return take(wordDraftAsText({ from: from ?? props.base, blocks }));
  }
  const { from, edits } = draftOfText(props.mine);
  take(draftAsText({ from: from ?? props.base, edits }));
}
function take(text: string) {
  open.value = false;
  emit('take', text);
}
function drop() {
  open.value = false;
  emit('drop');
}
</script>

<template>
  <p class="note losing" role="alert">
    “{{ theirs.name }}” has changed on the site since you opened it. Nothing of yours is lost.
    <AppButton look="link" @click="open = true">Compare …</AppButton>
  </p>
  <AppDialog v-model="open" width="860px" top="6vh" title="Two versions">
    <p>
      {{ isWorkbook ? 'Rows' : 'Lines' }} marked <span aria-hidden="true">−</span
      ><span class="hidden-words">removed</span> are only on the site, lines marked
      <span aria-hidden="true">+</span><span class="hidden-words">added</span> only in yours.
    </p>
    <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
    <LineCompare
      v-if="texts"
      :before="texts.theirs"
      :after="texts.mine"
      :label="`The ${isWorkbook ? 'rows' : 'text'} on the site, and yours`"
    />
    <p v-if="both !== undefined" class="soft">
      The two changes touch different {{ isWorkbook ? 'rows' : 'lines' }}, so both can be kept.
    </p>
    <p v-else-if="document.kind === 'word'" class="soft">Choose which to go on with, and edit it.</p>
    <p v-else-if="texts" class="soft">
      Both change the same {{ isWorkbook ? 'rows' : 'lines' }}, or some next to each other. Choose which to go
      on with, and edit it.
    </p>
    <template #footer>
      <AppButton @click="drop">Discard mine</AppButton>
      <AppButton @click="takeMine">Continue with mine</AppButton>
      <AppButton v-if="both !== undefined" look="main" @click="take(both)">Keep both changes</AppButton>
    </template>
  </AppDialog>
</template>
