import { readFile } from 'node:fs/promises';
import { createRequire } from 'node:module';
import { dirname, join } from 'node:path';
import { createCanvas } from '@napi-rs/canvas';
import { SaxesParser } from 'saxes';
import { LIMITS } from './limits.ts';
import { entriesOf, openZip, readEntry } from './zip.ts';

/** What was read of a document. `picture`: its first page, RGBA. */
export interface DocumentContent {
  text: string;
  pages?: number;
  notes: string[];
  picture?: { data: Buffer; width: number; height: number };
}

const require = createRequire(import.meta.url);

/** The text and the first page of a PDF. Its scripts are never run. Never throws for what it holds. */
export async function readPdf(file: string, pictureSide: number): Promise<DocumentContent> {
  const content: DocumentContent = { text: '', notes: [] };
  const pdfjs = await import('pdfjs-dist/legacy/build/pdf.mjs');
  const home = dirname(require.resolve('pdfjs-dist/package.json'));
  const loading = pdfjs.getDocument({
    data: new Uint8Array(await readFile(file)),
    isEvalSupported: false,
    disableFontFace: true,
    useSystemFonts: false,
    enableXfa: false,
    standardFontDataUrl: join(home, 'standard_fonts') + '/',
    cMapUrl: join(home, 'cmaps') + '/',
    wasmUrl: join(home, 'wasm') + '/',
    verbosity: 0,
  });
  try {
    const pdf = await loading.promise;
    content.pages = pdf.numPages;
    const [actions, attachments] = await Promise.all([pdf.getJSActions(), pdf.getAttachments()]);
    if (actions) content.notes.push('The PDF holds a script. It is kept, and never run here.');
    if (attachments) content.notes.push('The PDF carries other files inside it.');
    const first = await pdf.getPage(1);
    const base = first.getViewport({ scale: 1 });
    const viewport = first.getViewport({ scale: pictureSide / Math.max(base.width, base.height) });
    const [width, height] = [
      Math.max(1, Math.round(viewport.width)),
      Math.max(1, Math.round(viewport.height)),
    ];
    const canvas = createCanvas(width, height);
    const pen = canvas.getContext('2d');
    pen.fillStyle = '#fff';
    pen.fillRect(0, 0, width, height);
    await first.render({
      canvas: canvas as unknown as HTMLCanvasElement,
      canvasContext: pen as unknown as CanvasRenderingContext2D,
      viewport,
    }).promise;
    content.picture = { data: Buffer.from(pen.getImageData(0, 0, width, height).data), width, height };
    for (let number = 1; number <= Math.min(pdf.numPages, LIMITS.textPages); number++) {
      const page = await pdf.getPage(number);
      const { items } = await page.getTextContent();
      content.text += items
        .map((item) => ('str' in item ? item.str + (item.hasEOL ? '\n' : '') : ''))
        .join('');
      content.text += '\n';
      if (content.text.length > LIMITS.textLength) break;
    }
    content.text = content.text.slice(0, LIMITS.textLength).trim();
  } catch (error) {
    content.notes.push(
      (error as Error).name === 'PasswordException'
        ? 'The PDF needs a password, so it cannot be shown or searched here.'
        : 'The PDF could not be read whole; it is kept as it is.',
    );
  } finally {
    await loading.destroy();
  }
  return content;
}

/** The parts of office files that hold text, by the kinds of file (ECMA-376, ISO/IEC 26300). */
const TEXT_PARTS =
  /^(word\/(document|footnotes|header\d*|footer\d*)\.xml|ppt\/slides\/slide\d+\.xml|xl\/sharedStrings\.xml|content\.xml)$/;

/** The text of an office file (OOXML, OpenDocument), with notes on macros and outside links. Links are never followed. */
export async function readOffice(file: string): Promise<DocumentContent> {
  const content: DocumentContent = { text: '', notes: [] };
  let read = 0;
  const zip = await openZip(file);
  try {
    for await (const entry of entriesOf(zip)) {
      if (/vbaProject\.bin$/i.test(entry.fileName))
        content.notes.push('The document holds macros. It is kept, and never run here.');
      const isText = TEXT_PARTS.test(entry.fileName);
      const isLinks = /_rels\/.*\.rels$/.test(entry.fileName);
      if (!isText && !isLinks) continue;
      read += entry.uncompressedSize;
      if (read > LIMITS.officeBytes) {
        content.notes.push('The document is too large to be searched whole.');
        break;
      }
      const xml = (await readEntry(zip, entry)).toString('utf8');
      if (isText && content.text.length < LIMITS.textLength) content.text += `${textOfXml(xml)}\n`;
      if (isLinks && /TargetMode="External"/.test(xml) && !content.notes.includes(OUTSIDE_LINKS))
        content.notes.push(OUTSIDE_LINKS);
    }
  } finally {
    zip.close();
  }
  content.text = content.text.slice(0, LIMITS.textLength).trim();
  return content;
}
const OUTSIDE_LINKS = 'The document links to other places. They are not followed.';

/** Words between the tags; paragraphs, cells and breaks become line ends. */
function textOfXml(xml: string): string {
  const words: string[] = [];
  const parser = new SaxesParser();
  parser.on('error', (error) => {
    throw error;
  });
  parser.on('text', (text) => words.push(text));
  parser.on('closetag', ({ name }) => {
    if (/^(w:p|a:p|si|text:p|text:h|table:table-cell)$/.test(name)) words.push('\n');
  });
  parser.on('opentag', ({ name }) => {
    if (/^(w:tab|w:br|text:tab|text:s|text:line-break)$/.test(name)) words.push(' ');
  });
  parser.write(xml).close();
  return words.join('').replace(/\n{2,}/g, '\n');
}
