<script setup lang="ts">
import {
  PhArrowArcLeft,
  PhArrowArcRight,
  PhCode,
  PhImage,
  PhLink,
  PhListBullets,
  PhListNumbers,
  PhMinus,
  PhQuotes,
  PhTable,
  PhTextB,
  PhTextItalic,
  PhTextStrikethrough,
  PhTextUnderline,
} from '@phosphor-icons/vue';
import { EditorContent, useEditor } from '@tiptap/vue-3';
import { computed, ref, watch, type Component } from 'vue';
import type { ItemView } from '../../../api/items.ts';
import type { Found } from '../../../core/document/find.ts';
import type { Group } from '../../../core/find/query.ts';
import { wordCount, type RichNode } from '../../../core/document/rich.ts';
import { sentenceOf } from '../../api/client.ts';
import AppButton from '../../kit/AppButton.vue';
import AppDialog from '../../kit/AppDialog.vue';
import AppInput from '../../kit/AppInput.vue';
import AppOption from '../../kit/AppOption.ts';
import AppSelect from '../../kit/AppSelect.vue';
import ItemPicker from '../../parts/ItemPicker.vue';
import { count } from '../../parts/words.ts';
import type { Replaceable } from '../../parts/reading/findable.ts';
import type { RichFormat, RichTool } from './rich-format.ts';
import { FoundMarks, mark, placesIn } from './finding.ts';
import { useWriting } from './useWriting.ts';

/** A text as running text, with headings, lists, links, images and tables. */
const props = defineProps<{ path: string; format: RichFormat; locked: boolean }>();
const emit = defineEmits<{ write: [text: string] }>();
const words = ref(0);
const fault = ref('');
/** What would be read as something else than it looks like here. */
const differs = ref<string>();

const editor = useEditor({
  content: props.format.doc,
  editable: !props.locked,
  extensions: [...props.format.nodes, FoundMarks],
  editorProps: {
    attributes: { 'aria-label': `Text of ${props.path}`, role: 'textbox', 'aria-multiline': 'true' },
  },
  onCreate: ({ editor: made }) => (words.value = wordCount(made.getJSON() as RichNode)),
  onUpdate: ({ transaction }) => {
    if (transaction.docChanged) writing.soon();
  },
});
const writing = useWriting(() => {
  const doc = editor.value!.getJSON() as RichNode;
  words.value = wordCount(doc);
  const written = props.format.write(doc);
  differs.value = written.differs;
  emit('write', written.text);
});
watch(
  () => props.locked,
  (locked) => editor.value?.setEditable(!locked),
);

