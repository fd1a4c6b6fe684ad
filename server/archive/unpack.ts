import { createWriteStream, existsSync } from 'node:fs';
import { mkdir, readdir, rm, stat } from 'node:fs/promises';
import { dirname, join, resolve } from 'node:path';
import { pipeline } from 'node:stream/promises';
import { bagPathFault } from '../../core/archive/bag.ts';
import { Fault } from '../fault.ts';
import { entriesOf, openEntry, openZip } from '../media/zip.ts';
import type { BagFault } from './check.ts';

const LINK = 0o120000;

/**
 * Uses a bag that is a folder, or lies in a ZIP: that one is unpacked, and what was unpacked is removed in the end.
 * @param work a folder that isn't there yet
 * @param use gets the folder of the bag, and what could not be unpacked
 * @throws Fault 'bad-request' when it is neither
 */
export async function withBag<Result>(
  from: string,
  work: string,
  use: (folder: string, faults: BagFault[]) => Promise<Result>,
): Promise<Result> {
  const source = resolve(from);
  const facts = await stat(source).catch(() => undefined);
  if (!facts)
    throw new Fault('bad-request', `There is no “${source}”.`, 'Name the archive: a folder, or a ZIP.');
  if (facts.isDirectory()) return use(source, []);
  await rm(work, { recursive: true, force: true });
  try {
    const faults = await unpack(source, work);
    return await use(await bagIn(work), faults);
  } finally {
    await rm(work, { recursive: true, force: true });
  }
}

async function unpack(file: string, to: string): Promise<BagFault[]> {
  const faults: BagFault[] = [];
  const zip = await openZip(file).catch((error: Error) => {
    throw new Fault(
      'bad-request',
      `“${file}” isn’t a ZIP that can be read (${error.message}).`,
      'Unpack it with another program, and name the folder.',
    );
  });
  try {
    for await (const entry of entriesOf(zip)) {
      const name = entry.fileName.replace(/\/$/, '');
      const fault = (says: string) => faults.push({ file: name, line: 0, says });
      const why = bagPathFault(name);
      if (why !== undefined) fault(`It is left out. ${why}`);
      else if (((entry.externalFileAttributes >>> 16) & 0o170000) === LINK)
        fault('It is a link, and links are not followed.');
      else if (entry.fileName.endsWith('/')) await mkdir(join(to, name), { recursive: true });
      else {
        await mkdir(dirname(join(to, name)), { recursive: true });
        try {
          await pipeline(await openEntry(zip, entry), createWriteStream(join(to, name), { flags: 'wx' }));
        } catch (error) {
          fault(`It can’t be unpacked: ${(error as Error).message}`);
        }
      }
    }
  } finally {
    zip.close();
  }
  return faults;
}

/** The bag in what was unpacked: it lies in a folder of its own (RFC 8493, 4). */
async function bagIn(folder: string): Promise<string> {
  if (existsSync(join(folder, 'bagit.txt'))) return folder;
  for (const name of existsSync(folder) ? await readdir(folder) : [])
    if (existsSync(join(folder, name, 'bagit.txt'))) return join(folder, name);
  return folder;
}
