import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { afterEach, describe, expect, test } from 'vitest';
import { clashKey } from '../../core/address/path.ts';
import { readRedirects, REDIRECTS_FILE } from '../../core/address/redirects.ts';
import { SITE_RULE } from '../../core/intake/rules.ts';
import { newPiece, PLAIN_PATTERN } from '../../core/naming/pattern.ts';
import { seeded } from '../../core/test/chance.ts';
import type { Site } from '../app/site.ts';
import { ALL_HERE } from '../db/item-query.ts';
import { arrive, closeSites, openSite, picture, siteFolder, smallSite, treeOf } from '../test/site.ts';
import { planMoves, proposeNames } from './addresses.ts';
import { applyProposal } from './apply.ts';
import type { Proposal } from './proposal.ts';
import { proposeRule } from './records.ts';
import { proposeUndo } from './undo.ts';

afterEach(closeSites);
const apply = (site: Site, proposal: Proposal) => applyProposal(site, proposal, 1);
const undo = async (site: Site, entry: number) => apply(site, await proposeUndo(site, entry));
const idOf = (site: Site, path: string) => site.items.atPath(path)!.id;

/** Every reference of the site by its page and place in it, with the bytes that it leads to: a link checker. */
async function links(site: Site): Promise<string[]> {
  await site.scanner.scan();
  const found: string[] = [];
  const nameOf = (path: string) => site.index.factsOf(path)?.sha256 ?? 'nowhere';
  for (const path of site.index.paths) {
    const reading = site.index.factsOf(path)?.reading;
    reading?.references.forEach((reference, index) => {
      const target = site.index.map.resolve(reference.url, path, reference.base);
      found.push(`${path} ${index} ${target.to === 'file' ? nameOf(target.path) : target.to}`);
    });
  }
  return found.sort();
}

test('whatever is renamed, moved and exchanged: each reference leads to what it led to, and undo is to the byte', async () => {
  const names = ['a.png', 'b.png', 'c c.png', 'ü.png', 'x&y.png', '(1).png', 'z,z.png', 'a-400.png'];
  const address = (name: string) =>
    encodeURIComponent(name).replace(/[()]/g, (one) => `%${one.charCodeAt(0).toString(16)}`);
  for (let seed = 1; seed <= 6; seed++) {
    const chance = seeded(seed);
    const files: Record<string, string | Uint8Array> = {};
    let number = seed * 20;
    const media = ['img', 'img/deep'].flatMap((folder) =>
      names.slice(0, chance.whole(4, 8)).map((name) => `${folder}/${name}`),
    );
    for (const path of media) files[path] = await picture(number++);
    const to = () => media[chance.below(media.length)]!.split('/').map(address).join('/');
    files['index.html'] =
      `<title>x</title>${Array.from({ length: 12 }, () => `<img src="${to()}"> <img srcset="${to()} 1x, /${to()} 2x">`).join('\n')}`;
    files['sub/p.html'] =
      `<base href="../"><p style="background:url(${to()})"><a href='/${to()}?v=1#x'>x</a>`;
    files['css/s.css'] = `a { background: url("../${to()}") } b { background: url(/${to()}) }`;
    files['notes/n.md'] = `![x](../${to()}) and <img src="../${to()}">\n\n[r]: ../${to()}\n`;
    const root = await siteFolder(files);
    const site = await openSite(root);
    const before = { tree: await treeOf(root), links: await links(site) };
    const entries: number[] = [];
    for (let round = 0; round < 3; round++) {
      const items = site.finder.list({ ...ALL_HERE, limit: 100 }).items.filter(() => chance.below(3) > 0);
      if (items.length < 2) continue;
      // A new order of their own places: exchanges and cycles; or fresh names in other folders.
      const places = items.map((item) => item.path);
      for (let at = places.length - 1; at > 0; at--) {
        const other = chance.below(at + 1);
        [places[at], places[other]] = [places[other]!, places[at]!];
      }
      const target = new Map(
        items.map((item, at) => [
          item.id,
          chance.below(4) === 0
            ? `new/${round}/${chance.pick(['n', 'Ö', 'q r'])}-${item.id}.png`
            : places[at]!,
        ]),
      );
      const proposal = await planMoves(site, items, target);
      expect(proposal.plan.clashes, `seed ${seed}`).toEqual([]);
      entries.push(await apply(site, proposal));
      expect(await links(site), `seed ${seed}, round ${round}`).toEqual(before.links);
    }
    for (const entry of entries.reverse()) await undo(site, entry);
    expect(await treeOf(root), `seed ${seed}`).toEqual(before.tree);
  }
}, 120_000);

