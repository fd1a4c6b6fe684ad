import { readFile } from 'node:fs/promises';
import { isPackage } from '../../core/document/document.ts';
import { draftOfText, NoSuchEdit } from '../../core/sheet/edits.ts';
import { newImagesOf, NEW_IMAGE, NoSuchText, wordDraftOf } from '../../core/word/draft.ts';
import type { NewImage } from '../../core/word/write-word.ts';
import type { Site } from '../app/site.ts';
import { Fault } from '../fault.ts';
import type { OpenDocument } from './documents.ts';
import { isVersionOf } from './versions.ts';

type Needs = Parameters<typeof isVersionOf>[0];

/**
 * The bytes of a workbook or a word-processor document with somebody's changes.
 * @param text as `draftAsText` or `wordDraftAsText` wrote them
 * @throws Fault 'bad-request' when they can't be made, 'not-found' when they are of a version that is not kept
 */
export async function editedPackage(
  site: Needs,
  document: Pick<OpenDocument, 'path' | 'kind' | 'bytes' | 'sha256'>,
  text: string,
): Promise<Uint8Array> {
  if (document.kind === 'word') {
    const { from, blocks } = draft(wordDraftOf, text);
    const before = await beganWith(site, document, from);
    if (!blocks) return before;
    const images: [string, NewImage][] = [];
    for (const src of newImagesOf(blocks)) images.push([src, await imageOf(site, src)]);
    return made(await site.pool.run('edit-word', { bytes: before, blocks, images }));
  }
  const { from, edits } = draft(draftOfText, text);
  const before = await beganWith(site, document, from);
  if (edits.length === 0) return before;
  return made(await site.pool.run('edit-workbook', { bytes: before, edits }));
}

function made(edited: { bytes: Uint8Array } | { refused: string }): Uint8Array {
  if ('refused' in edited) throw new Fault('bad-request', edited.refused, 'Nothing was changed.');
  return edited.bytes;
}
const beganWith = (
  site: Needs,
  { path, bytes, sha256 }: Pick<OpenDocument, 'path' | 'bytes' | 'sha256'>,
  from: string | undefined,
) => (from === undefined || from === sha256 ? bytes : versionOf(site, path, from));

function draft<Draft>(read: (text: string) => Draft, text: string): Draft {
  try {
    return read(text);
  } catch (error) {
    if (!(error instanceof NoSuchEdit || error instanceof NoSuchText)) throw error;
    throw new Fault('bad-request', error.message, 'Reload the document.');
  }
}

/** Images as documents hold them, by their media types. */
const EXTENSIONS: Readonly<Record<string, NewImage['extension']>> = {
  'image/png': 'png',
  'image/jpeg': 'jpg',
  'image/gif': 'gif',
};
/** Bytes of an image that comes into a document. */
const MOST_IMAGE = 5_000_000;

/** An image of the library for a document. @throws Fault 'not-found', 'bad-request', 'too-large' */
async function imageOf(site: Pick<Site, 'folder' | 'items'>, src: string): Promise<NewImage> {
  const item = site.items.get(Number(src.slice(NEW_IMAGE.length)));
  const extension = EXTENSIONS[item?.mime ?? ''];
  if (!item || item.state !== 'here')
    throw new Fault('not-found', 'An image that you put in isn’t in the library any more.', 'Remove it.');
  if (!extension || !item.width || !item.height)
    throw new Fault(
      'bad-request',
      `“${item.name}” can’t be put into this document: it takes PNG, JPEG and GIF.`,
      'Choose another image.',
    );
  if (item.bytes > MOST_IMAGE)
    throw new Fault('too-large', `“${item.name}” is too heavy for a document.`, 'Make it smaller first.');
  return { bytes: await site.folder.read(item.path), extension, width: item.width, height: item.height };
}

/** What a package shows, line by line. @throws Fault 'bad-request' */
export async function shownOf(
  site: Pick<Site, 'pool'>,
  kind: OpenDocument['kind'],
  bytes: Uint8Array,
): Promise<{ text: string }> {
  if (!isPackage(kind)) throw new RangeError(`${kind} is no package`);
  const shown = await site.pool.run('package-text', { bytes, kind });
  if ('refused' in shown) throw new Fault('bad-request', shown.refused, 'Download it.');
  return shown;
}

/** The bytes that a document had. @throws Fault 'not-found' */
export async function versionOf(site: Needs, path: string, sha256: string): Promise<Uint8Array> {
  if (!(await isVersionOf(site, path, sha256)))
    throw new Fault('not-found', 'This version isn’t kept.', 'Reload the document.');
  return readFile(site.blobs.get(sha256));
}
