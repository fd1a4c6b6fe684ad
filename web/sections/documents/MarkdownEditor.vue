<script setup lang="ts">
import { useTemplateRef } from 'vue';
import { readMarkdown } from '../../../core/document/read-markdown.ts';
import { writeMarkdown } from '../../../core/document/write-markdown.ts';
import type { Replaceable } from '../../parts/reading/findable.ts';
import { imageAddress, keptList, MARKUP_TOOLS, placedImage } from './shown.ts';
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
  tools: MARKUP_TOOLS,
  language: 'Markdown',
  told: kept && `Shown as Markdown source: ${kept}. It stays unchanged unless you edit it.`,
  write: (doc) => writeMarkdown(read, doc),
  image: placedImage,
};
const inner = useTemplateRef<Replaceable>('inner');
defineExpose(passedOn(inner));
</script>

<template>
  <RichEditor ref="inner" :path="path" :format="format" :locked="locked" @write="emit('write', $event)" />
</template>