describe('new names', () => {
  test('an exchange of two names; pages follow, both old addresses lead on', async () => {
    const root = await smallSite();
    const site = await openSite(root);
    const before = await treeOf(root);
    const entry = await apply(
      site,
      await proposeNames(site, [
        { itemId: idOf(site, 'img/b.png'), name: 'c.png' },
        { itemId: idOf(site, 'img/c.png'), name: 'b.png' },
      ]),
    );
    expect((await treeOf(root))['img/c.png']).toBe(before['img/b.png']);
    expect(await readFile(join(root, 'css/s.css'), 'utf8')).toContain('url(../img/b.png)');
    await undo(site, entry);
    expect(await treeOf(root)).toEqual(before);
  });

  test('a chain of redirects is shortened, and the plan says so', async () => {
    const root = await smallSite();
    const site = await openSite(root);
    const id = idOf(site, 'img/b.png');
    await apply(site, await proposeNames(site, [{ itemId: id, name: 'bb.png' }]));
    const second = await proposeNames(site, [{ itemId: id, name: 'bbb.png' }]);
    expect(second.plan.redirects).toEqual([
      { from: '/img/bb.png', to: '/img/bbb.png' },
      { from: '/img/b.png', to: '/img/bbb.png', was: '/img/bb.png' },
    ]);
    await apply(site, second);
    const { redirects: kept } = await readRedirects(await readFile(join(root, REDIRECTS_FILE), 'utf8'));
    expect(kept).toEqual([
      { from: '/img/b.png', to: '/img/bbb.png' },
      { from: '/img/bb.png', to: '/img/bbb.png' },
    ]);
  });

  test('names that clash by case or Unicode form stand in the way, and nothing is changed', async () => {
    const site = await openSite(await smallSite());
    const { plan } = await proposeNames(site, [{ itemId: idOf(site, 'img/b.png'), name: 'C.png' }]);
    expect(plan.clashes.map((clash) => clashKey(clash.path))).toEqual(['img/c.png']);
  });
});

describe('the pattern of a folder', () => {
  const pattern = {
    ...PLAIN_PATTERN,
    pieces: [{ piece: 'text' as const, text: 'hill' }, newPiece('title'), newPiece('counter')],
  };
  test('marks the names that do not follow it, and names what arrives; both end with the rule', async () => {
    const site = await openSite(await smallSite());
    const { folder: _folder, ...rule } = { ...SITE_RULE, pattern };
    const entry = await apply(site, proposeRule(site, 'img', rule));
    expect(site.items.atPath('img/b.png')!.nameFaults).toEqual(['no-words', 'rule']);
    expect(site.items.atPath('old/copy-of-b.png')!.nameFaults).toEqual([]);
    const first = await arrive(site, await picture(80), 'IMG_1.png', { folder: 'img' });
    const second = await arrive(site, await picture(81), 'hill-walk-007.png', { folder: 'img' });
    const third = await arrive(site, await picture(82), 'IMG_2.png', { folder: 'img' });
    expect([first, second, third].map((one) => one.name)).toEqual([
      'hill-001.png',
      'hill-walk-007.png',
      'hill-003.png',
    ]);
    await undo(site, entry);
    expect(site.items.atPath('img/b.png')!.nameFaults).toEqual(['no-words']);
  });
});
