import { readdir, readFile, stat } from 'node:fs/promises';
import { dirname, join, normalize, relative } from 'node:path';
import type { Chance } from '../../core/test/chance.ts';
import type { Site } from '../app/site.ts';
import type { Item } from '../db/item-rows.ts';
import { film, photograph, placedPhotograph, scannedPng } from './media.ts';
import { picture } from './site.ts';

/**
 * Pages in several folders that show images in many spellings; of 20 images each is there several times. One page shows what there is
 * to be done: too large and wrongly named images, a video, references that lead nowhere (`lost…`).
 */
export async function linkedFiles(
  chance: Chance,
  pages: number,
  most: number,
): Promise<Record<string, string | Uint8Array>> {
  const files: Record<string, string | Uint8Array> = {};
  const pictures: string[] = [];
  for (let i = 0; i < most; i++) {
    const path = `${chance.pick(['img', 'img/deep', 'media/a b', ''])}/p${i}.png`.replace(/^\//, '');
    files[path] = await picture(i % 20);
    pictures.push(path);
  }
  for (let i = 0; i < pages; i++) {
    const folder = chance.pick(['', 'docs', 'docs/more', 'blog']);
    const up = folder === '' ? '' : '../'.repeat(folder.split('/').length);
    const shown = Array.from({ length: 5 }, () => {
      const path = encodeURI(chance.pick(pictures));
      const address = chance.pick([`${up}${path}`, `/${path}`, `${up}.//${path}`, `/${path}?v=1`]);
      return chance.pick([
        `<img src="${address}">`,
        `<a href='${address}'>x</a>`,
        `<p style="background:url(${address})">y</p>`,
        `<svg><rect fill="url(${address}#a)"/></svg>`,
      ]);
    });
    files[`${folder}/page${i}.html`.replace(/^\//, '')] =
      `<!doctype html><title>P${i}</title>${shown.join('\r\n')}`;
  }
  files['index.html'] = '<title>Home</title>';
  files['album.html'] = ALBUM;
  for (let i = 0; i < 8; i++) files[`spare/s${i}.png`] = await picture(40 + i);
  for (const i of [1, 2, 3]) {
    files[`photo/wide${i}.jpg`] = await photograph(900 + i * 20, 600);
    files[`photo/scan${i}.png`] = await scannedPng(300 + i, 200);
    files[`photo/placed${i}.jpg`] = await placedPhotograph(60 + i);
    files[`photo/wrong${i}.png`] = await picture(77 + i, 'jpeg');
  }
  files['film/sky.mp4'] = await film(10, 160, 120);
  files['film/sky.vtt'] = 'WEBVTT\n\n00:00.000 --> 00:01.000\nStars\n';
  return files;
}

const ALBUM = `<!doctype html>
<html><head><title>Album</title><meta property="og:url" content="https://hill.example/album.html"></head>
<body>
<h1>Album</h1>
<div class="hero">Above</div>
${[1, 2, 3]
  .map(
    (i) => `<p><img src="photo/wide${i}.jpg" width="300" alt="Wide"></p>
<p><img src="photo/scan${i}.png" alt=""></p>
<p><img src="/photo/placed${i}.jpg" alt="Here"> and <img src="photo/wrong${i}.png" alt="Wrong"></p>`,
  )
  .join('\n')}
<video src="film/sky.mp4" controls></video>
<p><img src="img/lost1.png"><img src="img/lost2.png"></p>
</body></html>
`;

/** Every local address that a page writes and that no file answers, but for those that were lost from the start; found without our parsers. */
export async function deadLinks(root: string): Promise<string[]> {
  const dead: string[] = [];
  for (const entry of await readdir(root, { recursive: true, withFileTypes: true })) {
    const file = join(entry.parentPath, entry.name);
    if (!entry.isFile() || !entry.name.endsWith('.html')) continue;
    const html = await readFile(file, 'latin1');
    for (const [, quoted, bare] of html.matchAll(/(?:src|href|poster)=["']([^"']+)["']|url\(([^)]+)\)/g)) {
      const address = decodeURI((quoted ?? bare)!.replace(/&quot;/g, '').replace(/[?#].*$/, ''));
      if (/(^|\/)lost[^/]*$/.test(address)) continue;
      const target = address.startsWith('/') ? join(root, address) : join(dirname(file), normalize(address));
      if (!(await stat(target).catch(() => undefined))?.isFile()) dead.push(`${file} ${address}`);
    }
  }
  return dead;
}

/** Permissions and owner of every file of a site, but for our data folder. */
export async function rightsOf(root: string): Promise<Record<string, string>> {
  const rights: Record<string, string> = {};
  for (const entry of await readdir(root, { recursive: true, withFileTypes: true })) {
    const file = join(entry.parentPath, entry.name);
    if (!entry.isFile()) continue;
    const { mode, uid, gid } = await stat(file);
    rights[relative(root, file)] = `${(mode & 0o7777).toString(8)} ${uid} ${gid}`;
  }
  return rights;
}

/** All that is said of items and of the site, to be compared with itself at another time. */
export async function recordsOf(site: Site) {
  const ids = "select id from item where state <> 'absent' or outside = 1 order by id";
  const items = site.items
    .some(site.db.values<number>(ids))
    .map(
      ({
        id,
        path,
        state,
        sha256,
        mime,
        use,
        placements,
        owner,
        focal,
        outside,
        movedFrom,
        family,
        words,
      }) => [
        id,
        { path, state, sha256, mime, use, placements, owner, focal, outside, movedFrom, family, words },
      ],
    );
  const { rules, tags, namePatterns, ownFields, layout, findings } = site;
  return {
    items: Object.fromEntries(items) as Record<string, Pick<Item, 'path' | 'outside' | 'movedFrom'>>,
    rules: rules.all(),
    tags: [tags.counts(), tags.sense()],
    patterns: namePatterns.all(),
    fields: ownFields.all(),
    layout: layout.get(),
    dismissals: await findings.dismissals(),
    days: findings.state('keeping-days'),
  };
}
