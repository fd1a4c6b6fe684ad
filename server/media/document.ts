import { isUtf8 } from 'node:buffer';
import { open, readFile } from 'node:fs/promises';
import { createRequire } from 'node:module';
import { constants, inflateSync } from 'node:zlib';
import { dirname, join } from 'node:path';
import { createCanvas } from '@napi-rs/canvas';
import type { PDFDocumentLoadingTask, PDFPageProxy } from 'pdfjs-dist';
import { SaxesParser } from 'saxes';
import { decode1252 } from '../../core/document/text-form.ts';
import { LIMITS } from '../limits.ts';
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
  const loading = await openPdf(file);
  try {
    const pdf = await loading.promise;
    content.pages = pdf.numPages;
    const [actions, attachments] = await Promise.all([pdf.getJSActions(), pdf.getAttachments()]);
    if (actions) content.notes.push('The PDF holds a script. It is kept, and never run here.');
    if (await launches(file))
      content.notes.push('The PDF asks to start a program. It is kept, and nothing is started here.');
    if (attachments) content.notes.push('The PDF carries other files inside it.');
    content.picture = await drawPage(await pdf.getPage(1), pictureSide);
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

const LAUNCH = /\/S\s*\/Launch\b/;
/** Bytes that packed objects of a PDF are unpacked to at most, all together. */
const UNPACKED = 64_000_000;

/** Whether a PDF has a launch action (ISO 32000-1, 12.6.4.5), also among its packed objects (7.5.7). */
async function launches(file: string): Promise<boolean> {
  const bytes = await readFile(file);
  const text = bytes.toString('latin1');
  if (LAUNCH.test(text)) return true;
  let left = UNPACKED;
  for (let at = text.indexOf('/ObjStm'); at >= 0 && left > 0; at = text.indexOf('/ObjStm', at + 1)) {
    const begins = /stream\r?\n/g;
    begins.lastIndex = at;
    if (!begins.exec(text)) return false;
    try {
      // Up to where its end is, or where it breaks off.
      const packed = bytes.subarray(begins.lastIndex);
      const objects = inflateSync(packed, { finishFlush: constants.Z_SYNC_FLUSH, maxOutputLength: left });
      if (LAUNCH.test(objects.toString('latin1'))) return true;
      left -= objects.length;
    } catch {
      // Packed in another way, or encrypted: whoever reads it needs a key first.
    }
  }
  return false;
}

async function openPdf(file: string): Promise<PDFDocumentLoadingTask> {
  const pdfjs = await import('pdfjs-dist/legacy/build/pdf.mjs');
  const home = dirname(require.resolve('pdfjs-dist/package.json'));
  return pdfjs.getDocument({
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
}

async function drawPage(page: PDFPageProxy, side: number): Promise<NonNullable<DocumentContent['picture']>> {
  const base = page.getViewport({ scale: 1 });
  const viewport = page.getViewport({ scale: side / Math.max(base.width, base.height) });
  const [width, height] = [Math.max(1, Math.round(viewport.width)), Math.max(1, Math.round(viewport.height))];
  const canvas = createCanvas(width, height);
  const pen = canvas.getContext('2d');
  pen.fillStyle = '#fff';
  pen.fillRect(0, 0, width, height);
  await page.render({
    canvas: canvas as unknown as HTMLCanvasElement,
    canvasContext: pen as unknown as CanvasRenderingContext2D,
    viewport,
  }).promise;
  return { data: Buffer.from(pen.getImageData(0, 0, width, height).data), width, height };
}

/** Kinds of documents that are text as they stand. */
export const PLAIN_TEXT = /\.(csv|tsv|txt|md|markdown|vtt|srt|ics|vcf|json|geojson|gpx|kml)$/i;

/** The beginning of a text file, in whatever encoding it is. */
export async function readText(file: string): Promise<string> {
  const handle = await open(file);
  let bytes: Buffer;
  try {
    const { buffer, bytesRead } = await handle.read(Buffer.alloc(2 * LIMITS.textLength), 0);
    bytes = buffer.subarray(0, bytesRead);
  } finally {
    await handle.close();
  }
  return textOf(bytes).slice(0, LIMITS.textLength);
}

/** Text by its byte order mark, as UTF-8 where it is that, else as windows-1252. */
export function textOf(bytes: Buffer): string {
  if (bytes[0] === 0xff && bytes[1] === 0xfe) return bytes.toString('utf16le', 2);
  if (bytes[0] === 0xfe && bytes[1] === 0xff)
    return Buffer.from(bytes.subarray(2, bytes.length & ~1))
      .swap16()
      .toString('utf16le');
  // The last character may be cut in two.
  return isUtf8(bytes) || isUtf8(bytes.subarray(0, lastWhole(bytes)))
    ? bytes.toString('utf8').replace(/^\ufeff/, '')
    : decode1252(bytes);
}
function lastWhole(bytes: Buffer): number {
  let at = bytes.length;
  while (at > 0 && at > bytes.length - 4 && (bytes[at - 1]! & 0xc0) === 0x80) at--;
  return Math.max(0, at - 1);
}

/** The parts of office files that hold text, by the kinds of file (ECMA-376, ISO/IEC 26300). */
const TEXT_PARTS =
  /^(word\/(document|footnotes|header\d*|footer\d*)\.xml|ppt\/slides\/slide\d+\.xml|xl\/sharedStrings\.xml|content\.xml)$/;

/** Sheets of which the texts may stand in the cells themselves (ECMA-376, 18.3.1.53), and bytes of one that is looked at. */
const SHEET_PARTS = /^xl\/worksheets\/[^/]+\.xml$/;
const MOST_SHEET = 5_000_000;

/** The text of an office file (OOXML, OpenDocument), with notes on macros and outside links. Links are never followed. */
export async function readOffice(file: string): Promise<DocumentContent> {
  const content: DocumentContent = { text: '', notes: [] };
  let read = 0;
  const zip = await openZip(file);
  try {
    for await (const entry of entriesOf(zip)) {
      if (/vbaProject\.bin$/i.test(entry.fileName))
        content.notes.push('The document holds macros. It is kept, and never run here.');
      const isSheet = SHEET_PARTS.test(entry.fileName) && entry.uncompressedSize < MOST_SHEET;
      const isText = isSheet || TEXT_PARTS.test(entry.fileName);
      const isLinks = /_rels\/.*\.rels$/.test(entry.fileName);
      if (!isText && !isLinks) continue;
      read += entry.uncompressedSize;
      if (read > LIMITS.officeBytes) {
        content.notes.push('The document is too large to be searched whole.');
        break;
      }
      const xml = (await readEntry(zip, entry)).toString('utf8');
      if (isText && content.text.length < LIMITS.textLength)
        content.text += `${textOfXml(xml, isSheet ? 'is' : undefined)}\n`;
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

/** Words between the tags; paragraphs, cells and breaks become line ends. @param only of elements of this name */
function textOfXml(xml: string, only?: string): string {
  const words: string[] = [];
  let within = only === undefined;
  const parser = new SaxesParser();
  parser.on('error', (error) => {
    throw error;
  });
  parser.on('text', (text) => {
    if (within) words.push(text);
  });
  parser.on('closetag', ({ name }) => {
    if (name === only) within = false;
    if (/^(w:p|a:p|si|is|text:p|text:h|table:table-cell)$/.test(name)) words.push('\n');
  });
  parser.on('opentag', ({ name }) => {
    if (name === only) within = true;
    if (/^(w:tab|w:br|text:tab|text:s|text:line-break)$/.test(name)) words.push(' ');
  });
  parser.write(xml).close();
  return words.join('').replace(/\n{2,}/g, '\n');
}
