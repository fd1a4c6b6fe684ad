<script setup lang="ts">
import 'pdfjs-dist/web/pdf_viewer.css';
import { useResizeObserver } from '@vueuse/core';
import type { PDFDocumentProxy } from 'pdfjs-dist';
import type { PDFViewer } from 'pdfjs-dist/web/pdf_viewer.mjs';
import { computed, onBeforeUnmount, onMounted, ref, shallowRef, useTemplateRef } from 'vue';
import AppButton from '../../kit/AppButton.vue';
import AppNumber from '../../kit/AppNumber.vue';
import type { Findable, FoundSoFar } from './findable.ts';
import {
  loadPdfLibrary,
  openPdf,
  outlineLines,
  pageToPrint,
  whyNoPdf,
  type OutlineLine,
  type PdfLibrary,
} from './pdf.ts';
import { printPages } from './printing.ts';

/** A PDF page by page, with its text to select and to search, and its outline. */
const props = defineProps<{ name: string; address: string; bytes: number }>();
const emit = defineEmits<{ fault: [sentence: string]; ready: [] }>();
const container = useTemplateRef('container');
const pdf = shallowRef<PDFDocumentProxy>();
const viewer = shallowRef<PDFViewer>();
const pages = ref(0);
const page = ref(1);
/** In percent of the paper's own size. */
const scale = ref(100);
const lines = shallowRef<OutlineLine[]>([]);
const outlined = ref(false);
type EventBus = InstanceType<PdfLibrary['viewer']['EventBus']>;
let bus: EventBus | undefined;
let loading: ReturnType<typeof openPdf> | undefined;
let ended = false;

onMounted(async () => {
  try {
    const loaded = await loadPdfLibrary();
    if (ended || !container.value) return;
    const { EventBus: Bus, PDFLinkService, PDFFindController, PDFViewer: Viewer } = loaded.viewer;
    bus = new Bus();
    const links = new PDFLinkService({ eventBus: bus });
    // What leads outside is not followed.
    links.externalLinkEnabled = false;
    const made = new Viewer({
      container: container.value,
      eventBus: bus,
      linkService: links,
      findController: new PDFFindController({ linkService: links, eventBus: bus }),
      annotationMode: loaded.library.AnnotationMode.ENABLE,
      imageResourcesPath: '/pdf/images/',
      enableAutoLinking: false,
    });
    links.setViewer(made);
    bus.on('pagesinit', () => {
      made.currentScaleValue = 'auto';
      emit('ready');
    });
    bus.on('pagechanging', ({ pageNumber }: { pageNumber: number }) => (page.value = pageNumber));
    bus.on('scalechanging', (at: { scale: number }) => (scale.value = Math.round(at.scale * 100)));
    bus.on('updatefindmatchescount', onFound);
    bus.on('updatefindcontrolstate', onFound);
    loading = openPdf(loaded, props.address, props.bytes);
    const opened = await loading.promise;
    if (ended) return;
    pdf.value = opened;
    pages.value = opened.numPages;
    made.setDocument(opened);
    links.setDocument(opened);
    viewer.value = made;
    lines.value = outlineLines(await opened.getOutline());
  } catch (error) {
    if (!ended) emit('fault', whyNoPdf(error));
  }
});
onBeforeUnmount(() => {
  ended = true;
  viewer.value?.cleanup();
  void loading?.destroy();
});
/** A width that was fitted fits the new width too. */
useResizeObserver(container, () => {
  const at = viewer.value;
  if (at && /^(page-|auto)/.test(String(at.currentScaleValue)))
    at.currentScaleValue = String(at.currentScaleValue);
});

function turn(to: number) {
  if (viewer.value) viewer.value.currentPageNumber = Math.min(pages.value, Math.max(1, Math.round(to)));
}
function fit(how: 'page-width' | 'page-fit') {
  if (viewer.value) viewer.value.currentScaleValue = how;
}
const zoomBy = (steps: number) => viewer.value?.updateScale({ steps });
async function goTo({ dest }: OutlineLine) {
  await viewer.value?.linkService.goToDestination(dest as string);
  container.value?.focus();
}

/** What is looked for, and how far that is. */
let query = '';
let tellFound: (found: FoundSoFar) => void = () => undefined;
let found: FoundSoFar = { total: 0, at: 0, where: '' };
function onFound({ matchesCount }: { matchesCount?: { current: number; total: number } }) {
  if (!matchesCount || query === '') return;
  const selected = viewer.value?.findController?.selected as { pageIdx: number } | undefined;
  const where = selected && selected.pageIdx >= 0 ? `page ${selected.pageIdx + 1}` : '';
  found = { total: matchesCount.total, at: Math.max(0, matchesCount.current - 1), where };
  tellFound(found);
}
const search = (type: '' | 'again', phrase: FindPhrase, back = false) =>
  bus?.dispatch('find', {
    source: undefined,
    type,
    query: phrase.words,
    caseSensitive: phrase.exact,
    entireWord: phrase.whole,
    highlightAll: true,
    findPrevious: back,
    matchDiacritics: false,
  });
