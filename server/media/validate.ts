import { open, readFile, stat, writeFile } from 'node:fs/promises';
import { promisify } from 'node:util';
import { gunzip } from 'node:zlib';
import { fileTypeFromFile } from 'file-type';
import { isItemPath, keepsExtension, kindOf, mimeOf, runsSomewhere } from '../../core/address/kinds.ts';
import { extensionOf } from '../../core/address/path.ts';
import { safeDrawing } from './svg.ts';
import { LIMITS } from '../limits.ts';
import { isDrawing, mayRun } from './markup-start.ts';
import { endsTooEarly } from './truncation.ts';

/** What the door says of an arrived file: taken under some extension, with notes; or refused with a sentence. */
export type DoorAnswer = { taken: { extension: string; notes: string[] } } | { refused: string };

/** Extension by content, where the content alone tells the type. */
const EXTENSION_OF: Record<string, string> = {
  'image/jpeg': '.jpg',
  'image/png': '.png',
  'image/apng': '.png',
  'image/gif': '.gif',
  'image/webp': '.webp',
  'image/avif': '.avif',
  'image/tiff': '.tif',
  'image/bmp': '.bmp',
  'image/x-icon': '.ico',
  'image/vnd.microsoft.icon': '.ico',
  'video/mp4': '.mp4',
  'video/webm': '.webm',
  'video/quicktime': '.mov',
  'audio/mpeg': '.mp3',
  'audio/wav': '.wav',
  'audio/flac': '.flac',
  'audio/x-flac': '.flac',
  'audio/ogg': '.ogg',
  'audio/x-m4a': '.m4a',
  'application/pdf': '.pdf',
};

/** Texts that are media: nothing in their bytes tells them from other text. */
const TEXT_MEDIA = new Set(
  'csv tsv ics vcf vtt srt rtf ps eps gltf obj ply stl geojson gpx kml xpm xbm ppm pgm pbm'
    .split(' ')
    .map((extension) => `.${extension}`),
);
/** Said of what is not known and does no harm. */
const KEPT =
  'Iconomos does not know this kind of file, so it is kept as it is, without preview, for download only.';
const PAGE_OR_SCRIPT =
  'It is a page or a script, not a media file. Put it on the site by your usual way for pages.';
const PROGRAM = 'It is a program, whatever its name says. Only media files are accepted.';
/** Types that file-type names for containers which the extension tells apart further. */
const CONTAINERS: Record<string, readonly string[]> = {
  'application/zip': 'zip docx xlsx pptx docm xlsm odt ods odp odg epub kmz 3mf usdz'
    .split(' ')
    .map((extension) => `.${extension}`),
  'application/x-cfb': ['.doc', '.xls', '.ppt'],
  'video/mp4': ['.mp4', '.m4v', '.m4a'],
  'application/ogg': ['.ogg', '.oga', '.ogv', '.opus'],
  'audio/ogg': ['.ogg', '.oga', '.opus'],
  'image/jpeg': ['.jpg', '.jpeg', '.jpe', '.jfif'],
  'image/tiff': ['.tif', '.tiff'],
  'image/png': ['.png', '.apng'],
  'image/apng': ['.png', '.apng'],
};

/**
 * Decides over an arrived file by its content; the name is a hint. Runs in a worker.
 * @param file where its bytes lie
 * @param name the name it came with
 */
