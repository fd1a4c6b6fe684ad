import { createHash } from 'node:crypto';
import { createReadStream } from 'node:fs';
import { lstat, readdir, readFile } from 'node:fs/promises';
import { join, resolve } from 'node:path';
import {
  READ_HASHES,
  readLabels,
  readManifest,
  type ManifestLine,
  type ReadHash,
} from '../../core/archive/bag.ts';
import { Fault } from '../fault.ts';

/** Something that is wrong in a bag: in which of its texts, in which line (0: as a whole), and what. */
export interface BagFault {
  file: string;
  line: number;
  says: string;
}

/** What a bag says of itself, and what of it is sound. */
export interface CheckedBag {
  root: string;
  /** By label, in small letters. */
  info: ReadonlyMap<string, string>;
  /** Payload files whose hashes are those of every manifest, and their sizes. */
  sound: ReadonlyMap<string, number>;
  faults: BagFault[];
}

export interface CheckOptions {
  progress?: (done: number, total: number) => void;
  signal?: AbortSignal;
}

/**
 * Checks a bag (RFC 8493), anybody's: its declaration, its manifests line by line, every file's hashes. What is wrong is told, the rest is sound.
 * Nothing outside of the bag is read, and links in it are not followed.
 * @throws Fault 'bad-request' when it is no bag
 */
export async function checkBag(from: string, { progress, signal }: CheckOptions = {}): Promise<CheckedBag> {
  const root = resolve(from);
  const text = (name: string) =>
    readFile(join(root, name), 'utf8').catch((error: NodeJS.ErrnoException) => {
      if (error.code === 'ENOENT' || error.code === 'ENOTDIR') return undefined;
      throw error;
    });
  const declaration = await text('bagit.txt');
  const labels = readLabels(declaration ?? '');
  const version = labels.get('bagit-version');
  if (version === undefined)
    throw new Fault(
      'bad-request',
      `“${root}” isn’t a bag: it has no bagit.txt that says so.`,
      'Name the folder in which bagit.txt lies.',
    );
  const faults: BagFault[] = [];
  const fault = (file: string, says: string, line = 0) => faults.push({ file, line, says });
  if (!/^(0\.9[3-7]|1\.0)$/.test(version))
    fault('bagit.txt', `The version is ${version}; 0.93 to 1.0 can be read.`);
  const encoding = labels.get('tag-file-character-encoding') ?? '';
  if (!/^utf-?8$/i.test(encoding))
    throw new Fault(
      'bad-request',
      `The texts of this bag are in ${encoding || 'an encoding that isn’t named'}.`,
      'Only bags whose texts are in UTF-8 can be read.',
    );

  const found = await filesOf(root, fault);
  const payload = new Map<string, Map<ReadHash, string>>();
  let manifests = 0;
  for (const hash of READ_HASHES) {
    for (const kind of ['manifest', 'tagmanifest'] as const) {
      const name = `${kind}-${hash}.txt`;
      const said = await text(name);
      if (said === undefined) continue;
      const { lines, faults: told } = readManifest(said, hash);
      told.forEach(({ line, says }) => fault(name, says, line));
      if (kind === 'manifest') manifests++;
      const fits = (one: ManifestLine) => one.path.startsWith('data/') === (kind === 'manifest');
      for (const one of lines) {
        if (!fits(one)) fault(name, `“${one.path}” doesn’t belong in this list.`, one.line);
        else if (!found.has(one.path)) fault(name, `“${one.path}” is missing.`, one.line);
        else
          payload.set(one.path, (payload.get(one.path) ?? new Map<ReadHash, string>()).set(hash, one.hash));
      }
    }
  }
  if (manifests === 0)
    throw new Fault(
      'bad-request',
      'This bag has no list of its files that can be read.',
      `One of ${READ_HASHES.map((hash) => `manifest-${hash}.txt`).join(', ')} is needed.`,
    );

  const sound = new Map<string, number>();
  let [done, bytes, count] = [0, 0, 0];
  for (const [path, size] of found) {
    signal?.throwIfAborted();
    progress?.(done++, found.size);
    const isPayload = path.startsWith('data/');
    const wanted = payload.get(path);
    if (isPayload) {
      bytes += size;
      count++;
    }
    if (!wanted) {
      if (isPayload) fault(path, 'It isn’t in the lists of the bag.');
      continue;
    }
    if (isPayload && wanted.size < manifests)
      fault(path, 'It is in one list of the bag, and not in another.');
    const wrong = await wrongHashes(join(root, path), wanted);
    if (wrong.length > 0) fault(path, `Its bytes aren’t those of the list (${wrong.join(', ')}).`);
    else if (isPayload) sound.set(path, size);
  }
  const info = readLabels((await text('bag-info.txt')) ?? '');
  const oxum = info.get('payload-oxum');
  if (oxum !== undefined && oxum !== `${bytes}.${count}`)
    fault('bag-info.txt', `It speaks of ${oxum} (bytes.files); there are ${bytes}.${count}.`);
  return { root, info, sound, faults };
}

/** The files of a bag, and their sizes. Links and what is neither file nor folder are told. */
async function filesOf(
  root: string,
  fault: (file: string, says: string) => void,
): Promise<Map<string, number>> {
  const files = new Map<string, number>();
  const walk = async (folder: string): Promise<void> => {
    for (const { name } of await readdir(join(root, folder), { withFileTypes: true })) {
      const path = folder === '' ? name : `${folder}/${name}`;
      const facts = await lstat(join(root, path));
      if (facts.isDirectory()) await walk(path);
      else if (facts.isFile()) files.set(path, facts.size);
      else fault(path, 'It is a link, and links are not followed.');
    }
  };
  await walk('');
  return files;
}

async function wrongHashes(file: string, wanted: ReadonlyMap<ReadHash, string>): Promise<ReadHash[]> {
  const hashes = [...wanted.keys()].map((name) => [name, createHash(name)] as const);
  for await (const part of createReadStream(file) as AsyncIterable<Buffer>)
    for (const [, hash] of hashes) hash.update(part);
  return hashes.filter(([name, hash]) => hash.digest('hex') !== wanted.get(name)).map(([name]) => name);
}