interface FindPhrase {
  words: string;
  exact: boolean;
  whole: boolean;
}
let phrase: FindPhrase = { words: '', exact: false, whole: false };

const printed = ref<number>();
let printing = false;
async function print() {
  const opened = pdf.value;
  if (!opened || printing) return;
  printing = true;
  try {
    await printPages(
      pages.value,
      (number) => pageToPrint(opened, number),
      (made) => {
        printed.value = made;
        return printing && !ended;
      },
    );
  } catch {
    emit('fault', 'The pages could not be prepared for printing. Download the PDF and print it elsewhere.');
  } finally {
    printing = false;
    printed.value = undefined;
  }
}
const stopPrinting = () => (printing = false);

defineExpose<Findable & { print: () => void; onKey: (event: KeyboardEvent) => boolean }>({
  find(words, options, tell) {
    tellFound = tell;
    const key = JSON.stringify([words, options]);
    if (key === query || (words === '' && query === '')) return found.total;
    query = words === '' ? '' : key;
    found = { total: 0, at: 0, where: '' };
    phrase = { words, ...options };
    search('', phrase);
    return 0;
  },
  show(at) {
    if (at !== found.at) {
      const back = at === found.at - 1 || (found.at === 0 && at === found.total - 1 && found.total > 2);
      search('again', phrase, back);
    }
    return found.where;
  },
  end() {
    query = '';
    bus?.dispatch('findbarclose', { source: undefined });
  },
  print: () => void print(),
  /** @returns whether the key was meant for it */
  onKey(event) {
    const act = {
      '+': () => zoomBy(1),
      '-': () => zoomBy(-1),
      '0': () => fit('page-fit'),
      PageDown: () => turn(page.value + 1),
      PageUp: () => turn(page.value - 1),
    }[event.key];
    act?.();
    return act !== undefined;
  },
});
const said = computed(() => `${scale.value} %`);
</script>

<template>
  <div class="pdf">
    <div class="bar" role="group" aria-label="Pages">
      <slot></slot>
      <AppButton v-if="lines.length" look="link" :aria-expanded="outlined" @click="outlined = !outlined"
        >Contents</AppButton
      >
      <AppButton look="link" :disabled="page <= 1" @click="turn(page - 1)">Page before</AppButton>
      <label
        >Page
        <AppNumber :model-value="page" :min="1" :max="Math.max(1, pages)" @change="turn(Number($event))" /> of
        {{ pages.toLocaleString('en') }}</label
      >
      <AppButton look="link" :disabled="page >= pages" @click="turn(page + 1)">Next page</AppButton>
      <span class="spread"></span>
      <AppButton look="link" @click="zoomBy(-1)">Smaller (-)</AppButton>
      <AppButton look="link" @click="zoomBy(1)">Larger (+)</AppButton>
      <AppButton look="link" @click="fit('page-width')">Fit width</AppButton>
      <AppButton look="link" @click="fit('page-fit')">Whole page (0)</AppButton>
      <span class="figures soft">{{ said }}</span>
    </div>
    <p v-if="printed !== undefined" class="soft" role="status">
      Preparing {{ printed.toLocaleString('en') }} of {{ pages.toLocaleString('en') }} pages for printing …
      <AppButton look="link" @click="stopPrinting">Cancel</AppButton>
    </p>
    <div class="both">
      <nav v-if="outlined" aria-label="Contents of the PDF">
        <ul>
          <li v-for="(line, at) in lines" :key="at" :style="{ paddingLeft: `${line.depth * 14}px` }">
            <AppButton v-if="line.dest" look="link" @click="goTo(line)">{{ line.title }}</AppButton>
            <span v-else>{{ line.title }}</span>
          </li>
        </ul>
      </nav>
      <div class="frame">
        <div ref="container" class="pages" tabindex="0" role="region" :aria-label="`Pages of ${name}`">
          <div class="pdfViewer"></div>
        </div>
      </div>
    </div>
  </div>
</template>

<style scoped>
.pdf {
  display: flex;
  width: 100%;
  min-height: 0;
  flex: 1;
  flex-direction: column;
}
.bar {
  display: flex;
  flex-wrap: wrap;
  align-items: center;
  padding-bottom: 8px;
  gap: 4px 16px;
}
.bar label {
  display: flex;
  align-items: center;
  gap: 8px;
}
.bar label :deep(.el-input-number) {
  width: 84px;
}
.spread {
  flex: 1;
}
.both {
  display: flex;
  min-height: 0;
  flex: 1;
  gap: 10px;
}
nav {
  width: 260px;
  overflow: auto;
}
ul {
  padding: 0;
  margin: 0;
  list-style: none;
}
li {
  padding: 3px 0;
  text-align: left;
}
.frame {
  position: relative;
  min-width: 0;
  flex: 1;
}
.pages {
  position: absolute;
  background: #d9d7d0;
  color-scheme: light;
  inset: 0;
  overflow: auto;
}
.pages :deep(.pdfViewer .page) {
  margin: 10px auto;
  border: 0;
  box-shadow: 0 1px 3px rgb(0 0 0 / 25%);
}
</style>
