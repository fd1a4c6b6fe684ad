import { readFile } from 'node:fs/promises';
import type { DocumentVersion } from '../../api/documents.ts';
import type { SitePath } from '../../core/address/path.ts';
import { mostEdited, textKindOf } from '../../core/document/document.ts';
import { sayChanges } from '../../core/document/line-changes.ts';
import type { Site } from '../app/site.ts';
import { pastOf } from '../db/past.ts';

/** Versions of which it is told what changed. */
const COMPARED = 30;

/**
 * What became of the bytes of a document, the newest first: as far as the Ledger has it, at the places where it lay.
 * @param compared whether to tell what changed
 */
export async function documentVersions(
  site: Pick<Site, 'blobs' | 'folder' | 'index' | 'items' | 'pool' | 'reader' | 'rows'>,
  path: SitePath,
  compared = true,
): Promise<DocumentVersion[]> {
  const past = await pastOf(site, site.items.atPath(path)?.id ?? null, path);
  const versions = past.flatMap(({ entry, file }): DocumentVersion[] => {
    if (!file) return [];
    const { id: entryId, at, person, title, note, undoneBy } = entry;
    return [{ entryId, at, person, title, note, undone: undoneBy !== null, ...file, changes: null }];
  });
  if (!compared) return versions;
  const kind = textKindOf(path);
  const now = site.index.factsOf(path)?.sha256;
  const bytesOf = async (sha256: string) => {
    const file = site.blobs.has(sha256)
      ? site.blobs.get(sha256)
      : sha256 === now
        ? await site.folder.locate(path)
        : undefined;
    const bytes = file && (await readFile(file));
    return bytes && bytes.length <= mostEdited(kind) ? bytes : undefined;
  };
  for (const version of versions.slice(0, COMPARED)) {
    const [before, after] = [await bytesOf(version.before), await bytesOf(version.after)];
    if (!before || !after) continue;
    const changes = await site.pool.run('line-changes', { before, after, kind });
    version.changes = changes && sayChanges(changes, kind === 'workbook');
  }
  return versions;
}

/** Whether a document had these bytes, and they are kept. */
export const isVersionOf = async (
  site: Parameters<typeof documentVersions>[0],
  path: SitePath,
  sha256: string,
): Promise<boolean> =>
  site.blobs.has(sha256) &&
  (await documentVersions(site, path, false)).some(
    ({ before, after }) => before === sha256 || after === sha256,
  );
