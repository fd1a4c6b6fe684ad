<script setup lang="ts">
import { onBeforeUnmount, ref, shallowRef, useTemplateRef } from 'vue';
import type { DocumentView } from '../../../api/documents.ts';
import {
  blocksOf,
  docOf,
  NEW_IMAGE,
  NoSuchText,
  wordDraftAsText,
  wordDraftOf,
  type WordDraft,
} from '../../../core/word/draft.ts';
import { UnreadableOffice } from '../../../core/office/package.ts';
import { PART, readWord } from '../../../core/word/read-word.ts';
import { sentenceOf } from '../../api/client.ts';
import { documentsApi } from '../../api/documents.ts';
import type { Replaceable } from '../../parts/reading/findable.ts';
import { keptList } from './shown.ts';
import { passedOn } from './passed-on.ts';
import RichEditor from './RichEditor.vue';
import type { RichFormat } from './rich-format.ts';
import { wordNodes } from './word-nodes.ts';

/** A word-processor document as running text. What nobody touches keeps its bytes; what can't be edited here is told, and stays. */
const props = defineProps<{ document: DocumentView; base: string; text: string; locked: boolean }>();
const emit = defineEmits<{ write: [text: string] }>();
const fault = ref('');
const format = shallowRef<RichFormat>();
const addresses = new Map<string, string>();
onBeforeUnmount(() => addresses.forEach((address) => URL.revokeObjectURL(address)));

async function open() {
  try {
    const draft = wordDraftOf(props.text);
    const answer = await fetch(documentsApi.bytes(props.document.path, draft.from ?? props.base));
    if (!answer.ok) throw new NoSuchText('The document could not be read. Reload it.');
    format.value = formatOf(new Uint8Array(await answer.arrayBuffer()), draft);
  } catch (error) {
    const told = error instanceof UnreadableOffice || error instanceof NoSuchText;
    fault.value = told ? error.message : sentenceOf(error);
  }
}
void open();

function formatOf(bytes: Uint8Array, { from, blocks }: WordDraft): RichFormat {
  const { doc: was, parts, kept } = readWord(bytes);
  const addressOf = (src: string): string => {
    if (src.startsWith(NEW_IMAGE)) return `/api/items/${Number(src.slice(NEW_IMAGE.length))}/file`;
    const part = src.slice(PART.length);
    if (!src.startsWith(PART) || !parts.from.has(part)) return '';
    let address = addresses.get(part);
    if (address === undefined) {
      address = URL.createObjectURL(new Blob([parts.from.bytes(part).slice()]));
      addresses.set(part, address);
    }
    return address;
  };
  const list = keptList(kept);
  return {
    doc: docOf(was, blocks),
    nodes: wordNodes(`${from ?? props.base}`.slice(0, 12), addressOf),
    tools: [
      'Bold',
      'Italic',
      'Underline',
      'Strikethrough',
      'Bulleted list',
      'Numbered list',
      'Link …',
      'Image …',
      'Table',
    ],
    language: 'DOCX',
    told: list && `Can’t be edited here, and is kept as it is: ${list}.`,
    write: (doc) => ({ text: wordDraftAsText({ from, blocks: blocksOf(was, doc) }), differs: undefined }),
    image: async ({ id, words }) => ({ src: `${NEW_IMAGE}${id}`, alt: words.alt }),
  };
}
const inner = useTemplateRef<Replaceable>('inner');
defineExpose(passedOn(inner));
</script>

<template>
  <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
  <RichEditor
    v-else-if="format"
    ref="inner"
    :path="document.path"
    :format="format"
    :locked="locked"
    @write="emit('write', $event)"
  />
  <p v-else class="soft opening" role="status">Opening …</p>
</template>

<style scoped>
.note,
.opening {
  margin: 0;
  padding: 16px 24px;
}
</style>
