import { readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import sharp from 'sharp';
import { afterEach, describe, expect, test } from 'vitest';
import { arrive, closeSites, openSite, picture, siteFolder } from '../test/site.ts';
import { planMoves } from './addresses.ts';
import { applyProposal } from './apply.ts';
import { proposeLayout } from './records.ts';
import { proposeReplace } from './replace.ts';
import { proposeUndo } from './undo.ts';
import { paint, gallerySite, there, text, idOf } from '../test/galleries.ts';

afterEach(closeSites);

describe('replacing', () => {
  test('the address stays; width and height follow where they were the old ones; the old file is a version', async () => {
    const root = await gallerySite();
    const site = await openSite(root);
    const id = idOf(site, 'img/wide.jpg');
    const next = await paint(1200, 900, 200);
    const arrival = await arrive(site, next, 'Better one.jpg');
    const proposal = await proposeReplace(
      site,
      { itemId: id, by: { arrivalId: arrival.id }, name: 'keep', dates: 'keep' },
      1,
    );
    expect(proposal.plan.warnings.join(' ')).toContain('smaller');
    await there(site, root, proposal, async () => {
      expect((await readFile(join(root, 'img/wide.jpg'))).equals(next)).toBe(true);
      expect(await text(root, 'index.html')).toContain(
        '<img src="img/wide.jpg" width="1200" height="900" alt="w">',
      );
      expect(await text(root, 'sub/other.html')).toContain('width=1000 height=500');
      expect(site.items.need(id)).toMatchObject({ width: 1200, path: 'img/wide.jpg' });
      expect(site.arrivals.get(arrival.id)).toBeUndefined();
    });
  });

  test('by another item of another format, under the new name: every reference and the redirect follow', async () => {
    const root = await gallerySite();
    const site = await openSite(root);
    const id = idOf(site, 'img/wide.jpg');
    await writeFile(join(root, 'img/tall name.png'), await picture(9));
    await site.scanner.scan();
    const by = { itemId: idOf(site, 'img/tall name.png') };
    const clash = await proposeReplace(site, { itemId: id, by, name: 'new', dates: 'keep' }, 1);
    expect(clash.plan.clashes[0]!.why).toContain('There is a file');
    const proposal = await proposeReplace(site, { itemId: id, by, name: 'keep', dates: 'keep' }, 1);
    await there(site, root, proposal, async () => {
      expect(await text(root, 'index.html')).toContain(
        '<img src="img/wide.png" width="24" height="16" alt="w">',
      );
      expect(await text(root, 'sub/other.html')).toContain('<a href="/img/wide.png?x#y">');
      expect(await text(root, 'iconomos-redirects.csv')).toContain('/img/wide.jpg,/img/wide.png,301');
      expect(site.items.need(id)).toMatchObject({ path: 'img/wide.png', width: 24 });
    });
  });

  test('the date taken stays, or becomes that of the new file; undone it is the old one again', async () => {
    const root = await gallerySite();
    const site = await openSite(root);
    const id = idOf(site, 'img/a.jpg');
    const set = site.items.need(id);
    site.records.apply(
      { itemId: id, rowVersion: set.rowVersion, before: {}, after: { taken: '2020-01-02' } },
      1,
      site.now(),
    );
    const next = await sharp(await paint(400, 300, 99))
      .withExif({ IFD2: { DateTimeOriginal: '2024:05:06 07:08:09' } })
      .jpeg()
      .toBuffer();
    const arrival = await arrive(site, next, 'later.jpg');
    const by = { arrivalId: arrival.id };
    const keeping = await proposeReplace(site, { itemId: id, by, name: 'keep', dates: 'keep' }, 1);
    expect(keeping.plan.records).toEqual([]);
    const renewing = await proposeReplace(site, { itemId: id, by, name: 'keep', dates: 'new' }, 1);
    await there(site, root, renewing, () => {
      expect(site.items.need(id).words.taken).toBe('2024-05-06');
      return Promise.resolve();
    });
    expect(site.items.need(id).words.taken).toBe('2020-01-02');
  });

  test('the very same file, and one that is not ready, are refused with a sentence', async () => {
    const site = await openSite(await gallerySite());
    const id = idOf(site, 'img/a.jpg');
    await expect(
      proposeReplace(site, { itemId: id, by: { itemId: id }, name: 'keep', dates: 'keep' }, 1),
    ).rejects.toMatchObject({ code: 'bad-request' });
    await expect(
      proposeReplace(site, { itemId: id, by: { arrivalId: 99 }, name: 'keep', dates: 'keep' }, 1),
    ).rejects.toMatchObject({ code: 'not-found' });
  });
});

test('the layout: found out for sources of a generator, set by a plan, undone; addresses and redirects are those that are served', async () => {
  const root = await siteFolder({
    'content/post.md': '---\ntitle: Post\ncover: /img/a.png\n---\n![a](/img/a.png) ![b](/img/b.png)\n',
    'layouts/base.html': '<title>Base</title><img src="/img/b.png"><link rel="icon" href="/img/a.png">',
    'static/img/a.png': await picture(1),
    'static/img/b.png': await picture(2),
    'public/img/a.png': await picture(1),
    'node_modules/x/logo.png': await picture(3),
  });
  const site = await openSite(root);
  expect(site.index.map.roots).toEqual(['static']);
  const lines = { public: [], pages: [], media: [], leftOut: [], published: [] };
  const said = proposeLayout(site, { ...lines, leftOut: ['public/', './node_modules'], pages: ['content'] });
  expect(said.plan.clashes).toEqual([]);
  const entry = await applyProposal(site, said, 1);
  expect(site.items.atPath('public/img/a.png')).toBeUndefined();
  expect(site.items.atPath('node_modules/x/logo.png')).toBeUndefined();
  const a = site.items.atPath('static/img/a.png')!;
  // The layouts are no pages now: what stands there counts as mentioned.
  expect(site.references.placementsOf(a.path).map((one) => [one.page, one.place])).toEqual([
    ['content/post.md', 'front matter /cover'],
    ['content/post.md', 'md image'],
  ]);
  expect(site.references.mentionsOf('static/img/b.png').map((one) => one.page)).toEqual([
    'layouts/base.html',
  ]);
  const rename = await planMoves(site, [a], new Map([[a.id, 'static/pictures/first.png']]));
  expect(rename.plan.redirects).toEqual([{ from: '/img/a.png', to: '/pictures/first.png' }]);
  await there(site, root, rename, async () => {
    expect(await text(root, 'content/post.md')).toBe(
      '---\ntitle: Post\ncover: /pictures/first.png\n---\n![a](/pictures/first.png) ![b](/img/b.png)\n',
    );
  });
  await applyProposal(site, await proposeUndo(site, entry), 1);
  expect(site.items.atPath('public/img/a.png')).toBeDefined();
  expect(site.references.placementsOf('static/img/b.png').map((one) => one.page)).toContain(
    'layouts/base.html',
  );
  expect(() => proposeLayout(site, { ...lines, published: ['site.example'] })).toThrow(
    'no address of the web',
  );
  expect(proposeLayout(site, { ...lines, media: ['nowhere'] }).plan.clashes[0]!.why).toContain(
    'no such folder',
  );
});
