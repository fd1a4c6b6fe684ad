import { readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import sharp from 'sharp';
import { afterEach, describe, expect, test } from 'vitest';
import { seeded } from '../../core/test/chance.ts';
import type { OpenedSite } from '../app/opened-site.ts';
import { ALL_HERE as HERE } from '../db/item-query.ts';
import { closeSites, openSite, picture, siteFolder, treeOf } from '../test/site.ts';
import { proposeAside, proposeRestore } from './files.ts';
import { proposeJpegs, proposeLighter } from './remedies.ts';
import { proposeMerge } from './merge.ts';
import { applyProposal } from './apply.ts';
import { proposeRecords } from './records.ts';
import { sourceOf } from './prepare.ts';
import { proposeUndo } from './undo.ts';
import { emptyAside, proposeKeepingDays, proposeRedirects } from './upkeep.ts';

afterEach(closeSites);

const paint = (width: number, red: number) =>
  sharp({ create: { width, height: width / 2, channels: 3, background: { r: red, g: 120, b: 60 } } })
    .jpeg()
    .toBuffer();

async function doubles(): Promise<string> {
  const same = await picture(1);
  return siteFolder({
    'index.html':
      '<title>Home</title><img src="img/a.png" alt="a"><img src="up/a-1.png"><p style="background:url(up/a-2.png)">x</p><img src="img/large.jpg" width="900"><img src="up/small.jpg" width="200">',
    'news/n.md': '![](../up/a-2.png)\n',
    'js/x.js': 'show("a-3.png")\n',
    'sets.html':
      '<title>Sets</title><img src="img/large.jpg" srcset="up/sized.jpg 400w, img/large.jpg 1600w">',
    'img/a.png': same,
    'up/a-1.png': same,
    'up/a-2.png': same,
    'up/a-3.png': same,
    'img/large.jpg': await paint(1600, 10),
    'up/small.jpg': await paint(400, 10),
    'up/sized.jpg': await paint(400, 12),
  });
}
const id = (site: OpenedSite, path: string) => site.items.atPath(path)!.id;
const text = (root: string, path: string) => readFile(join(root, path), 'utf8');

describe('merging', () => {
  test('placements move to the one that stays, words and tags go along, old addresses lead on; undone to the byte', async () => {
    const root = await doubles();
    const site = await openSite(root);
    await applyProposal(
      site,
      proposeRecords(site, [id(site, 'up/a-1.png')], {
        set: { alt: 'A red square', credit: 'Ben' },
        addTags: ['red'],
      }),
      1,
    );
    const before = await treeOf(root);
    const keeper = id(site, 'img/a.png');
    const others = ['up/a-1.png', 'up/a-2.png', 'up/a-3.png'];
    const proposal = await proposeMerge(site, [
      { keeperId: keeper, otherIds: others.map((path) => id(site, path)) },
    ]);
    expect(proposal.plan.clashes).toEqual([]);
    // Its name stands in a script: nobody knows what that does with it.
    expect(proposal.plan.warnings).toEqual([
      expect.stringMatching(/“up\/a-3\.png” stays: .*“js\/x\.js”, line 1/),
    ]);
    expect(proposal.plan.totals).toMatchObject({ items: 2, pages: 2, spans: 3 });
    const entry = await applyProposal(site, proposal, 1);
    const page = await text(root, 'index.html');
    expect(page).toContain(
      '<img src="img/a.png" alt="a"><img src="img/a.png"><p style="background:url(img/a.png)">',
    );
    expect(await text(root, 'news/n.md')).toBe('![](../img/a.png)\n');
    expect(await text(root, 'iconomos-redirects.csv')).toContain('/up/a-1.png,/img/a.png,301');
    expect(site.items.need(keeper)).toMatchObject({ use: 'placed', placements: 4 });
    expect(site.items.need(keeper).words).toMatchObject({
      alt: 'A red square',
      credit: 'Ben',
      tags: ['red'],
    });
    const after = await treeOf(root);
    expect(Object.keys(after)).toContain('up/a-3.png');
    expect(Object.keys(after)).not.toContain('up/a-1.png');
    expect(site.finder.list({ ...HERE, state: 'aside' }).items).toHaveLength(2);
    await applyProposal(site, await proposeUndo(site, entry), 1);
    expect(await treeOf(root)).toEqual(before);
    expect(site.items.need(keeper).words.tags).toEqual([]);
    expect(site.items.atPath('up/a-1.png')!.words.alt).toBe('A red square');
  });

  test('the smaller one is not kept where the larger is shown; a size of another image stays', async () => {
    const root = await doubles();
    const site = await openSite(root);
    const [large, small, sized] = ['img/large.jpg', 'up/small.jpg', 'up/sized.jpg'].map((path) =>
      id(site, path),
    );
    const wrong = await proposeMerge(site, [{ keeperId: small!, otherIds: [large!] }]);
    expect([...wrong.plan.clashes.map((one) => one.why), ...wrong.plan.warnings].join(' ')).toMatch(
      /900 pixels wide|one of several sizes/,
    );
    expect(wrong.plan.files.filter((step) => step.do === 'remove')).toEqual([]);
    const right = await proposeMerge(site, [{ keeperId: large!, otherIds: [small!, sized!] }]);
    expect(right.plan.clashes).toEqual([]);
    expect(right.plan.warnings).toEqual([expect.stringContaining('“up/sized.jpg” stays: “Sets” offers it')]);
    await applyProposal(site, right, 1);
    expect(await text(root, 'index.html')).toContain('<img src="img/large.jpg" width="200">');
    expect(await text(root, 'sets.html')).toContain('up/sized.jpg 400w');
    await expect(
      proposeMerge(site, [
        { keeperId: large!, otherIds: [sized!] },
        { keeperId: sized!, otherIds: [large!] },
      ]),
    ).rejects.toThrow('two groups');
  });

  test('a page that changes after the plan was shown is not written over, and nothing is lost', async () => {
    const root = await doubles();
    const site = await openSite(root);
    const proposal = await proposeMerge(site, [
      { keeperId: id(site, 'img/a.png'), otherIds: [id(site, 'up/a-1.png')] },
    ]);
    await writeFile(join(root, 'index.html'), '<title>Other</title><img src="up/a-1.png">');
    const before = await treeOf(root);
    await expect(applyProposal(site, proposal, 1)).rejects.toThrow();
    expect(await treeOf(root)).toEqual(before);
  });
});

describe('set aside', () => {
  test('restored where it was; if that is taken, under a free name when that is wished', async () => {
    const root = await doubles();
    const site = await openSite(root);
    const kept = id(site, 'up/small.jpg');
    await writeFile(join(root, 'index.html'), '<title>Home</title>');
    await applyProposal(site, await proposeAside(site, [kept]), 1);
    await writeFile(join(root, 'up/small.jpg'), await paint(300, 99));
    const asked = await proposeRestore(site, [kept]);
    expect(asked.plan.clashes[0]?.why).toContain('now has this address');
    const entry = await applyProposal(site, await proposeRestore(site, [kept], true), 1);
    expect(site.items.need(kept)).toMatchObject({ state: 'here', path: 'up/small-2.jpg', width: 400 });
    await applyProposal(site, await proposeUndo(site, entry), 1);
    expect(site.items.need(kept)).toMatchObject({ state: 'aside', path: 'up/small.jpg' });
  });

  test('emptying wants the number, frees the bytes, stands in the Ledger, and cannot be undone', async () => {
    const root = await doubles();
    const site = await openSite(root);
    await writeFile(join(root, 'js/x.js'), '');
    await writeFile(join(root, 'index.html'), '<title>Home</title>');
    const ids = [id(site, 'up/a-3.png'), id(site, 'up/small.jpg')];
    const aside = await applyProposal(site, await proposeAside(site, ids), 1);
    const { sha256 } = site.items.need(ids[1]!);
    expect(site.blobs.has(sha256)).toBe(true);
    await expect(emptyAside(site, ids, '3', 1)).rejects.toThrow('doesn’t match');
    await expect(emptyAside(site, [...ids, id(site, 'img/a.png')], '3', 1)).rejects.toThrow('not set aside');
    expect(site.items.need(ids[0]!).state).toBe('aside');
    const { entryId, items, bytes } = await emptyAside(site, ids, ' 2 ', 1);
    expect({ items, bytes: bytes > 0 }).toEqual({ items: 2, bytes: true });
    expect(site.blobs.has(sha256)).toBe(false);
    expect(site.items.need(ids[1]!).state).toBe('absent');
    await expect(proposeUndo(site, entryId)).rejects.toThrow('deleted for good');
    const undo = await proposeUndo(site, aside);
    expect(undo.plan.clashes.length).toBeGreaterThan(0);
    // What was emptied is none of the records that lost their file to others.
    await site.checks.refresh();
    expect(await site.findings.ids('missing')).toEqual([]);
  });

  test('how long it is kept is a setting with undo', async () => {
    const site = await openSite(await doubles());
    const entry = await applyProposal(site, proposeKeepingDays(site, 90), 1);
    expect(site.settings.get('upkeep', 'keeping-days')).toBe('90');
    await applyProposal(site, await proposeUndo(site, entry), 1);
    expect(site.settings.get('upkeep', 'keeping-days')).toBeNull();
  });
});

describe('weight and redirects', () => {
  test('images get as many pixels as they are shown with, twice over; undone to the byte', async () => {
    const root = await siteFolder({
      'index.html': '<title>Home</title><img src="wide.jpg" width="300">',
      'wide.jpg': await sharp(
        Buffer.from(Array.from({ length: 2000 * 1000 * 3 }, (_, i) => (i * 2654435761) >>> 24)),
        { raw: { width: 2000, height: 1000, channels: 3 } },
      )
        .jpeg()
        .toBuffer(),
      'other.jpg': await paint(2000, 3),
    });
    const site = await openSite(root);
    const before = await treeOf(root);
    const proposal = await proposeLighter(site, [id(site, 'wide.jpg'), id(site, 'other.jpg')]);
    expect(proposal.plan.warnings).toEqual([expect.stringContaining('“other.jpg” is unchanged')]);
    const entry = await applyProposal(site, proposal, 1);
    expect(site.items.atPath('wide.jpg')).toMatchObject({ width: 600, height: 300 });
    expect(await text(root, 'index.html')).toContain('width="300"');
    // It can be made anew of its original, and goes on being made of that.
    const { original, recipe } = await sourceOf(site, id(site, 'wide.jpg'));
    expect([original.width, recipe.size]).toEqual([2000, { by: 'width', width: 600 }]);
    await applyProposal(site, await proposeUndo(site, entry), 1);
    expect(await treeOf(root)).toEqual(before);
    expect((await sourceOf(site, id(site, 'wide.jpg'))).recipe).toEqual({ version: 1 });
  });

  test('photographs as PNG become JPEGs: references follow, the record stays, redirects lead on; undone to the byte', async () => {
    const noise = (channels: 3 | 4) => {
      const pixels = Buffer.alloc(300 * 200 * channels);
      const { below } = seeded(channels);
      for (let i = 0; i < pixels.length; i++) pixels[i] = 60 + below(60) + (Math.floor(i / 900) % 90);
      return sharp(pixels, { raw: { width: 300, height: 200, channels } })
        .png()
        .toBuffer();
    };
    const root = await siteFolder({
      'index.html':
        '<title>Home</title>\r\n<img src="img/hill.png" alt="Hill" width="300">\r\n<a href="img/hill.png">larger</a><img src="img/ghost.png">',
      'n.md': '![Hill](img/hill.png)\n',
      'img/hill.png': await noise(3),
      'img/ghost.png': await noise(4),
      'img/sign.jpg': await paint(200, 9),
    });
    const site = await openSite(root);
    const ids = ['img/hill.png', 'img/ghost.png', 'img/sign.jpg'].map((path) => id(site, path));
    // Before anyone has looked at them, nothing is done to them.
    expect((await proposeJpegs(site, ids)).plan.files).toEqual([]);
    await site.analyser.analyseAll();
    await applyProposal(site, proposeRecords(site, [ids[0]!], { set: { alt: 'The hill' } }), 1);
    const before = await treeOf(root);
    const proposal = await proposeJpegs(site, ids);
    expect(proposal.plan.warnings.map((one) => one.replace(/ is unchanged: .*/, ''))).toEqual([
      '“img/ghost.png”',
      '“img/sign.jpg”',
    ]);
    expect(proposal.plan.totals).toMatchObject({ items: 1, pages: 2, spans: 3 });
    const entry = await applyProposal(site, proposal, 1);
    const made = await sharp(await readFile(join(root, 'img/hill.jpg'))).metadata();
    expect(made).toMatchObject({ format: 'jpeg', width: 300, height: 200 });
    expect(await text(root, 'index.html')).toBe(
      '<title>Home</title>\r\n<img src="img/hill.jpg" alt="Hill" width="300">\r\n<a href="img/hill.jpg">larger</a><img src="img/ghost.png">',
    );
    expect(await text(root, 'n.md')).toBe('![Hill](img/hill.jpg)\n');
    expect(site.items.need(ids[0]!)).toMatchObject({
      path: 'img/hill.jpg',
      mime: 'image/jpeg',
      words: { alt: 'The hill' },
    });
    expect(await text(root, 'iconomos-redirects.csv')).toContain('/img/hill.png,/img/hill.jpg');
    expect(Object.keys(await treeOf(root))).not.toContain('img/hill.png');
    await applyProposal(site, await proposeUndo(site, entry), 1);
    expect(await treeOf(root)).toEqual(before);
    // A name that is taken is told, and nothing is written over.
    await writeFile(join(root, 'img/hill.jpg'), await paint(40, 1));
    await site.scanner.scan();
    expect((await proposeJpegs(site, [ids[0]!])).plan.clashes).toHaveLength(1);
  });

  test('redirects are dropped and pointed on', async () => {
    const csv = 'from,to,status\r\n/a,/b,301\r\n/b,/index.html,301\r\n/c,/gone,301\r\n';
    const root = await siteFolder({ 'index.html': '<title>x</title>', 'iconomos-redirects.csv': csv });
    const site = await openSite(root);
    const proposal = await proposeRedirects(site, [
      { from: '/a', to: '/index.html' },
      { from: '/c', to: null },
    ]);
    const entry = await applyProposal(site, proposal, 1);
    expect(await text(root, 'iconomos-redirects.csv')).toBe(
      'from,to,status\r\n/a,/index.html,301\r\n/b,/index.html,301\r\n',
    );
    await applyProposal(site, await proposeUndo(site, entry), 1);
    expect(await text(root, 'iconomos-redirects.csv')).toBe(csv);
  });
});
