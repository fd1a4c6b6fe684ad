import { readFileSync } from 'node:fs';
import sharp from 'sharp';
import { stemOf, type SitePath } from '../../core/address/path.ts';
import { textKindOf } from '../../core/document/document.ts';
import { readMarkdown } from '../../core/document/read-markdown.ts';
import { readingKindOf } from '../../core/document/reading.ts';
import { SOURCE, type RichNode } from '../../core/document/rich.ts';
import { readText } from '../../core/document/text-form.ts';
import { readOdt } from '../../core/office/read-odt.ts';
import { openPackage, UnreadableOffice } from '../../core/office/package.ts';
import { attributeOf } from '../../core/office/xml-tags.ts';
import { A4, type PrintDocument } from '../../core/print/print-document.ts';
import { lostNote, printedHtml } from '../../core/print/printed-html.ts';
import { printedSheets } from '../../core/print/printed-sheets.ts';
import { TableEditor } from '../../core/sheet/edit-csv.ts';
import { readOds } from '../../core/sheet/read-ods.ts';
import { readXlsx } from '../../core/sheet/read-xlsx.ts';
import type { Sheet } from '../../core/sheet/sheet.ts';
import { PART, readWord } from '../../core/word/read-word.ts';
import { childOf, tagOf, within } from '../../core/word/tree.ts';
import type { WordParts } from '../../core/word/word-parts.ts';
import { writePdf, type PrintImage } from './pdf-writer.ts';

/** Columns from which on a table is put on paper across. */
const WIDE = 6;
/** Pixels of an image on paper; more are not seen. */
const MOST_PIXELS = 2000;

/** What a PDF is made of. */
export interface Printing {
  path: SitePath;
  bytes: Uint8Array;
  title: string;
  language: string;
  /** ISO 8601: when the file says that it was made. */
  at: string;
  /** Images that a page shows, by their addresses as it writes them, with where their files are. */
  images?: readonly (readonly [address: string, file: string])[];
}

/** The PDF of a document, and what isn't in it as it is there. @throws UnreadableOffice, NoText */
export async function printedPdf(of: Printing): Promise<{ bytes: Uint8Array; notes: string[] }> {
  const { document, images } = await documentOf(of);
  const { bytes, missing } = await writePdf(document, images, new Date(of.at));
  const signs = missing.slice(0, 10).join(' ');
  return {
    bytes: new Uint8Array(bytes),
    notes: [
      ...document.notes,
      ...(missing.length > 0
        ? [
            `The PDF’s font has no sign for ${signs}${missing.length > 10 ? ' and others' : ''}. They are left out.`,
          ]
        : []),
    ],
  };
}

