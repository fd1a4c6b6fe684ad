import { readdir, readFile, stat } from 'node:fs/promises';
import { dirname, join, normalize } from 'node:path';
import type { PlanRequest } from '../../api/plans.ts';
import type { Chance } from '../../core/test/chance.ts';
import type { Site } from '../site/site.ts';
import { ALL_HERE } from '../store/item-query.ts';
import { picture } from './site.ts';

/** Pages in several folders that show pictures in many spellings; of 20 pictures each is there several times. */
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
  return files;
}

/** Every local address that a page writes and that no file answers, found without our parsers. */
export async function deadLinks(root: string): Promise<string[]> {
  const dead: string[] = [];
  for (const entry of await readdir(root, { recursive: true, withFileTypes: true })) {
    const file = join(entry.parentPath, entry.name);
    if (!entry.isFile() || !entry.name.endsWith('.html') || file.includes('.iconomos')) continue;
    const html = await readFile(file, 'latin1');
    for (const [, quoted, bare] of html.matchAll(/(?:src|href)=["']([^"']+)["']|url\(([^)]+)\)/g)) {
      const address = decodeURI((quoted ?? bare)!.replace(/[?#].*$/, ''));
      const target = address.startsWith('/') ? join(root, address) : join(dirname(file), normalize(address));
      if (!(await stat(target).catch(() => undefined))?.isFile()) dead.push(`${file} ${address}`);
    }
  }
  return dead;
}

/** A plan of some kind over what is there. */
export function randomRequest(site: Site, chance: Chance): PlanRequest {
  const items = site.items.list({ ...ALL_HERE, sizes: true, limit: 1000 }).items;
  const some = () => [...new Set(Array.from({ length: chance.whole(1, 6) }, () => chance.pick(items).id))];
  const folder = chance.pick(['img', 'img/deep', 'new/here', 'media/ü', '']);
  const name = `n${chance.below(1000)}`;
  switch (chance.below(23)) {
    case 0:
      return { kind: 'move', itemIds: some(), folder };
    case 1:
      return { kind: 'address', itemId: chance.pick(items).id, folder, name: `${name}.png` };
    case 2:
      return { kind: 'names', names: some().map((itemId, at) => ({ itemId, name: `${name}-${at} é.png` })) };
    case 3: {
      const [one, other] = [chance.pick(items), chance.pick(items)];
      return {
        kind: 'names',
        names:
          one.folder === other.folder && one.id !== other.id
            ? [
                { itemId: one.id, name: other.name },
                { itemId: other.id, name: one.name },
              ]
            : [{ itemId: one.id, name: `${name}.png` }],
      };
    }
    case 4:
      return { kind: 'set-aside', itemIds: some(), leavePlaced: true };
    case 5:
      return { kind: 'copies', itemIds: some(), folder: chance.pick([null, folder]) };
    case 6: {
      const groups = site.items.copies().filter((group) => group.length > 1);
      if (groups.length === 0) return { kind: 'new-folder', folder: name };
      const [keeper, ...others] = chance.pick(groups);
      return { kind: 'merge', groups: [{ keeperId: keeper!.id, otherIds: others.map((one) => one.id) }] };
    }
    case 7: {
      const [one, other] = [chance.pick(items), chance.pick(items)];
      if (one.sha256 === other.sha256) return { kind: 'new-folder', folder: name };
      const how = { name: chance.pick(['keep', 'new'] as const), dates: 'keep' as const };
      return { kind: 'replace', itemId: one.id, by: { itemId: other.id }, ...how };
    }
    case 8: {
      const page = chance.pick(site.references.pages().filter((one) => one.path.endsWith('.html'))).path;
      const [look, full] = [
        { caption: false, classes: '', shownWidth: null },
        { sizes: false, full: true },
      ];
      const spot = { insteadOf: site.references.placedOn(page)[0]?.start ?? 0 };
      return { kind: 'place', page, spot, itemId: chance.pick(items).id, ...look, ...full };
    }
    case 9:
    case 10: {
      const places = items.flatMap((item) => site.references.placementsOf(item.path));
      if (places.length === 0) return { kind: 'new-folder', folder: name };
      const { page, start } = chance.pick(places);
      return chance.below(2) === 0
        ? { kind: 'unplace', places: [{ page, start }] }
        : { kind: 'order', page, start, to: chance.pick(['up', 'down'] as const) };
    }
    case 11:
      return { kind: 'family', itemIds: some().slice(0, 2), of: chance.pick(['apart', 'found'] as const) };
    case 12:
      return {
        kind: 'cells',
        cells: some().map((itemId) => ({ itemId, set: { alt: `Alt ${name}`, title: name } })),
      };
    case 13:
      return { kind: 'records', itemIds: some(), addTags: [chance.pick(['sky', 'moon', name])] };
    case 14: {
      const tags = site.tags.counts();
      if (tags.length === 0) return { kind: 'records', itemIds: some(), owner: null };
      return { kind: 'tag', tag: chance.pick(tags).name, to: chance.pick([null, name, 'moon']) };
    }
    case 15: {
      const page = chance.pick(site.references.pages().filter((one) => one.path.endsWith('.html'))).path;
      const look = { side: 40, quality: 70, captions: false, classes: '' };
      const spot = { at: site.factsOf(page)!.bytes };
      return { kind: 'gallery', page, spot, from: { gathered: true }, itemIds: some(), ...look };
    }
    case 16: {
      const places = items
        .flatMap((item) => site.references.placementsOf(item.path))
        .filter((one) => one.place === 'img src');
      if (places.length === 0) return { kind: 'new-folder', folder: name };
      const { page, start } = chance.pick(places);
      const ours = { align: chance.pick(['left', 'none'] as const), space: 'small' as const };
      return { kind: 'placement', page, start, alt: name, title: chance.pick([null, name]), ours };
    }
    case 17:
      return { kind: 'embed', itemIds: some().slice(0, 2), as: chance.pick(['file', 'sidecar'] as const) };
    case 18:
      return { kind: 'focal', itemId: chance.pick(items).id, focal: '20 30', places: [] };
    case 19:
      return {
        kind: chance.pick(['convert', 'lighten', 'without-place'] as const),
        itemIds: some().slice(0, 2),
      };
    case 20:
      return { kind: 'right-endings', itemIds: some() };
    case 21:
      return { kind: 'sizes', itemId: chance.pick(items).id };
    default: {
      const folders = [...new Set(items.map((item) => item.folder))].filter((one) => one !== '');
      return { kind: 'folder', folder: chance.pick(folders), to: `${name}/${chance.pick(['x', 'y z'])}` };
    }
  }
}