export async function checkAtDoor(file: string, name: string): Promise<DoorAnswer> {
  const head = await firstBytes(file, 4096);
  if (head.length === 0) return { refused: 'The file is empty. Save it again and upload the new copy.' };
  const extension = extensionOf(name);
  // A mark of its encoding says that it is text: other signs, such as those of sounds, are made of the same bytes.
  const type = textMark(head) ? undefined : await typeOf(file, extension);
  if (!type || type.mime === 'application/xml') return checkText(file, extension, head);
  if (type.mime === 'application/gzip' && extension === '.svgz') return unpackDrawing(file);
  if (
    /executable|x-msdownload|x-elf|x-mach|java-vm|x-shockwave|wasm|x-deb|x-rpm|diskimage|android|ms-shortcut|x-msi/.test(
      type.mime,
    )
  )
    return { refused: PROGRAM };
  const fits = CONTAINERS[type.mime];
  const known = EXTENSION_OF[type.mime] ?? (isItemPath(`x.${type.ext}`) ? `.${type.ext}` : undefined);
  if (!known)
    return runsSomewhere(`x${extension}`) ? { refused: PROGRAM } : kept(extension || `.${type.ext}`);
  const right =
    fits?.includes(extension) ||
    extension === known ||
    (extension !== '' && mimeOf(`x${extension}`) === type.mime) ||
    (type.mime === 'application/zip' && isOfUnknownKind(extension))
      ? extension
      : known;
  const notes: string[] = [];
  if (right !== extension) {
    notes.push(
      extension === ''
        ? `Its content is ${mimeOf(`x${right}`)}, so it gets the extension ${right}.`
        : `Its name says ${extension}, its content is ${mimeOf(`x${right}`)}: it gets the extension ${right}.`,
    );
  }
  if (right === '.pdf') {
    const fault = await pdfFault(file);
    if (fault) return { refused: fault };
  }
  if (await endsTooEarly(file, type.mime)) {
    const what =
      { image: 'image', video: 'video', audio: 'audio file' }[kindOf(`x${right}`) as string] ?? 'file';
    return { refused: `The ${what} ends too early. Export it again and upload the new copy.` };
  }
  return { taken: { extension: right, notes } };
}

/** So much of a text of markup is looked through for what it is. */
const MARKUP = 1_000_000;

/** The encoding that a text's first bytes name (Encoding Standard, 6.1 BOM sniff). */
function textMark(head: Uint8Array): 'utf-8' | 'utf-16le' | 'utf-16be' | undefined {
  const [a, b, c] = head;
  if (a === 0xef && b === 0xbb && c === 0xbf) return 'utf-8';
  if (a === 0xff && b === 0xfe) return 'utf-16le';
  return a === 0xfe && b === 0xff ? 'utf-16be' : undefined;
}
/** A text without the mark of its encoding. */
function plainText(bytes: Uint8Array): string {
  return new TextDecoder(textMark(bytes) ?? 'utf-8').decode(bytes);
}

/** Containers under their own name ('.sketch'): the name says what the content cannot. */
function isOfUnknownKind(extension: string): boolean {
  return keepsExtension(`x${extension}`) && !isItemPath(`x${extension}`);
}

/** What the content is. The sign of icons is so short that other files have it too: those are known by their order. */
async function typeOf(file: string, extension: string) {
  const type = await fileTypeFromFile(file);
  const isIcon = type?.mime === 'image/x-icon' && mimeOf(`x${extension}`) !== 'image/vnd.microsoft.icon';
  return isIcon && (await endsTooEarly(file, type.mime)) ? undefined : type;
}

async function checkText(file: string, extension: string, head: Buffer): Promise<DoorAnswer> {
  const mark = textMark(head);
  const begins = plainText(head);
  // Before what is drawn, or run, there may be any number of comments.
  const text = begins.trimStart().startsWith('<') ? plainText(await firstBytes(file, MARKUP)) : begins;
  if (isDrawing(text)) return checkDrawing(file, extension);
  if (runsSomewhere(`x${extension}`) || mayRun(text)) return { refused: PAGE_OR_SCRIPT };
  const kind = kindOf(`x${extension}`);
  if (mark !== 'utf-16le' && mark !== 'utf-16be' && head.includes(0)) {
    if (kind === 'other' || extension === '.tga') return kept(extension);
    return {
      refused:
        'The content is not what its name says, and no known media type: it may be damaged. Save or export it again.',
    };
  }
  if (TEXT_MEDIA.has(extension)) return { taken: { extension, notes: [] } };
  if (kind !== 'other')
    return { refused: `The file is text, not what its name says (${extension}). Export it again.` };
  return kept(extension);
}

