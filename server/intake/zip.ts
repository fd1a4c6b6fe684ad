import type { Readable } from 'node:stream';
import { open, type Entry, type ZipFile } from 'yauzl';

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

export function openEntry(zip: ZipFile, entry: Entry): Promise<Readable> {
  return new Promise((done, failed) =>
    zip.openReadStream(entry, (error, stream) => (error ? failed(error) : done(stream))),
  );
}

export async function readEntry(zip: ZipFile, entry: Entry): Promise<Buffer> {
  const chunks: Buffer[] = [];
  for await (const chunk of await openEntry(zip, entry)) chunks.push(chunk as Buffer);
  return Buffer.concat(chunks);
}