const chain = () => editor.value!.chain().focus();
const block = computed(() => {
  const at = editor.value;
  if (!at) return 'p';
  const level = [1, 2, 3, 4, 5, 6].find((one) => at.isActive('heading', { level: one }));
  return level === undefined ? 'p' : `h${level}`;
});
function setBlock(to: string) {
  if (to === 'p') chain().setParagraph().run();
  else
    chain()
      .setHeading({ level: Number(to.slice(1)) as 1 })
      .run();
}
interface Tool {
  name: RichTool;
  icon: Component;
  on?: string;
  act: () => void;
}
const ALL: Tool[][] = [
  [
    { name: 'Bold', icon: PhTextB, on: 'bold', act: () => chain().toggleBold().run() },
    { name: 'Italic', icon: PhTextItalic, on: 'italic', act: () => chain().toggleItalic().run() },
    {
      name: 'Underline',
      icon: PhTextUnderline,
      on: 'underline',
      act: () => chain().toggleUnderline().run(),
    },
    {
      name: 'Strikethrough',
      icon: PhTextStrikethrough,
      on: 'strike',
      act: () => chain().toggleStrike().run(),
    },
    { name: 'Code', icon: PhCode, on: 'code', act: () => chain().toggleCode().run() },
  ],
  [
    {
      name: 'Bulleted list',
      icon: PhListBullets,
      on: 'bulletList',
      act: () => chain().toggleBulletList().run(),
    },
    {
      name: 'Numbered list',
      icon: PhListNumbers,
      on: 'orderedList',
      act: () => chain().toggleOrderedList().run(),
    },
    { name: 'Quotation', icon: PhQuotes, on: 'blockquote', act: () => chain().toggleBlockquote().run() },
    { name: 'Horizontal line', icon: PhMinus, act: () => chain().setHorizontalRule().run() },
  ],
  [
    { name: 'Link …', icon: PhLink, on: 'link', act: () => openLink() },
    { name: 'Image …', icon: PhImage, act: () => (picking.value = true) },
    {
      name: 'Table',
      icon: PhTable,
      act: () => chain().insertTable({ rows: 3, cols: 3, withHeaderRow: true }).run(),
    },
  ],
];
const TOOLS = ALL.map((group) => group.filter(({ name }) => props.format.tools.includes(name)));
const onImage = computed(() => editor.value?.isActive('image') ?? false);
const altText = ref('');
const describing = ref(false);
function openAlt() {
  altText.value = String(editor.value?.getAttributes('image')['alt'] ?? '');
  describing.value = true;
}
function setAlt() {
  describing.value = false;
  chain().updateAttributes('image', { alt: altText.value.trim() }).run();
}
/** What is typed right after a press on a button goes into the text: the keyboard never leaves it. */
function keepFocus(event: MouseEvent) {
  if ((event.target as HTMLElement).closest('button')) event.preventDefault();
}
const inTable = computed(() => editor.value?.isActive('table') ?? false);

const linking = ref(false);
const address = ref('');
function openLink() {
  address.value = String(editor.value?.getAttributes('link')['href'] ?? '');
  linking.value = true;
}
function setLink() {
  const href = address.value.trim();
  linking.value = false;
  const at = chain().extendMarkRange('link');
  if (href === '') at.unsetLink().run();
  else if (editor.value!.state.selection.empty && !editor.value!.isActive('link'))
    at.insertContent({ type: 'text', text: href, marks: [{ type: 'link', attrs: { href } }] }).run();
  else at.setLink({ href }).run();
}
const IMAGES: Group = { join: 'all', not: false, of: [{ test: 'kind', value: 'image', not: false }] };
const picking = ref(false);
async function insert(item: ItemView) {
  picking.value = false;
  fault.value = '';
  try {
    const image = await props.format.image(item);
    if (image) chain().setImage(image).run();
  } catch (error) {
    fault.value = sentenceOf(error);
  }
}
let places: readonly Found[] = [];
const draw = (now: number) => {
  const { view } = editor.value!;
  view.dispatch(mark(view.state.tr, { places, now }));
};
defineExpose<Replaceable>({
  settle: writing.now,
  get waiting() {
    return writing.waiting.value;
  },
  find(wanted, options) {
    places = placesIn(editor.value!.state.doc, wanted, options);
    draw(-1);
    return places.length;
  },
  show(at) {
    draw(at);
    editor.value!.view.dom.querySelector('.found.now')?.scrollIntoView({ block: 'center' });
    return '';
  },
  replace(at, by) {
    const { view } = editor.value!;
    const one = places[at];
    if (one) view.dispatch(view.state.tr.insertText(by, one.from, one.to));
    writing.now();
  },
  replaceAll(by) {
    const { view } = editor.value!;
    const { tr } = view.state;
    // From the end, so that the others stay where they are.
    for (const { from, to } of [...places].reverse()) tr.insertText(by, from, to);
    if (tr.docChanged) view.dispatch(tr);
    writing.now();
  },
  end() {
    places = [];
    if (editor.value && !editor.value.isDestroyed) draw(-1);
  },
});
</script>

