import type { Entry, ZipFile } from 'yauzl';
import { baseName, folderOf } from '../../core/address/path.ts';
import { folderWithin, safeFolder } from '../../core/intake/naming.ts';
import { Fault } from '../fault.ts';
import type { Site } from '../site/site.ts';
import { LIMITS } from './limits.ts';
import { takeIn } from './uploads.ts';
import { entriesOf, openEntry, openZip } from './zip.ts';

/** What programs leave in archives without anyone wanting it. */
const JUNK = /(^|\/)(__MACOSX\/|\.DS_Store$|Thumbs\.db$|desktop\.ini$|\._)/i;

/**
 * Unpacks an arrived archive: its files take its place on the list. All names and sizes are looked at first; an entry that
 * points outside refuses the whole, one that merely cannot be read is refused by itself.
 * @throws Fault 'refused-file', then nothing was written
 */
export async function unpack(site: Site, id: number, personId: number): Promise<number> {
  const row = site.arrivals.get(id);
  if (!row || row.personId !== personId || row.state !== 'ready' || !row.archive)
    throw new Fault('not-found', 'This archive no longer waits here.', 'Send it again.');
  return site.jobs.run('unpack', `Unpacking “${row.givenName}”`, async (job) => {
    const zip = await openZip(site.blobs.path(row.sha256));
    try {
      const entries = await look(zip);
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
          if (entry.isEncrypted()) throw new Error('It needs a password.');
          await takeIn(site, await openEntry(zip, entry), { ...file, most: entry.uncompressedSize });
        } catch (error) {
          if (error instanceof Fault && error.code === 'disk-full') throw error;
          site.arrivals.insert({
            ...file,
            at: site.now(),
            bytes: entry.uncompressedSize,
            state: 'refused',
            refused: `It could not be read out of “${row.givenName}”: ${(error as Error).message} Pack it again.`,
          });
        }
        job.progress(++done, entries.length, 'files unpacked');
        site.checking.changed();
      }
      return entries.length;
    } finally {
      zip.close();
    }
  });
}

/** Every entry worth unpacking. @throws Fault 'refused-file' when one points outside, or there is too much. */
async function look(zip: ZipFile): Promise<Entry[]> {
  const entries: Entry[] = [];
  let bytes = 0;
  const refuse = (what: string, remedy = 'Nothing was unpacked. Keep it as one file, or pack it again.') =>
    new Fault('refused-file', what, remedy);
  try {
    for await (const entry of entriesOf(zip)) {
      const kind = (entry.externalFileAttributes >>> 16) & 0o170000;
      if (kind !== 0 && kind !== 0o100000 && kind !== 0o040000)
        throw refuse(`“${entry.fileName}” in the archive is a link or a device, not a file.`);
      if (entry.fileName.endsWith('/') || JUNK.test(entry.fileName)) continue;
      bytes += entry.uncompressedSize;
      if (entries.push(entry) > LIMITS.archiveFiles)
        throw refuse(`The archive holds more than ${LIMITS.archiveFiles.toLocaleString('en')} files.`);
      if (bytes > LIMITS.archiveBytes) throw refuse('The archive holds more than 2 GB.');
      if (entry.uncompressedSize > 1e6 && entry.uncompressedSize > entry.compressedSize * LIMITS.archiveRatio)
        throw refuse(`“${entry.fileName}” in the archive unpacks to far more than it weighs.`);
    }
  } catch (error) {
    if (error instanceof Fault) throw error;
    const outside = /^(?:invalid relative path|absolute path|invalid characters in fileName): (.*)$/s.exec(
      (error as Error).message,
    );
    throw outside
      ? refuse(`“${outside[1]}” in the archive points outside of it.`)
      : refuse('The archive is damaged: its list of files cannot be read.');
  }
  return entries;
}
