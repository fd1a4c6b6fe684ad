import { Transform, type Readable } from 'node:stream';
import { crc32 } from 'node:zlib';
import { open, type Entry, type ZipFile } from 'yauzl';
import { Fault } from '../fault.ts';
import { LIMITS } from '../limits.ts';

/** What programs leave in archives without anyone wanting it. */
const JUNK = /(^|\/)(__MACOSX\/|\.DS_Store$|Thumbs\.db$|desktop\.ini$|\._)/i;

export function openZip(file: string): Promise<ZipFile> {
  return new Promise((done, failed) =>
    open(file, { lazyEntries: true, autoClose: false, strictFileNames: false }, (error, zip) =>
      error ? failed(error) : done(zip),
    ),
  );
}

export async function* entriesOf(zip: ZipFile): AsyncGenerator<Entry> {
  for (;;) {
    const entry = await new Promise<Entry | undefined>((done, failed) => {
      const stop = () => {
        zip.removeListener('entry', onEntry);
        zip.removeListener('end', onEnd);
        zip.removeListener('error', onError);
      };
      const onEntry = (found: Entry) => (stop(), done(found));
      const onEnd = () => (stop(), done(undefined));
      const onError = (error: Error) => (stop(), failed(error));
      zip.on('entry', onEntry);
      zip.on('end', onEnd);
      zip.on('error', onError);
      zip.readEntry();
    });
    if (!entry) return;
    yield entry;
  }
}

/** Why an entry cannot be read, as a sentence. */
export class UnreadableEntry extends Error {}

/** The bytes of an entry, which end with an error when they are not those that were packed. */
export async function openEntry(zip: ZipFile, entry: Entry): Promise<Readable> {
  if (entry.isEncrypted()) throw new UnreadableEntry('It is protected by a password.');
  const packed = await new Promise<Readable>((done, failed) =>
    zip.openReadStream(entry, (error, stream) =>
      error
        ? failed(new UnreadableEntry('It is packed in a way that is not known here, or damaged.'))
        : done(stream),
    ),
  );
  let sum = 0;
  const checked = new Transform({
    transform(chunk: Buffer, _encoding, done) {
      sum = crc32(chunk, sum);
      done(null, chunk);
    },
    flush(done) {
      done(sum === entry.crc32 ? null : new UnreadableEntry('Its checksum is wrong: it is damaged.'));
    },
  });
  packed.on('error', () => checked.destroy(new UnreadableEntry('It is damaged, or ends too early.')));
  return packed.pipe(checked);
}

export async function readEntry(zip: ZipFile, entry: Entry): Promise<Buffer> {
  const chunks: Buffer[] = [];
  for await (const chunk of await openEntry(zip, entry)) chunks.push(chunk as Buffer);
  return Buffer.concat(chunks);
}

/** Every entry worth unpacking. @throws Fault 'refused-file' when one points outside, or there is too much. */
export async function worthUnpacking(zip: ZipFile): Promise<Entry[]> {
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
