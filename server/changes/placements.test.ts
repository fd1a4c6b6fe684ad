import { readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import sharp from 'sharp';
import { afterEach, describe, expect, test } from 'vitest';
import type { Site } from '../app/site.ts';
import { arrive, closeSites, openSite, picture, siteFolder, treeOf } from '../test/site.ts';
import { addresses } from './addresses.ts';
import {
  galleriesOn,
  membersOf,
  proposeFocal,
  proposeGallery,
  proposePlacing,
  proposePointing,
  snippetFor,
} from './placements.ts';
import { proposeSizes } from './sizes.ts';
import { applyProposal } from './apply.ts';
import type { Proposal } from './proposal.ts';
import { proposeLayout } from './records.ts';
import { proposeReplace } from './replace.ts';
import { proposeUndo } from './undo.ts';

afterEach(closeSites);

const paint = (width: number, height: number, red: number, format: 'jpeg' | 'png' = 'jpeg') =>
  sharp({ create: { width, height, channels: 3, background: { r: red, g: 90, b: 60 } } })
    .toFormat(format)
    .toBuffer();

async function gallerySite(): Promise<string> {
  return siteFolder({
    'index.html':
      '<!doctype html>\n<title>Home</title>\n<main>\n  <p>One.</p>\n  <img src="img/wide.jpg" width="2000" height="1000" alt="w">\n  <div style="background: url(img/a.jpg)">x</div>\n</main>\n',
    'sub/other.html':
      '<title>Other</title><img src="../img/wide.jpg" width=1000 height=500><a href="/img/wide.jpg?x#y">w</a>',
    'broken.html':
      '<title>Broken</title><img src="img/WIDE.jpg"><img src="img/a.png"><img src="old/b.jpg"><img src="img/nothing.jpg">',
    'notes/n.md': '# Note\n\nText.\n',
    'img/wide.jpg': await paint(2000, 1000, 10),
    'img/a.jpg': await paint(400, 300, 20),
    'img/b.jpg': await paint(900, 600, 30),
    'img/c.png': await paint(800, 1200, 40, 'png'),
  });
}

/** Applies, looks, and takes it back: the site must be as it was to the byte. */
async function there(site: Site, root: string, proposal: Proposal, look: () => Promise<void>): Promise<void> {
  const before = await treeOf(root);
  const entry = await applyProposal(site, proposal, 1);
  await look();
  await applyProposal(site, await proposeUndo(site, entry), 1);
  expect(await treeOf(root)).toEqual(before);
}
const text = (root: string, path: string) => readFile(join(root, path), 'utf8');
const idOf = (site: Site, path: string) => site.items.atPath(path)!.id;
const PLACING = { caption: true, classes: '', shownWidth: null, sizes: true, full: false };

describe('placing', () => {
  test('a picture with new sizes of it, as files and items of their own; all of it undone', async () => {
    const root = await gallerySite();
    const site = await openSite(root);
    const page = await text(root, 'index.html');
    const proposal = await proposePlacing(site, {
      ...PLACING,
      page: 'index.html',
      spot: { at: page.indexOf('<p>') },
      itemId: idOf(site, 'img/wide.jpg'),
    });
    expect(proposal.plan.files.flatMap((step) => (step.do === 'create' ? [step.path] : []))).toEqual([
      'img/wide-480.jpg',
      'img/wide-800.jpg',
      'img/wide-1200.jpg',
      'img/wide-1600.jpg',
    ]);
    expect(await text(root, 'index.html')).toBe(page);
    await there(site, root, proposal, async () => {
      expect(await text(root, 'index.html')).toContain(
        '  <img src="img/wide-1600.jpg" srcset="img/wide-480.jpg 480w, img/wide-800.jpg 800w, img/wide-1200.jpg 1200w, img/wide-1600.jpg 1600w" sizes="100vw" width="1600" height="800" loading="lazy">\n  <p>One.</p>',
      );
      const made = site.items.atPath('img/wide-800.jpg')!;
      expect([made.width, made.height, made.use]).toEqual([800, 400, 'placed']);
    });
    expect(site.items.atPath('img/wide-800.jpg')).toBeUndefined();
    // Sizes that lie there already are taken, not made once more.
    await applyProposal(
      site,
      await proposePlacing(site, {
        ...PLACING,
        page: 'index.html',
        spot: { at: page.indexOf('<p>') },
        itemId: idOf(site, 'img/b.jpg'),
      }),
      1,
    );
    const again = await proposePlacing(site, {
      ...PLACING,
      page: 'notes/n.md',
      spot: { at: 8 },
      itemId: idOf(site, 'img/b.jpg'),
    });
    expect(again.plan.files.map((step) => step.do)).toEqual(['write']);
  });

  test('in place of a picture, as a background, on a Markdown page', async () => {
    const root = await gallerySite();
    const site = await openSite(root);
    const page = await text(root, 'index.html');
    const c = idOf(site, 'img/c.png');
    await there(
      site,
      root,
      await proposePlacing(site, {
        ...PLACING,
        sizes: false,
        full: true,
        page: 'index.html',
        spot: { insteadOf: page.indexOf('img/wide') },
        itemId: c,
      }),
      async () => {
        expect(await text(root, 'index.html')).toContain('<img src="img/c.png" width="800" height="1200">');
      },
    );
    await there(
      site,
      root,
      await proposePlacing(site, {
        ...PLACING,
        page: 'index.html',
        spot: { background: page.indexOf('img/a.jpg'), in: 'index.html' },
        itemId: c,
      }),
      async () => {
        expect(await text(root, 'index.html')).toBe(page.replace('img/a.jpg', 'img/c.png'));
      },
    );
    await there(
      site,
      root,
      await proposePlacing(site, {
        ...PLACING,
        page: 'notes/n.md',
        spot: { at: 8 },
        itemId: idOf(site, 'img/a.jpg'),
      }),
      async () => {
        expect(await text(root, 'notes/n.md')).toContain('![](../img/a.jpg)');
      },
    );
  });

  test('a page that changed after it was looked at is not written over', async () => {
    const root = await gallerySite();
    const site = await openSite(root);
    const spot = { at: (await text(root, 'index.html')).indexOf('<p>') };
    const proposal = await proposePlacing(site, {
      ...PLACING,
      page: 'index.html',
      spot,
      itemId: idOf(site, 'img/a.jpg'),
    });
    await writeFile(join(root, 'index.html'), '<title>New</title><p>Other</p>');
    await expect(applyProposal(site, proposal, 1)).rejects.toMatchObject({ code: 'moved-on' });
    expect(await text(root, 'index.html')).toBe('<title>New</title><p>Other</p>');
  });
});

test('broken references are mended where they stand; other references stay', async () => {
  const root = await gallerySite();
  const site = await openSite(root);
  const broken = site.references.brokenOf('broken.html');
  expect(broken.map((one) => one.path)).toEqual([
    'img/WIDE.jpg',
    'img/a.png',
    'old/b.jpg',
    'img/nothing.jpg',
  ]);
  const targets = ['img/wide.jpg', 'img/a.jpg', 'img/b.jpg'];
  const proposal = await proposePointing(
    site,
    targets.map((path, at) => ({ page: 'broken.html', start: broken[at]!.start, path })),
  );
  await there(site, root, proposal, async () => {
    expect(await text(root, 'broken.html')).toBe(
      '<title>Broken</title><img src="img/wide.jpg"><img src="img/a.jpg"><img src="img/b.jpg"><img src="img/nothing.jpg">',
    );
    expect(site.references.brokenOf('broken.html')).toHaveLength(1);
  });
});

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

test('a snippet in web size waits for that size; made by a plan, it is offered, and undone it is not', async () => {
  const root = await gallerySite();
  await writeFile(join(root, 'img/huge.jpg'), await paint(2400, 1200, 5));
  const site = await openSite(root);
  const item = () => site.items.atPath('img/huge.jpg')!;
  expect(snippetFor(site, item(), 'plain', 'full')).toBe('/img/huge.jpg');
  expect(snippetFor(site, item(), 'html', 'web')).toBeNull();
  expect(snippetFor(site, site.items.atPath('img/a.jpg')!, 'plain', 'web')).toBe('/img/a.jpg');
  await there(site, root, await proposeSizes(site, item().id), () => {
    expect(snippetFor(site, item(), 'html', 'web')).toBe(
      '<img src="/img/huge-1600.jpg" width="1600" height="800">',
    );
    return Promise.resolve();
  });
  expect(snippetFor(site, item(), 'html', 'web')).toBeNull();
});

test('a gallery: small pictures beside the large ones; made anew when its folder has changed; undone', async () => {
  const root = await gallerySite();
  const site = await openSite(root);
  const page = await text(root, 'index.html');
  const from = { folder: 'img' };
  const itemIds = (await membersOf(site, from))!;
  expect(itemIds.map((id) => site.items.need(id).path)).toEqual([
    'img/a.jpg',
    'img/b.jpg',
    'img/c.png',
    'img/wide.jpg',
  ]);
  const look = { from, side: 240, quality: 70, captions: true, classes: '' };
  const spot = { at: page.indexOf('<p>') };
  const first = await applyProposal(
    site,
    await proposeGallery(site, { ...look, page: 'index.html', spot, itemIds: [...itemIds].reverse() }),
    1,
  );
  const small = await sharp(join(root, 'img/c-240.png')).metadata();
  expect([small.width, small.height]).toEqual([160, 240]);
  expect(await text(root, 'index.html')).toMatch(
    /<ul class="gallery"[^]*wide\.jpg[^]*c\.png[^]*b\.jpg[^]*a\.jpg[^]*<\/ul>\n {2}<p>One/,
  );
  // Its own small pictures do not count as pictures of the folder.
  expect(await galleriesOn(site, 'index.html')).toMatchObject([{ added: 0, gone: 0 }]);
  await writeFile(join(root, 'img/new.jpg'), await paint(500, 500, 77));
  await site.scanner.scan();
  const [standing] = await galleriesOn(site, 'index.html');
  expect(standing).toMatchObject({ added: 1, gone: 0, gallery: look });
  const before = await treeOf(root);
  const anew = await applyProposal(
    site,
    await proposeGallery(site, {
      ...standing!.gallery,
      page: 'index.html',
      spot: { gallery: standing!.start },
      itemIds: standing!.itemIds.slice(1),
    }),
    1,
  );
  const now = await text(root, 'index.html');
  expect(now.match(/data-gallery/g)).toHaveLength(1);
  expect(now).toMatch(/c\.png[^]*b\.jpg[^]*a\.jpg[^]*new\.jpg/);
  expect(now).not.toContain('href="img/wide.jpg"');
  await applyProposal(site, await proposeUndo(site, anew), 1);
  expect(await treeOf(root)).toEqual(before);
  await applyProposal(site, await proposeUndo(site, first), 1);
  expect(await text(root, 'index.html')).toBe(page);
});

test('a focal point goes to the record and to the placements that are to follow it', async () => {
  const root = await gallerySite();
  const site = await openSite(root);
  const id = idOf(site, 'img/wide.jpg');
  const start = (await text(root, 'index.html')).indexOf('img/wide');
  await there(
    site,
    root,
    await proposeFocal(site, id, '20 70', [{ page: 'index.html', start }]),
    async () => {
      expect(await text(root, 'index.html')).toContain(
        '<img style="object-position: 20% 70%" src="img/wide.jpg"',
      );
      expect(site.items.need(id).focal).toBe('20 70');
    },
  );
  expect(site.items.need(id).focal).toBe('');
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
  const rename = await addresses(site, [a], new Map([[a.id, 'static/pictures/first.png']]));
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