<template>
  <div class="rich">
    <div v-if="!locked" class="tools" role="toolbar" aria-label="Format" @mousedown="keepFocus">
      <AppSelect :model-value="block" :chars="11" aria-label="Style" @change="setBlock"
        ><AppOption value="p" label="Text" />
        <AppOption v-for="level in 6" :key="level" :value="`h${level}`" :label="`Heading ${level}`" />
      </AppSelect>
      <span v-for="(group, at) in TOOLS" :key="at" class="group">
        <AppButton
          v-for="tool in group"
          :key="tool.name"
          look="glyph"
          :title="tool.name"
          :aria-label="tool.name"
          :aria-pressed="tool.on ? editor?.isActive(tool.on) : undefined"
          @click="tool.act"
          ><component :is="tool.icon" :size="18"
        /></AppButton>
      </span>
      <span v-if="inTable" class="group">
        <AppButton look="link" @click="chain().addRowAfter().run()">Add row</AppButton>
        <AppButton look="link" @click="chain().addColumnAfter().run()">Add column</AppButton>
        <AppButton look="link" @click="chain().deleteRow().run()">Delete row</AppButton>
        <AppButton look="link" @click="chain().deleteColumn().run()">Delete column</AppButton>
      </span>
      <span v-if="onImage" class="group">
        <AppButton look="link" @click="openAlt">Alt text …</AppButton>
      </span>
      <span class="group">
        <AppButton
          look="glyph"
          title="Undo"
          aria-label="Undo typing"
          :disabled="!editor?.can().undo()"
          @click="chain().undo().run()"
          ><PhArrowArcLeft :size="18"
        /></AppButton>
        <AppButton
          look="glyph"
          title="Redo"
          aria-label="Redo typing"
          :disabled="!editor?.can().redo()"
          @click="chain().redo().run()"
          ><PhArrowArcRight :size="18"
        /></AppButton>
      </span>
      <span class="soft figures">{{ count(words, 'word') }}</span>
    </div>
    <p v-if="format.told" class="soft told">{{ format.told }}</p>
    <p v-if="differs" class="note" role="status">
      {{ format.language }} can’t say this as it looks here, near “{{ differs }}”. Check the lines that change
      before you save.
    </p>
    <p v-if="fault" class="note losing" role="alert">{{ fault }}</p>
    <EditorContent :editor="editor" class="sheet" />
    <AppDialog v-model="linking" width="460px" title="Link">
      <form id="link-form" @submit.prevent="setLink">
        <label class="field"
          >Address
          <AppInput v-model="address" placeholder="/visit/ or https://…" />
        </label>
        <p class="soft">Leave it empty to remove the link.</p>
      </form>
      <template #footer>
        <AppButton @click="linking = false">Cancel</AppButton>
        <AppButton look="main" type="submit" form="link-form">Set link</AppButton>
      </template>
    </AppDialog>
    <AppDialog v-model="describing" width="460px" title="Alt text">
      <form id="alt-form" @submit.prevent="setAlt">
        <label class="field"
          >What the image shows
          <AppInput v-model="altText" focused />
        </label>
        <p class="soft">It changes in this document only. Leave it empty if the image is decorative.</p>
      </form>
      <template #footer>
        <AppButton @click="describing = false">Cancel</AppButton>
        <AppButton look="main" type="submit" form="alt-form">Set alt text</AppButton>
      </template>
    </AppDialog>
    <ItemPicker
      v-if="picking"
      title="Choose an image"
      :where="IMAGES"
      @choose="insert"
      @close="picking = false"
    />
  </div>
</template>