async function documentOf({
  path,
  bytes,
  title,
  language,
  images: shown = [],
}: Printing): Promise<{ document: PrintDocument; images: Map<string, PrintImage> }> {
  const kind = readingKindOf(path);
  const name = title || stemOf(path);
  const plain = (doc: RichNode, notes: readonly string[] = [], page = A4) => ({
    document: { title: name, language, page, doc, notes },
    images: new Map<string, PrintImage>(),
  });
  if (kind === 'word') {
    const { doc, parts, kept } = readWord(bytes);
    const images = await imagesOf(doc, (src) => {
      const part = src.slice(PART.length);
      return parts.from.has(part) ? parts.from.bytes(part) : undefined;
    });
    const lost = kept.filter(
      ({ what }) => !['page breaks', 'fields', 'content controls', 'tabs'].includes(what),
    );
    const notes = lost.map(({ what }) => lostNote(what));
    return { document: { title: name, language, page: pageOf(parts), doc, notes }, images };
  }
  if (kind === 'sheets' || kind === 'table') {
    const sheets = sheetsOf(path, bytes);
    const { doc, notes } = printedSheets(sheets);
    const isWide = sheets.some(({ columnCount, hidden }) => !hidden && columnCount > WIDE);
    const heading: RichNode = {
      type: 'heading',
      attrs: { level: 1 },
      content: [{ type: 'text', text: name }],
    };
    const content = [heading, ...(doc.content ?? [])];
    const page = isWide ? { ...A4, width: A4.height, height: A4.width } : A4;
    return plain({ type: 'doc', content }, notes, page);
  }
  if (kind === 'odt') {
    const paper = readOdt(openPackage(bytes));
    const { doc, notes } = printedHtml(paper.html);
    const images = await imagesOf(doc, (src) => {
      const at = src.indexOf(';base64,');
      return at < 0 ? undefined : Buffer.from(src.slice(at + ';base64,'.length), 'base64');
    });
    return { document: { title: name, language, page: A4, doc, notes: [...paper.notes, ...notes] }, images };
  }
  const files = new Map(shown);
  const ofSite = async (doc: RichNode, notes: readonly string[], said = '') => ({
    document: { title: name, language: language || said, page: A4, doc, notes },
    images: await imagesOf(doc, (src) => {
      const file = files.get(src);
      return file === undefined ? undefined : readFileSync(file);
    }),
  });
  if (kind === 'markdown') {
    const { doc, asSource } = readMarkdown(readText(bytes).text);
    const seen = (doc.content ?? []).filter(
      (one) =>
        one.type !== SOURCE || !['front matter', 'link definition'].includes(String(one.attrs?.['what'])),
    );
    const isHtml = asSource.some(({ what }) => what.includes('HTML'));
    return ofSite({ type: 'doc', content: seen }, isHtml ? [lostNote('HTML within Markdown')] : []);
  }
  if (textKindOf(path) === 'html') {
    const { text } = readText(bytes);
    const { doc, notes } = printedHtml(text);
    return ofSite(doc, notes, /<html[^>]*\slang\s*=\s*["']?([\w-]+)/i.exec(text)?.[1]);
  }
  if (kind === 'text') {
    const lines = readText(bytes).text.split('\n');
    const content = lines.map((line): RichNode => ({
      type: 'paragraph',
      content: line === '' ? [] : [{ type: 'text', text: line }],
    }));
    return plain({ type: 'doc', content });
  }
  throw new UnreadableOffice('No PDF can be made of this kind of document here.');
}

function sheetsOf(path: SitePath, bytes: Uint8Array): readonly Sheet[] {
  if (readingKindOf(path) === 'table') return new TableEditor(readText(bytes).text, stemOf(path)).sheets;
  const from = openPackage(bytes);
  return from.has('content.xml') ? readOds(from) : readXlsx(from);
}

/** Twentieths of a point, as WordprocessingML measures pages (ECMA-376, part 1, 17.6.13). */
const TWENTIETHS = 20;
function pageOf({ xml, tree }: WordParts): PrintDocument['page'] {
  const section = childOf(childOf(childOf(tree, 'w:document'), 'w:body'), 'w:sectPr');
  const [size] = section ? within(section, 'w:pgSz') : [];
  const [margins] = section ? within(section, 'w:pgMar') : [];
  const points = (of: string | undefined) => Number(of ?? NaN) / TWENTIETHS;
  const width = size ? points(attributeOf(tagOf(xml, size), 'w:w')) : NaN;
  const height = size ? points(attributeOf(tagOf(xml, size), 'w:h')) : NaN;
  const margin = margins ? points(attributeOf(tagOf(xml, margins), 'w:left')) : NaN;
  const isPaper = width >= 200 && width <= 3000 && height >= 200 && height <= 3000;
  return {
    ...(isPaper ? { width, height } : { width: A4.width, height: A4.height }),
    margin: margin >= 10 && margin <= (isPaper ? width : A4.width) / 4 ? margin : A4.margin,
  };
}

function imagesIn(node: RichNode): Set<string> {
  const found = new Set<string>();
  const walk = (one: RichNode) => {
    if (one.type === 'image') found.add(String(one.attrs?.['src'] ?? ''));
    one.content?.forEach(walk);
  };
  walk(node);
  return found;
}

/** The images of a document, as far as they can be had. */
async function imagesOf(
  doc: RichNode,
  bytesOf: (src: string) => Uint8Array | undefined,
): Promise<Map<string, PrintImage>> {
  const images = new Map<string, PrintImage>();
  for (const src of imagesIn(doc)) {
    const image = await imageOf(bytesOf(src));
    if (image) images.set(src, image);
  }
  return images;
}

/** An image as a PDF can hold it; undefined: it can't be read, and is told by its alt text. */
async function imageOf(bytes: Uint8Array | undefined): Promise<PrintImage | undefined> {
  if (!bytes) return undefined;
  try {
    const image = sharp(bytes, { limitInputPixels: 50_000_000 }).resize(MOST_PIXELS, MOST_PIXELS, {
      fit: 'inside',
      withoutEnlargement: true,
    });
    const { format, hasAlpha } = await sharp(bytes).metadata();
    const made = format === 'jpeg' || !hasAlpha ? image.rotate().jpeg({ quality: 88 }) : image.png();
    const { data, info } = await made.toBuffer({ resolveWithObject: true });
    return { bytes: data, width: info.width, height: info.height };
  } catch {
    return undefined;
  }
}
