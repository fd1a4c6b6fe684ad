<script setup lang="ts">
import { useTemplateRef } from 'vue';
import { readHtml } from '../../../core/html/read-html.ts';
import { writeHtml } from '../../../core/html/write-html.ts';
import type { Replaceable } from '../../parts/reading/findable.ts';
import { imageAddress, keptList, MARKUP_TOOLS, placedImage } from './shown.ts';
import { passedOn } from './passed-on.ts';
import RichEditor from './RichEditor.vue';
import type { RichFormat } from './rich-format.ts';
import { htmlNodes } from './html-nodes.ts';

/** A fragment in HTML, or the main part of a page, as running text. What nobody touches is written back as it was. */
const props = defineProps<{ path: string; base: string; text: string; locked: boolean }>();
const emit = defineEmits<{ write: [text: string] }>();
const read = readHtml(props.text);
const kept = keptList(read.asItIs);
const told = [
  read.part === 'main' && 'The page’s main part. Its header, footer and head stay as they are.',
  kept && `Can’t be edited here, and is kept as it is: ${kept}.`,
];
const format: RichFormat = {
  doc: read.doc,
  nodes: htmlNodes(props.base.slice(0, 12), imageAddress(props.path)),
  tools: MARKUP_TOOLS,
  language: 'HTML',
  told: told.filter(Boolean).join(' '),
  write: (doc) => writeHtml(read, doc),
  image: placedImage,
};
const inner = useTemplateRef<Replaceable>('inner');
defineExpose(passedOn(inner));
</script>

<template>
  <RichEditor ref="inner" :path="path" :format="format" :locked="locked" @write="emit('write', $event)" />
</template>
