import { createHash } from 'node:crypto';
import { existsSync } from 'node:fs';
import { cp, mkdir, mkdtemp, readdir, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { dirname, join, relative } from 'node:path';
import sharp from 'sharp';
import { Readable } from 'node:stream';
import { Arrivals, type Arrival } from '../intake/arrivals.ts';
import { takeIn } from '../intake/uploads.ts';
import { besideSite } from '../files/data-folder.ts';
import type { OpenedSite } from '../app/opened-site.ts';
import { openSite as openBare, type SiteOptions } from '../app/open-site.ts';
import { Pool } from '../workers/pool.ts';

/** A small real image; other numbers, other bytes. */
export function picture(number: number, format: 'png' | 'jpeg' = 'png', width = 24): Promise<Buffer> {
  const background = { r: (number * 37) % 256, g: (number * 91) % 256, b: (number * 53) % 256 };
  return sharp({ create: { width, height: 16, channels: 3, background } })
    .toFormat(format)
    .toBuffer();
}

/** A temporary site folder with these files. */
export async function siteFolder(files: Record<string, string | Uint8Array>): Promise<string> {
  const parent = await mkdtemp(join(tmpdir(), 'iconomos-test-'));
  const root = join(parent, 'site');
  for (const [path, content] of Object.entries(files)) {
    await mkdir(dirname(join(root, path)), { recursive: true });
    await writeFile(join(root, path), content);
  }
  return root;
}

/** The usual small site: a page, a style sheet and a script that use images in different ways. */
export async function smallSite(): Promise<string> {
  return siteFolder({
    'index.html': `<!doctype html>\r\n<title>Home \u00e9</title>\r\n<link rel=stylesheet href=css/s.css>\r\n<h1>Hill</h1>\r\n<p>Look: <img src="img/IMG_1234.png" alt="A hill"> and <img srcset="img/IMG_1234.png 1x, /img/b.png 2x" src='img/b.png'></p>\r\n<div style="background:url(img/IMG_1234.png)"></div>\r\n<video poster="img/IMG_1234.png?v=1"></video><a href="img/IMG_1234.png#x">\u00fc</a>\r\n`,
    'sub/page.html': '<title>Sub</title><img src="../img/IMG_1234.png"><img src="../img/none.png">',
    'css/s.css':
      '@charset "utf-8";\n.a { background: url("../img/IMG_1234.png") } .b { background: url(../img/c.png) }\n',
    'js/app.js': "const pictures = ['mentioned.png'];\n",
    'img/IMG_1234.png': await picture(1),
    'img/b.png': await picture(2),
    'img/c.png': await picture(3),
    'img/mentioned.png': await picture(4),
    'img/unused.png': await picture(5),
    'old/copy-of-b.png': await picture(2),
  });
}

/** One pool for all sites of a test file: its workers take longer to start than most tests to run. */
const pool = new Pool();
const opened: OpenedSite[] = [];
const folders: string[] = [];

export async function openSite(root: string, options: Partial<SiteOptions> = {}): Promise<OpenedSite> {
  folders.push(dirname(root));
  const site = await openBare({
    site: root,
    people: [
      { name: 'Ottilie', role: 'steward' },
      { name: 'Ben', role: 'editor' },
    ],
    pool,
    ...options,
  });
  opened.push(site);
  await site.ledger.recover();
  await site.scanner.scan();
  return site;
}

export async function closeSites(): Promise<void> {
  for (const site of opened.splice(0)) await site.close();
  for (const folder of folders.splice(0)) await rm(folder, { recursive: true, force: true });
}

/** Copies a site with its data, when it has any. */
export async function copySite(from: string, to: string): Promise<void> {
  for (const of of [(root: string) => root, besideSite])
    if (existsSync(of(from))) await cp(of(from), of(to), { recursive: true, preserveTimestamps: true });
}

/** Removes a site with its data. */
export async function removeSite(root: string): Promise<void> {
  for (const one of [root, besideSite(root)]) await rm(one, { recursive: true, force: true });
}

/** Hash of every file and name of every folder of a site. */
export async function treeOf(root: string): Promise<Record<string, string>> {
  const tree: Record<string, string> = {};
  const walk = async (folder: string) => {
    for (const entry of await readdir(folder, { withFileTypes: true })) {
      const at = join(folder, entry.name);
      const path = relative(root, at);
      if (entry.isDirectory()) {
        tree[`${path}/`] = 'folder';
        await walk(at);
      } else
        tree[path] = createHash('sha256')
          .update(await readFile(at))
          .digest('hex');
    }
  };
  await walk(root);
  return Object.fromEntries(Object.entries(tree).sort());
}

/** Lets a file arrive and go through the door; its folder, and the folders it lay in. */
export async function arrive(
  site: OpenedSite,
  bytes: Uint8Array,
  givenName: string,
  where: { folder?: string; below?: string; personId?: number } = {},
): Promise<Arrival> {
  const { folder = '', below = '', personId = 1 } = where;
  const id = await takeIn(site, Readable.from([Buffer.from(bytes)]), {
    personId,
    givenName,
    folder,
    below,
    inside: false,
    most: 1e9,
  });
  await site.checking.settled();
  return new Arrivals(site).need(id, personId);
}
