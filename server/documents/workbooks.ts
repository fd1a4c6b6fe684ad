import { readFile } from 'node:fs/promises';
import { draftOfText, NoSuchEdit, type WorkbookDraft } from '../../core/sheet/edits.ts';
import { Fault } from '../fault.ts';
import type { OpenDocument } from './documents.ts';
import { isVersionOf } from './versions.ts';

/**
 * The bytes of a workbook with somebody's changes.
 * @param text as `draftAsText` wrote them
 * @throws Fault 'bad-request' when they can't be made, 'not-found' when they are of a version that is not kept
 */
export async function editedWorkbook(
  site: Parameters<typeof isVersionOf>[0],
  { path, bytes, sha256 }: Pick<OpenDocument, 'path' | 'bytes' | 'sha256'>,
  text: string,
): Promise<Uint8Array> {
  const { from, edits } = draft(text);
  const before = from === undefined || from === sha256 ? bytes : await versionOf(site, path, from);
  if (edits.length === 0) return before;
  const edited = await site.pool.run('edit-workbook', { bytes: before, edits });
  if ('refused' in edited) throw new Fault('bad-request', edited.refused, 'Nothing was changed.');
  return edited.bytes;
}

function draft(text: string): WorkbookDraft {
  try {
    return draftOfText(text);
  } catch (error) {
    if (!(error instanceof NoSuchEdit)) throw error;
    throw new Fault('bad-request', error.message, 'Reload the document.');
  }
}

/** The bytes that a document had. @throws Fault 'not-found' */
export async function versionOf(
  site: Parameters<typeof isVersionOf>[0],
  path: string,
  sha256: string,
): Promise<Uint8Array> {
  if (!(await isVersionOf(site, path, sha256)))
    throw new Fault('not-found', 'This version isn’t kept.', 'Reload the document.');
  return readFile(site.blobs.get(sha256));
}
