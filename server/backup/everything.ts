import type { Stats } from 'node:fs';
import { lstat, readdir, readlink } from 'node:fs/promises';
import { join } from 'node:path';
import type { SitePath } from '../../core/address/path.ts';
import { STAGE_PREFIX } from '../files/site-folder.ts';

/** What lies in a site's folder; `note`: a sentence about what can't be kept. */
export type Found =
  | { kind: 'file'; path: SitePath; file: string; facts: Stats }
  | { kind: 'folder'; path: SitePath; mode: number }
  | { kind: 'link'; path: SitePath; to: string }
  | { kind: 'note'; says: string };

/** Everything in a site's folder, each folder before what it holds. @param leftOut the data folder, if it lies there */
export async function* everythingIn(
  root: string,
  leftOut: string,
  folder: SitePath = '',
): AsyncGenerator<Found> {
  const entries = await readdir(join(root, folder), { withFileTypes: true });
  for (const { name } of entries.sort((a, b) => (a.name < b.name ? -1 : 1))) {
    const path = folder === '' ? name : `${folder}/${name}`;
    const file = join(root, path);
    // Files that a change is putting in place, and the data, are no part of the site.
    if (name.startsWith(STAGE_PREFIX) || file === leftOut) continue;
    const facts = await lstat(file).catch(gone);
    if (!facts) continue;
    if (name.includes('\ufffd'))
      yield { kind: 'note', says: `The name of “${path}” isn’t Unicode, so it can’t be kept.` };
    else if (facts.isSymbolicLink()) yield { kind: 'link', path, to: await readlink(file) };
    else if (facts.isDirectory()) {
      yield { kind: 'folder', path, mode: facts.mode & 0o777 };
      yield* everythingIn(root, leftOut, path);
    } else if (facts.isFile()) yield { kind: 'file', path, file, facts };
    else yield { kind: 'note', says: `“${path}” is neither a file nor a folder.` };
  }
}

/** For what may be taken away at any time. */
export const gone = (error: NodeJS.ErrnoException): undefined => {
  if (error.code === 'ENOENT') return undefined;
  throw error;
};
