import { readFile } from 'node:fs/promises';
import type { DocumentVersion } from '../../api/documents.ts';
import type { SitePath } from '../../core/address/path.ts';
import { MOST_EDITED } from '../../core/document/document.ts';
import { sayChanges } from '../../core/document/line-changes.ts';
import type { Site } from '../app/site.ts';

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
  const itemId = site.items.atPath(path)?.id ?? 0;
  const paths = new Set([path]);
  if (itemId !== 0)
    for (const { record } of await site.rows.touching(site.reader, itemId, []))
      for (const one of [record?.before.path, record?.after.path]) if (one !== undefined) paths.add(one);
  const versions: DocumentVersion[] = [];
  // A path may have been another item's at another time: only what happened while it was this one's counts.
  let at = path;
  for (const { record, writes, undoneBy, ...entry } of await site.rows.touching(site.reader, itemId, [
    ...paths,
  ])) {
    const write = writes.find((step) => step.path === at);
    if (record?.before.path !== undefined) at = record.before.path;
    if (!write || write.before === null || write.after === null) continue;
    versions.push({
      entryId: entry.id,
      at: entry.at,
      person: entry.person,
      title: entry.title,
      note: entry.note,
      undone: undoneBy !== null,
      before: write.before,
      after: write.after,
      changes: null,
    });
  }
  if (!compared) return versions;
  const now = site.index.factsOf(path)?.sha256;
  const bytesOf = async (sha256: string) => {
    const file = site.blobs.has(sha256)
      ? site.blobs.get(sha256)
      : sha256 === now
        ? await site.folder.locate(path)
        : undefined;
    const bytes = file && (await readFile(file));
    return bytes && bytes.length <= MOST_EDITED ? bytes : undefined;
  };
  for (const version of versions.slice(0, COMPARED)) {
    const [before, after] = [await bytesOf(version.before), await bytesOf(version.after)];
    if (!before || !after) continue;
    const changes = await site.pool.run('line-changes', { before, after });
    version.changes = changes && sayChanges(changes);
  }
  return versions;
}