<style scoped>
.rich {
  display: flex;
  min-width: 0;
  min-height: 0;
  flex-direction: column;
}
.tools {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  padding: 6px 24px;
  border-bottom: 1px solid var(--rule);
  gap: 4px 14px;
}
.group {
  display: inline-flex;
  align-items: center;
  gap: 2px;
}
.tools > .soft {
  margin-left: auto;
}
.tools :deep([aria-pressed='true']) {
  background: var(--verdigris-wash);
}
.told,
.note {
  margin: 0;
  padding: 6px 24px;
}
.sheet {
  min-height: 0;
  flex: 1;
  overflow: auto;
}
.sheet :deep(.ProseMirror) {
  max-width: 760px;
  min-height: 100%;
  margin: 0 auto;
  padding: 22px 24px 60px;
  background: var(--paper-raised);
  font: 16px/1.6 var(--sans);
  outline-offset: -2px;
}
.sheet :deep(:is(h1, h2, h3, h4, h5, h6)) {
  margin: 1.2em 0 0.4em;
  line-height: 1.25;
}
.sheet :deep(h1) {
  font-size: 26px;
}
.sheet :deep(h2) {
  font-size: 21px;
}
.sheet :deep(:is(h3, h4, h5, h6)) {
  font-size: 17px;
}
.sheet :deep(p),
.sheet :deep(ul),
.sheet :deep(ol) {
  margin: 0 0 0.8em;
}
.sheet :deep(li p) {
  margin: 0;
}
/* What can't be shown still takes its place, so that it can be seen and chosen. */
.sheet :deep(img:not(.ProseMirror-separator)) {
  display: inline-block;
  min-width: 48px;
  max-width: min(100%, 420px);
  min-height: 32px;
  max-height: 320px;
  background: var(--paper-sunk);
  vertical-align: bottom;
}
.sheet :deep(.found) {
  background: var(--ochre-wash);
}
.sheet :deep(.found.now) {
  background: var(--verdigris-wash);
  outline: 2px solid var(--verdigris);
}
.sheet :deep(img.ProseMirror-selectednode) {
  outline: 3px solid var(--verdigris);
}
.sheet :deep(blockquote) {
  margin: 0 0 0.8em;
  padding-left: 14px;
  border-left: 3px solid var(--rule);
}
.sheet :deep(pre) {
  padding: 10px 12px;
  background: var(--paper);
  font: 14px/1.5 var(--mono);
  white-space: pre-wrap;
}
.sheet :deep(.box) {
  margin: 0 0 0.8em;
  padding: 6px 12px 0;
  border: 1px dotted var(--rule-strong);
}
.sheet :deep(.box)::before {
  display: block;
  color: var(--ink-soft);
  content: attr(data-box);
  font: 12px/1.6 var(--sans);
}
.sheet :deep(.box > :last-child) {
  margin-bottom: 8px;
}
.sheet :deep(:is(.ProseMirror, .box) > :first-child) {
  margin-top: 0;
}
.sheet :deep(.kept) {
  border: 1px dashed var(--rule-strong);
  background: var(--paper);
}
.sheet :deep(span.kept) {
  font: 400 14px/1.4 var(--sans);
  padding: 0 4px;
}
.sheet :deep(div.kept) {
  margin: 0 0 0.8em;
  padding: 8px 12px;
  white-space: pre-line;
}
.sheet :deep(div.kept .what) {
  display: block;
  color: var(--ink-soft);
  font: 12px/1.6 var(--sans);
}
.sheet :deep(.kept.ProseMirror-selectednode) {
  outline: 3px solid var(--verdigris);
}
.sheet :deep(pre.source) {
  border: 1px dashed var(--rule-strong);
}
.sheet :deep(pre.source)::before {
  display: block;
  color: var(--ink-soft);
  content: attr(data-what);
  font: 12px/1.6 var(--sans);
}
.sheet :deep(table) {
  width: 100%;
  margin: 0 0 0.8em;
  border-collapse: collapse;
}
.sheet :deep(th),
.sheet :deep(td) {
  min-width: 60px;
  padding: 4px 10px;
  border: 1px solid var(--rule);
  text-align: left;
}
.sheet :deep(td p),
.sheet :deep(th p) {
  margin: 0;
}
</style>
