import { createHash, type Hash } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { mkdir, open, type FileHandle } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { bagInfo, DECLARATION, HASHES, manifestLine, type HashName } from '../../core/archive/bag.ts';
import { syncFolder } from '../files/site-folder.ts';

type Hashes = Record<HashName, string>;
interface Held extends Hashes {
  bytes: number;
}
/** So much text is gathered before it is written. */
const AT_ONCE = 256 * 1024;

/** Writes a bag (RFC 8493) into an empty folder, and what its manifests say of it. */
export class BagWriter {
  /** Payload files. */
  private readonly held = new Map<string, Held>();

  constructor(readonly root: string) {}

  get bytes(): number {
    let sum = 0;
    for (const one of this.held.values()) sum += one.bytes;
    return sum;
  }
  get files(): number {
    return this.held.size;
  }

  /** Copies a file into the payload. @param path in the bag @throws Error of the file system */
  async copy(file: string, path: string): Promise<Held> {
    return this.write(path, createReadStream(file) as AsyncIterable<Buffer>);
  }

  /** Writes a text into the payload, as it comes. */
  async text(path: string, parts: Iterable<string> | AsyncIterable<string>): Promise<Held> {
    return this.write(path, gathered(parts));
  }

  /** A file that was written is none of the bag any more. */
  forget(path: string): void {
    this.held.delete(path);
  }

  /** Writes the manifests and all that makes it a bag. @param info labels and values of bag-info.txt */
  async finish(info: readonly (readonly [string, string])[]): Promise<void> {
    const tags: [string, Hashes][] = [];
    const tag = async (path: string, text: string) => {
      const { sha256, sha512 } = await writeHashed(join(this.root, path), gathered([text]));
      tags.push([path, { sha256, sha512 }]);
    };
    await tag('bagit.txt', DECLARATION);
    await tag('bag-info.txt', bagInfo([...info, ['Payload-Oxum', `${this.bytes}.${this.files}`]]));
    const paths = [...this.held].sort(([one], [other]) => (one < other ? -1 : 1));
    for (const hash of HASHES)
      await tag(
        `manifest-${hash}.txt`,
        paths.map(([path, held]) => manifestLine({ path, hash: held[hash] })).join(''),
      );
    const all = [...tags];
    for (const hash of HASHES)
      await tag(
        `tagmanifest-${hash}.txt`,
        all.map(([path, hashes]) => manifestLine({ path, hash: hashes[hash] })).join(''),
      );
    await syncFolder(this.root);
  }

  private async write(path: string, parts: AsyncIterable<Buffer>): Promise<Held> {
    const at = join(this.root, path);
    await mkdir(dirname(at), { recursive: true });
    const held = await writeHashed(at, parts);
    this.held.set(path, held);
    return held;
  }
}

async function* gathered(parts: Iterable<string> | AsyncIterable<string>): AsyncGenerator<Buffer> {
  let text = '';
  for await (const part of parts) {
    text += part;
    if (text.length < AT_ONCE) continue;
    yield Buffer.from(text);
    text = '';
  }
  if (text !== '') yield Buffer.from(text);
}

async function writeHashed(at: string, parts: AsyncIterable<Buffer>): Promise<Held> {
  const hashes: [HashName, Hash][] = HASHES.map((name) => [name, createHash(name)]);
  let bytes = 0;
  const out: FileHandle = await open(at, 'w');
  try {
    for await (const part of parts) {
      for (const [, hash] of hashes) hash.update(part);
      bytes += part.length;
      await out.write(part);
    }
    await out.sync();
  } finally {
    await out.close();
  }
  const told = Object.fromEntries(hashes.map(([name, hash]) => [name, hash.digest('hex')])) as Hashes;
  return { ...told, bytes };
}
