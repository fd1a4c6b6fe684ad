<script setup lang="ts">
import { useTemplateRef } from 'vue';
import { readMarkdown } from '../../../core/document/read-markdown.ts';
import { writeMarkdown } from '../../../core/document/write-markdown.ts';
import { api } from '../../api/client.ts';
import type { Replaceable } from '../../parts/reading/findable.ts';
import { imageAddress, keptList } from './shown.ts';
import { passedOn } from './passed-on.ts';
import RichEditor from './RichEditor.vue';
import type { RichFormat } from './rich-format.ts';
import { markdownNodes } from './rich-nodes.ts';

/** A Markdown text as running text. What nobody touches is written back as it was. */
const props = defineProps<{ path: string; text: string; locked: boolean }>();
const emit = defineEmits<{ write: [text: string] }>();
const read = readMarkdown(props.text);
const kept = keptList(read.asSource);
const format: RichFormat = {
  doc: read.doc,
  nodes: markdownNodes(imageAddress(props.path)),
  tools: [
    'Bold',
    'Italic',
    'Strikethrough',
    'Code',
    'Bulleted list',
    'Numbered list',
    'Quotation',
    'Horizontal line',
    'Link …',
    'Image …',
    'Table',
  ],
  language: 'Markdown',
  told: kept && `Shown as Markdown source: ${kept}. It stays unchanged unless you edit it.`,
  write: (doc) => writeMarkdown(read, doc),
  async image(item) {
    const { text } = await api.snippet(item.id, 'plain', 'full');
    return text === null ? undefined : { src: text, alt: item.words.alt };
  },
};
const inner = useTemplateRef<Replaceable>('inner');
defineExpose(passedOn(inner));
</script>

<template>
  <RichEditor ref="inner" :path="path" :format="format" :locked="locked" @write="emit('write', $event)" />
</template>