/** Unknown and harmless: kept under its own extension. */
function kept(extension: string): DoorAnswer {
  if (extension === '')
    return {
      refused:
        'Neither its content nor its name says what kind of file it is. Give it its extension and send it again.',
    };
  if (keepsExtension(`x${extension}`)) return { taken: { extension, notes: [KEPT] } };
  return {
    taken: {
      extension: '.bin',
      notes: [
        KEPT,
        `Nobody can say whether some server would run a file named ${extension}, so it gets the extension .bin.`,
      ],
    },
  };
}

/** A drawing is written anew without what could run or load; the file is replaced by the safe one. */
async function checkDrawing(file: string, extension: string): Promise<DoorAnswer> {
  if ((await stat(file)).size > LIMITS.drawingBytes)
    return { refused: 'The drawing is heavier than 20 MB. Export it with fewer points, or as a picture.' };
  const notes = extension === '.svg' ? [] : ['Its content is an SVG drawing, so it gets the extension .svg.'];
  try {
    const bytes = await readFile(file);
    const { text, removed } = safeDrawing(plainText(bytes));
    const wide = textMark(bytes)?.startsWith('utf-16') === true;
    if (removed.length > 0 || wide) await writeFile(file, text);
    if (removed.length > 0) notes.push(`Made safe: ${removed.join(', ')} taken out of the drawing.`);
    if (wide) notes.push('Written anew in UTF-8: not every program reads drawings in UTF-16.');
  } catch (error) {
    return { refused: `The drawing could not be read: ${plainReason(error)} Export it again as plain SVG.` };
  }
  return { taken: { extension: '.svg', notes } };
}

/** A drawing that came packed is kept unpacked: so servers need no setting for it, and it can be looked through. */
async function unpackDrawing(file: string): Promise<DoorAnswer> {
  let text: Buffer;
  try {
    text = await promisify(gunzip)(await readFile(file), { maxOutputLength: LIMITS.drawingBytes });
  } catch {
    return {
      refused: 'The packed drawing is damaged, or unpacks to more than 20 MB. Export it as plain SVG.',
    };
  }
  await writeFile(file, text);
  const answer = await checkText(file, '.svg', text.subarray(0, 4096));
  if ('taken' in answer)
    answer.taken.notes.unshift('The drawing came packed (.svgz): it is kept unpacked, as .svg.');
  return answer;
}

/** The first sentence of a parser's complaint, without positions. */
function plainReason(error: unknown): string {
  const reason = (error as Error).message.replace(/^\d+:\d+:\s*/, '').split('\n')[0]!;
  return `${reason.charAt(0).toUpperCase()}${reason.slice(1).replace(/\.$/, '')}.`;
}

async function pdfFault(file: string): Promise<string | undefined> {
  // Some programs add a little behind the end mark; 64 kB are more than any does.
  const bytes = await lastBytes(file, 65_536);
  return bytes.includes('%%EOF')
    ? undefined
    : 'The PDF ends too early. Export it again and upload the new copy.';
}

async function lastBytes(file: string, length: number): Promise<Buffer> {
  const handle = await open(file, 'r');
  try {
    const { size } = await handle.stat();
    const { buffer, bytesRead } = await handle.read(
      Buffer.alloc(Math.min(length, size)),
      0,
      Math.min(length, size),
      Math.max(0, size - length),
    );
    return buffer.subarray(0, bytesRead);
  } finally {
    await handle.close();
  }
}

async function firstBytes(file: string, length: number): Promise<Buffer> {
  const handle = await open(file, 'r');
  try {
    const { buffer, bytesRead } = await handle.read(Buffer.alloc(length), 0, length, 0);
    return buffer.subarray(0, bytesRead);
  } finally {
    await handle.close();
  }
}
