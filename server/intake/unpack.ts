import { baseName, folderOf } from '../../core/address/path.ts';
import { folderWithin, safeFolder } from '../../core/intake/arrival-names.ts';
import { Fault } from '../fault.ts';
import type { OpenedSite } from '../app/opened-site.ts';
import { takeIn } from './uploads.ts';
import { openEntry, openZip, UnreadableEntry, worthUnpacking } from '../media/zip.ts';

/**
 * Unpacks an arrived archive: its files take its place on the list. All names and sizes are looked at first; an entry that
 * points outside refuses the whole, one that merely cannot be read is refused by itself.
 * @throws Fault 'refused-file', then nothing was written
 */
export async function unpack(
  site: Pick<OpenedSite, 'data' | 'blobs' | 'arrivals' | 'jobs' | 'events' | 'now' | 'checking'>,
  id: number,
  personId: number,
): Promise<number> {
  const row = site.arrivals.get(id);
  if (!row || row.personId !== personId || row.state !== 'ready' || !row.archive)
    throw new Fault('not-found', 'This archive is no longer waiting.', 'Upload it again.');
  return site.jobs.run('unpack', `Unpacking “${row.givenName}”`, async (job) => {
    const zip = await openZip(site.blobs.get(row.sha256));
    try {
      const entries = await worthUnpacking(zip);
      let done = 0;
      for (const entry of entries) {
        job.signal.throwIfAborted();
        const name = entry.fileName.replace(/\\/g, '/');
        const file = {
          personId,
          givenName: baseName(name),
          folder: row.folder,
          below: folderWithin(row.below, safeFolder(folderOf(name))),
          inside: true,
        };
        try {
          await takeIn(site, await openEntry(zip, entry), { ...file, most: entry.uncompressedSize });
        } catch (error) {
          if (error instanceof Fault && error.code === 'disk-full') throw error;
          const why =
            error instanceof UnreadableEntry || error instanceof Fault
              ? error.message
              : 'It could not be stored.';
          site.arrivals.insert({
            ...file,
            at: site.now(),
            bytes: entry.uncompressedSize,
            state: 'refused',
            refused: `It could not be read out of “${row.givenName}”: ${why} Pack it again.`,
          });
        }
        job.progress(++done, entries.length, 'files unpacked');
        site.events.emit('arrivals');
      }
      return entries.length;
    } finally {
      zip.close();
    }
  });
}
