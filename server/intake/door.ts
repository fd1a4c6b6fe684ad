import { open, readFile, stat, writeFile } from 'node:fs/promises';
import { fileTypeFromFile } from 'file-type';
import { isItemPath, kindOf, mimeOf, runsSomewhere } from '../../core/address/kinds.ts';
import { extensionOf, stemOf } from '../../core/address/path.ts';
import { safeDrawing } from './drawing.ts';
import { LIMITS } from './limits.ts';

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
const TEXT_MEDIA = new Set(['.csv', '.tsv', '.ics', '.vcf', '.vtt', '.srt']);
/** Said of what is not known and does no harm. */
const KEPT =
  'Iconomos does not know this kind of file, so it is kept as it is, without preview, for download only.';
const PAGE_OR_SCRIPT =
  'It is a page or a script, not a media file. Put it on the site by your usual way for pages.';
const PROGRAM = 'It is a program, whatever its name says. Only media files are taken.';
/** Types that file-type names for containers which the extension tells apart further. */
const CONTAINERS: Record<string, readonly string[]> = {
  'application/zip': ['.zip', '.docx', '.xlsx', '.pptx', '.odt', '.ods', '.odp', '.epub'],
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
  if (head.length === 0) return { refused: 'The file is empty. Save or send it again.' };
  const extension = extensionOf(name);
  const type = await fileTypeFromFile(file);
  if (!type || type.mime === 'application/xml') return checkText(file, extension, head);
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
    (extension !== '' && mimeOf(`x${extension}`) === type.mime)
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
  if (['video', 'audio'].includes(kindOf(`x${right}`)) && (await isCutOff(file, type.mime))) {
    return { refused: 'The film or sound ends too early. Export or send it again.' };
  }
  return { taken: { extension: right, notes } };
}

async function checkText(file: string, extension: string, head: Buffer): Promise<DoorAnswer> {
  const start = head
    .toString('utf8')
    .replace(/^\ufeff/, '')
    .trimStart();
  if (
    /^(<\?xml[^>]*>\s*)?(<!--[\s\S]*?-->\s*)*(<!doctype\s+svg[^>[]*(\[[\s\S]*?\]\s*)?>\s*)?<svg[\s>]/i.test(
      start,
    )
  )
    return checkDrawing(file, extension);
  if (runsSomewhere(`x${extension}`) || /^(<!doctype html|<html|<script|<\?php|#!)/i.test(start))
    return { refused: PAGE_OR_SCRIPT };
  if (head.includes(0)) {
    if (isImage(extension))
      return {
        refused:
          'The content is not what its name says, and no known media type: it may be damaged. Save or export it again.',
      };
    return kept(extension);
  }
  if (TEXT_MEDIA.has(extension)) return { taken: { extension, notes: [] } };
  if (isImage(extension)) return { refused: 'The file is text, not a picture. Export the picture again.' };
  return kept(extension);
}

/** Unknown and harmless: kept under its own extension. */
function kept(extension: string): DoorAnswer {
  if (extension === '')
    return {
      refused:
        'Neither its content nor its name says what kind of file it is. Give it its extension and send it again.',
    };
  return { taken: { extension: /^\.[a-z0-9]{1,12}$/.test(extension) ? extension : '.bin', notes: [KEPT] } };
}

function isImage(extension: string): boolean {
  return kindOf(`x${extension}`) === 'image';
}

/** A drawing is written anew without what could run or load; the file is replaced by the safe one. */
async function checkDrawing(file: string, extension: string): Promise<DoorAnswer> {
  if ((await stat(file)).size > LIMITS.drawingBytes)
    return { refused: 'The drawing is heavier than 20 MB. Export it with fewer points, or as a picture.' };
  const notes = extension === '.svg' ? [] : ['Its content is an SVG drawing, so it gets the extension .svg.'];
  try {
    const { text, removed } = safeDrawing((await readFile(file)).toString('utf8').replace(/^\ufeff/, ''));
    if (removed.length > 0) {
      await writeFile(file, text);
      notes.push(`Made safe: ${removed.join(', ')} taken out of the drawing.`);
    }
  } catch (error) {
    return { refused: `The drawing could not be read: ${plainReason(error)} Export it again as plain SVG.` };
  }
  return { taken: { extension: '.svg', notes } };
}

/** The first sentence of a parser's complaint, without positions. */
function plainReason(error: unknown): string {
  const reason = (error as Error).message.replace(/^\d+:\d+:\s*/, '').split('\n')[0]!;
  return `${reason.charAt(0).toUpperCase()}${reason.slice(1).replace(/\.$/, '')}.`;
}

async function pdfFault(file: string): Promise<string | undefined> {
  // Some programs add a little behind the end mark; 64 kB are more than any does.
  const bytes = await lastBytes(file, 65_536);
  return bytes.includes('%%EOF') ? undefined : 'The PDF ends too early. Export or send it again.';
}

/** True for an MP4 family file whose boxes reach beyond its end, or a WAV shorter than it says. */
async function isCutOff(file: string, mime: string): Promise<boolean> {
  if (!/mp4|quicktime|m4a/.test(mime)) return false;
  const handle = await open(file, 'r');
  try {
    const { size } = await handle.stat();
    const header = Buffer.alloc(16);
    let at = 0;
    let movie = false;
    while (at + 8 <= size) {
      await handle.read(header, 0, 16, at);
      let length = header.readUInt32BE(0);
      if (length === 1) length = Number(header.readBigUInt64BE(8));
      if (header.toString('latin1', 4, 8) === 'moov') movie = true;
      if (length === 0) return !movie;
      if (length < 8) return true;
      at += length;
    }
    return at !== size || !movie;
  } finally {
    await handle.close();
  }
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

/** The stem of a name that hides another extension: 'x.php' of 'x.php.jpg' -> 'x-php'. */
export function plainStem(name: string): string {
  return stemOf(name).replace(/\./g, '-');
}
