import { lstat, readdir, realpath, stat } from 'node:fs/promises';
import { join, relative, sep } from 'node:path';
import { filter, sorted } from '../../core/paced.ts';
import { breathe } from '../workers/breathe.ts';
import { folderOf, type SitePath } from '../../core/address/path.ts';
import { STAGE_PREFIX } from './site-folder.ts';

export interface WalkedFile {
  path: SitePath;
  bytes: number;
  mtimeMs: number;
  /** In a hidden folder (name starts with a dot): read for mentions, but neither page nor item. */
  hidden: boolean;
}

export interface Walk {
  files: WalkedFile[];
  /** Every folder that is not hidden, without the root. */
  folders: SitePath[];
  /** Those in which, also further below, nothing lies. */
  empty: SitePath[];
  /** Links inside the site to other places inside it. */
  aliases: [SitePath, SitePath][];
  /** Links that lead out of the site to a file: they exist for visitors, but are never read or written. */
  outward: SitePath[];
  /** Names that cannot be opened by us (not UTF-8, no permission), each with a sentence. */
  unreadable: { path: SitePath; why: string }[];
}

const VERSION_CONTROL = new Set(['.git', '.hg', '.svn', '.bzr']);
/** Folders of this name are never part of a site: ours, and those of version control. */
export const isPassedOver = (name: string): boolean => name === '.iconomos' || VERSION_CONTROL.has(name);

/**
 * Lists all files below a folder, in order of path.
 * @param root absolute real path
 * @param skip absolute path of a folder to leave out (our data folder)
 * @param leftOut paths of other folders to leave out
 * @param onCount called now and then with the number of files seen
 */
export async function walkSite(
  root: string,
  skip: string,
  leftOut: readonly SitePath[] = [],
  onCount: (files: number) => void = () => {},
): Promise<Walk> {
  const walk: Walk = { files: [], folders: [], empty: [], aliases: [], outward: [], unreadable: [] };
  const folders: { path: SitePath; hidden: boolean }[] = [{ path: '', hidden: false }];
  /** Folders in which something lies. */
  const holding = new Set<SitePath>();
  for (let folder = folders.pop(); folder; folder = folders.pop()) {
    const absolute = join(root, folder.path);
    let entries;
    try {
      entries = await readdir(absolute, { withFileTypes: true });
    } catch (error) {
      walk.unreadable.push({
        path: folder.path,
        why: `The folder cannot be read (${(error as NodeJS.ErrnoException).code}).`,
      });
      continue;
    }
    for (const entry of entries) {
      const path = folder.path === '' ? entry.name : `${folder.path}/${entry.name}`;
      if (!entry.isDirectory()) holding.add(folder.path);
      const at = join(absolute, entry.name);
      const hidden =
        folder.hidden || (entry.name.startsWith('.') && entry.name !== '.well-known' && entry.isDirectory());
      if (entry.isDirectory()) {
        if (at === skip || leftOut.includes(path) || isPassedOver(entry.name)) {
          holding.add(folder.path);
          continue;
        }
        folders.push({ path, hidden });
        if (!hidden) walk.folders.push(path);
      } else if (entry.isSymbolicLink()) {
        await followLink(root, path, at, walk);
      } else if (entry.isFile() && !entry.name.startsWith(STAGE_PREFIX)) {
        try {
          const facts = await lstat(at);
          walk.files.push({ path, bytes: facts.size, mtimeMs: facts.mtimeMs, hidden });
        } catch (error) {
          walk.unreadable.push({
            path,
            why: `The file cannot be opened (${(error as NodeJS.ErrnoException).code}); its name may not be UTF-8.`,
          });
        }
      }
    }
    onCount(walk.files.length);
  }
  const full = new Set<SitePath>(walk.unreadable.map((one) => one.path));
  for (const path of holding) for (let at = path; at !== '' && !full.has(at); at = folderOf(at)) full.add(at);
  walk.empty = await filter(walk.folders, breathe, (folder) => !full.has(folder));
  walk.files = await sorted(walk.files, breathe, (a, b) => (a.path < b.path ? -1 : 1));
  return walk;
}

async function followLink(root: string, path: SitePath, at: string, walk: Walk): Promise<void> {
  try {
    const real = await realpath(at);
    if (real === root || real.startsWith(root + sep)) {
      walk.aliases.push([path, relative(root, real).split(sep).join('/')]);
    } else if ((await stat(at)).isFile()) {
      walk.outward.push(path);
    } else {
      walk.unreadable.push({
        path,
        why: 'The link leads to a folder outside the site, which is not followed.',
      });
    }
  } catch (error) {
    walk.unreadable.push({ path, why: `The link leads nowhere (${(error as NodeJS.ErrnoException).code}).` });
  }
}
