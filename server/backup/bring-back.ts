import { createHash } from 'node:crypto';
import { createReadStream, existsSync } from 'node:fs';
import { chmod, mkdir, open, readdir, rename, rm, rmdir, symlink, utimes, writeFile } from 'node:fs/promises';
import { dirname, join, relative, resolve } from 'node:path';
import type { SiteFile } from '../../core/archive/records.ts';
import { Fault } from '../fault.ts';
import { OWN_FILE } from '../files/blobs.ts';
import { DataPaths } from '../files/data-paths.ts';
import { syncFolder } from '../files/site-folder.ts';

/** Says in a data folder that it has been brought back, and its site not yet. */
const MARK = 'restoring.json';
const ENDING = '.restoring';

/**
 * Makes a site and its data folder where neither is: beside their places, and put in place in the end. What is stopped half way leaves nothing,
 * and can be begun anew.
 * @param name of what is brought back
 * @param fill fills two folders: the site's, which is empty, and that of the data, with its folders
 * @throws Fault 'bad-request' when something is there, or one would lie in the other
 */
export async function bringBack<Told>(
  to: { root: string; data: string },
  name: string,
  fill: (site: string, kept: DataPaths) => Promise<Told>,
): Promise<Told> {
  const [root, data] = [resolve(to.root), resolve(to.data)];
  if (!relative(root, data).startsWith('..') || !relative(data, root).startsWith('..'))
    throw new Fault(
      'bad-request',
      'The data folder would lie in the site, or around it.',
      'Name another one.',
    );
  await makeRoom(root, data);

  const [site, kept] = [`${root}${ENDING}`, new DataPaths(`${data}${ENDING}`)];
  for (const one of [site, kept.root]) {
    await rm(one, { recursive: true, force: true });
    await mkdir(one, { recursive: true, mode: one === site ? 0o755 : 0o700 });
  }
  for (const one of kept.folders) await mkdir(one, { mode: 0o700 });
  const told = await fill(site, kept);
  await writeFile(join(kept.root, MARK), `${JSON.stringify({ backup: name })}\n`, { mode: OWN_FILE });

  await rename(kept.root, data);
  await rename(site, root);
  await rm(join(data, MARK));
  for (const one of [root, data]) await syncFolder(dirname(one));
  return told;
}

/** @throws Fault 'bad-request' when something lies where it is to be brought back */
async function makeRoom(root: string, data: string): Promise<void> {
  // Of one that was stopped between its two last steps.
  const begun = join(data, MARK);
  if (existsSync(begun) && !existsSync(root)) await rm(data, { recursive: true });
  for (const one of [root, data]) {
    if (!existsSync(one)) continue;
    if ((await readdir(one)).length > 0)
      throw new Fault(
        'bad-request',
        `“${one}” isn’t empty. Nothing was overwritten.`,
        'Name a folder that isn’t there yet, or move this one away.',
      );
    await rmdir(one);
  }
}

/** @param copyOut copies the bytes of a file to a place where nothing is @returns what could not be made, each as a sentence */
export async function bringSite(
  lines: readonly SiteFile[],
  site: string,
  copyOut: (line: Extract<SiteFile, { kind: 'file' }>, to: string) => Promise<void>,
): Promise<string[]> {
  const notes: string[] = [];
  const folders: { path: string; mode: number }[] = [];
  for (const line of lines) {
    const at = join(site, line.path);
    // A list that was written by somebody else may name anything.
    if (relative(site, at).startsWith('..'))
      throw new Fault(
        'bad-request',
        `The backup names “${line.path}”, outside of the site.`,
        'Choose another backup.',
      );
    if (line.kind === 'folder') {
      await mkdir(at, { recursive: true });
      folders.push({ path: at, mode: line.mode });
    } else if (line.kind === 'link') {
      if (relative(site, resolve(dirname(at), line.to)).startsWith('..'))
        notes.push(`“${line.path}” was a link to “${line.to}”, outside of the site. It isn’t made.`);
      else await symlink(line.to, at);
    } else {
      await copyOut(line, at);
      await chmod(at, line.mode);
      await utimes(at, line.modified / 1000, line.modified / 1000);
    }
  }
  // Folders in which nothing may be written come last.
  for (const { path, mode } of folders.reverse()) await chmod(path, mode);
  return notes;
}

/** Copies a file whose hash is known to a place where nothing is. @returns whether it was that one; another one, or none, is not left there */
export async function copyKnown(from: string, to: string, sha256: string): Promise<boolean> {
  const hash = createHash('sha256');
  const out = await open(to, 'wx');
  try {
    for await (const part of createReadStream(from) as AsyncIterable<Buffer>) {
      hash.update(part);
      await out.write(part);
    }
    await out.sync();
  } catch (error) {
    if ((error as NodeJS.ErrnoException).code !== 'ENOENT') throw error;
  } finally {
    await out.close();
  }
  const same = hash.digest('hex') === sha256;
  if (!same) await rm(to);
  return same;
}
