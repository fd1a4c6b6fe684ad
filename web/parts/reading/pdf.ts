import type { PDFDocumentProxy } from 'pdfjs-dist';
import worker from 'pdfjs-dist/build/pdf.worker.min.mjs?url';

/** The library that draws PDFs, with its viewer: loaded when the first one is opened. */
export async function loadPdfLibrary() {
  const library = await import('pdfjs-dist');
  // The viewer takes it from there.
  (globalThis as { pdfjsLib?: unknown }).pdfjsLib = library;
  const viewer = await import('pdfjs-dist/web/pdf_viewer.mjs');
  library.GlobalWorkerOptions.workerSrc = worker;
  return { library, viewer };
}
export type PdfLibrary = Awaited<ReturnType<typeof loadPdfLibrary>>;

/** Bytes from which on a PDF is read in parts, as they are wanted. */
const IN_PARTS = 5_000_000;

/** Opens a PDF; nothing that it holds is run. @param bytes its size */
export function openPdf({ library }: PdfLibrary, address: string, bytes: number) {
  const inParts = bytes > IN_PARTS;
  return library.getDocument({
    url: address,
    disableStream: inParts,
    disableAutoFetch: inParts,
    disableRange: !inParts,
    isEvalSupported: false,
    enableXfa: false,
    useWasm: false,
    cMapUrl: '/pdf/cmaps/',
    standardFontDataUrl: '/pdf/standard_fonts/',
    wasmUrl: '/pdf/wasm/',
    verbosity: 0,
  });
}

/** Why a PDF can't be opened, as a sentence. */
export function whyNoPdf(error: unknown): string {
  switch ((error as Error).name) {
    case 'PasswordException':
      return 'The PDF needs a password, so it can’t be read here. Download it to open it in its own program.';
    case 'InvalidPDFException':
      return 'The PDF is damaged, or no PDF at all. Download it to look at it in another program.';
    case 'ResponseException':
      return 'The file could not be read. Reload the Library.';
    default:
      return 'The PDF could not be read here. Download it instead.';
  }
}

/** A heading of the outline, with how deep it lies and where it leads. */
export interface OutlineLine {
  title: string;
  depth: number;
  dest: string | unknown[] | null;
}
type Outline = Awaited<ReturnType<PDFDocumentProxy['getOutline']>>;

/** Headings that are shown at most, and how deep. */
const [MOST_LINES, DEEPEST] = [5000, 8];

/** The outline of a PDF as lines. Where one leads outside, it leads nowhere. */
export function outlineLines(outline: Outline): OutlineLine[] {
  const lines: OutlineLine[] = [];
  const visit = (all: Outline, depth: number) => {
    for (const { title, dest, items } of all) {
      if (lines.length >= MOST_LINES) return;
      lines.push({ title: title.trim() || '–', depth, dest });
      if (depth < DEEPEST) visit(items as Outline, depth + 1);
    }
  };
  visit(outline ?? [], 0);
  return lines;
}

/** Dots to an inch, and to a PDF's own unit of length (ISO 32000-1, 8.3.2.3), at which pages are printed. */
const PRINTED = 150 / 72;

/** A page as an image to be printed. */
export async function pageToPrint(pdf: PDFDocumentProxy, number: number): Promise<Blob> {
  const page = await pdf.getPage(number);
  const viewport = page.getViewport({ scale: PRINTED });
  const canvas = document.createElement('canvas');
  canvas.width = Math.round(viewport.width);
  canvas.height = Math.round(viewport.height);
  await page.render({ canvas, viewport, intent: 'print' }).promise;
  page.cleanup();
  return new Promise((done, failed) =>
    canvas.toBlob((blob) => (blob ? done(blob) : failed(new Error('no image of the page')))),
  );
}
