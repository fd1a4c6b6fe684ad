import { lstat } from 'node:fs/promises';
import { join } from 'node:path';
import { isWithin, type SitePath } from '../../core/address/path.ts';
import { breathe } from '../workers/breathe.ts';
import type { Site } from '../app/site.ts';

/** Links are looked for with so many files at most: each is one question to the file system. */
const MOST = 5000;

/**
 * What a person should know of files that go somewhere else: links of the file system that lead to them, and other names that they have on the
 * disk. In sentences.
 */
export async function linkWarnings(
  site: Pick<Site, 'folder' | 'index'>,
  paths: readonly SitePath[],
): Promise<string[]> {
  const said: string[] = [];
  const going = new Set(paths);
  for (const [link, target] of site.index.map.aliases) {
    if (target === '') continue;
    // Asked for the first that stays: most often that is soon found.
    let [some, all] = [going.has(target), true];
    if (!some)
      for (const path of site.index.paths) {
        const pause = breathe();
        if (pause) await pause;
        if (!isWithin(target, path)) continue;
        some = true;
        if (!(all = going.has(path))) break;
      }
    if (some && all)
      said.push(
        `“${link}” is a link to “${target}” on the disk. It isn’t changed, so it will be broken. Change it yourself.`,
      );
  }
  for (const path of paths.slice(0, MOST)) {
    const found = await lstat(join(site.folder.root, path)).catch((error: NodeJS.ErrnoException) => {
      // A file that has gone since is told by the plan itself.
      if (error.code === 'ENOENT') return undefined;
      throw error;
    });
    if (found && found.nlink > 1)
      said.push(
        `“${path}” has ${found.nlink === 2 ? 'another name' : `${found.nlink - 1} other names`} on the disk (a hard link). That name stays as it is, with the same content.`,
      );
  }
  return said;
}
