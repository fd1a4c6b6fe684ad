<script setup lang="ts">
import { onBeforeUnmount, onMounted, ref, useTemplateRef, watch } from 'vue';
import { findIn } from '../../../core/document/find.ts';
import type { Findable } from './findable.ts';
import paper from './paper.css?inline';

/** Running text, or slides, on paper: in a frame in which nothing can run, load or be followed. */
const props = defineProps<{
  name: string;
  /** HTML of our own making; undefined: `fill` draws it. */
  html?: string;
  /** Draws into an element of the frame. */
  fill?: (into: HTMLElement) => Promise<void>;
  /** How large letters are drawn; 1: as the document says. */
  zoom: number;
}>();
const emit = defineEmits<{ fault: [error: unknown]; ready: [] }>();
const frame = useTemplateRef('frame');
const drawn = ref(false);

async function draw() {
  const inside = frame.value?.contentDocument;
  if (!inside) return;
  const style = inside.createElement('style');
  style.textContent = paper;
  inside.head.append(style);
  inside.documentElement.lang = document.documentElement.lang;
  inside.title = props.name;
  inside.addEventListener('keydown', passOn);
  const main = inside.createElement('main');
  inside.body.replaceChildren(main);
  try {
    if (props.html !== undefined) main.innerHTML = props.html;
    else await props.fill?.(main);
    quieten(main);
    drawn.value = true;
    enlarge();
    emit('ready');
  } catch (error) {
    emit('fault', error);
  }
}
/** Keys are the window's, wherever the focus is. */
function passOn(event: KeyboardEvent) {
  const { key, ctrlKey, metaKey, altKey, shiftKey } = event;
  const same = { key, ctrlKey, metaKey, altKey, shiftKey, bubbles: true, cancelable: true };
  if (frame.value?.dispatchEvent(new KeyboardEvent('keydown', same)) === false) event.preventDefault();
}
/** What would lead outside is told, and can't be followed. */
function quieten(main: HTMLElement) {
  for (const one of main.querySelectorAll('script, iframe, object, embed, form, link, meta, base'))
    one.remove();
  for (const link of main.querySelectorAll('a[href]')) {
    const to = link.getAttribute('href') ?? '';
    if (to.startsWith('#')) continue;
    link.removeAttribute('href');
    link.setAttribute('title', to);
    link.classList.add('link');
  }
}
function enlarge() {
  const main = frame.value?.contentDocument?.querySelector('main');
  if (main) main.style.setProperty('zoom', String(props.zoom));
}
watch(() => props.zoom, enlarge);
onMounted(() => {
  // It is there at once; a frame that is loaded from a text would be another document later.
  void draw();
});

/** Names of what is marked (CSS Custom Highlight API). */
const [FOUND, NOW] = ['found', 'found-now'];
let places: Range[] = [];
const marks = () => frame.value?.contentWindow as (Window & typeof globalThis) | null | undefined;
function mark(name: string, ranges: readonly Range[]) {
  const inside = marks();
  if (!inside?.CSS.highlights) return;
  inside.CSS.highlights.set(name, new inside.Highlight(...ranges));
}
defineExpose<Findable & { print: () => void }>({
  find(words, options) {
    places = [];
    const inside = frame.value?.contentDocument;
    const main = inside?.querySelector('main');
    if (!inside || !main) return 0;
    for (const block of blocksOf(main)) {
      const text = block.map((node) => node.data).join('');
      for (const { from, to } of findIn(text, words, options)) {
        const range = inside.createRange();
        range.setStart(...at(block, from));
        range.setEnd(...at(block, to));
        places.push(range);
      }
    }
    mark(FOUND, places);
    mark(NOW, []);
    return places.length;
  },
  show(number) {
    const range = places[number];
    if (!range) return '';
    mark(NOW, [range]);
    range.startContainer.parentElement?.scrollIntoView({ block: 'center' });
    return '';
  },
  end() {
    places = [];
    mark(FOUND, []);
    mark(NOW, []);
  },
  print: () => frame.value?.contentWindow?.print(),
});
onBeforeUnmount(() => (places = []));

/** Texts that stand in one line of thought: words run through bold and links, not from one block to the next. */
function blocksOf(main: HTMLElement): Text[][] {
  const walker = main.ownerDocument.createTreeWalker(main, NodeFilter.SHOW_TEXT);
  const blocks = new Map<Element, Text[]>();
  for (let node = walker.nextNode(); node; node = walker.nextNode()) {
    const block = (node.parentElement?.closest(
      'p, h1, h2, h3, h4, h5, h6, li, td, th, div, article, section',
    ) ?? main) as Element;
    const there = blocks.get(block);
    if (there) there.push(node as Text);
    else blocks.set(block, [node as Text]);
  }
  return [...blocks.values()];
}
/** The text and the place in it, of a place in all of a block. */
function at(block: readonly Text[], place: number): [Text, number] {
  let left = place;
  for (const node of block) {
    if (left <= node.length) return [node, left];
    left -= node.length;
  }
  return [block.at(-1)!, block.at(-1)!.length];
}
</script>

<template>
  <iframe
    ref="frame"
    class="paper"
    :class="{ drawn }"
    sandbox="allow-same-origin allow-modals"
    :title="`The text of ${name}`"
  ></iframe>
</template>

<style scoped>
.paper {
  width: 100%;
  min-height: 0;
  flex: 1;
  border: 0;
  background: #fff;
  color-scheme: light;
}
</style>
