import type { SitePath } from '../../core/address/path.ts';
import type { Site } from '../app/site.ts';
import type { TouchingEntry } from './ledger.ts';

/** One change of a file or its record, as the Ledger has it. */
export interface PastChange {
  entry: TouchingEntry;
  /** Its address before and after, where it moved. */
  moved: { from: SitePath; to: SitePath } | null;
  /** Hashes of its bytes, where they were replaced. */
  file: { before: string; after: string } | null;
}

/**
 * What became of a file, the newest first. Changes that others made to it on the disk are not among them.
 * @param itemId its record, with which it is followed through its moves; null: it has none
 * @param path where it lies now
 */
export async function pastOf(
  site: Pick<Site, 'reader' | 'rows'>,
  itemId: number | null,
  path: SitePath,
): Promise<PastChange[]> {
  // No record has this number.
  const id = itemId ?? 0;
  const paths = new Set([path]);
  if (itemId !== null)
    for (const { record } of await site.rows.touching(site.reader, id, []))
      for (const one of [record?.before.path, record?.after.path]) if (one !== undefined) paths.add(one);
  const past: PastChange[] = [];
  // A path may have been another item's at another time: only what happened while it was this one's counts.
  let at = path;
  for (const entry of await site.rows.touching(site.reader, id, [...paths])) {
    const { record } = entry;
    const write = entry.writes.find((step) => step.path === at);
    const file =
      write && write.before !== null && write.after !== null
        ? { before: write.before, after: write.after }
        : null;
    const [from, to] = [record?.before.path, record?.after.path];
    if (from !== undefined) at = from;
    if (!record && !file) continue;
    past.push({
      entry,
      file,
      moved: from !== undefined && to !== undefined && from !== to ? { from, to } : null,
    });
  }
  return past;
}
