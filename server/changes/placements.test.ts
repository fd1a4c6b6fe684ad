import { writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import sharp from 'sharp';
import { afterEach, describe, expect, test } from 'vitest';
import { apply } from '../test/plans.ts';
import { closeSites, openSite, siteFolder, treeOf } from '../test/site.ts';
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
import { proposeUndo } from './undo.ts';
import { paint, gallerySite, there, text, idOf } from '../test/galleries.ts';

afterEach(closeSites);

const PLACING = { caption: true, classes: '', shownWidth: null, sizes: true, full: false };

describe('placing', () => {
  test('an image with new sizes of it, as files and items of their own; all of it undone', async () => {
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

  test('a document as a link that is worded as the site has it; that is a plan of its own, and undone', async () => {
    const root = await siteFolder({
      'index.html': '<title>Home</title>\n<p>One.</p>\n',
      'files/programme.pdf': '%PDF-1.4\n',
    });
    const site = await openSite(root);
    const page = await text(root, 'index.html');
    const placed = async () => {
      const proposal = await proposePlacing(site, {
        ...PLACING,
        page: 'index.html',
        spot: { at: page.indexOf('<p>') },
        itemId: idOf(site, 'files/programme.pdf'),
      });
      const entry = await applyProposal(site, proposal, 1);
      const words = />([^<]*)<\/a>/.exec(await text(root, 'index.html'))?.[1];
      await applyProposal(site, await proposeUndo(site, entry), 1);
      return words;
    };
    expect(await placed()).toBe('Programme (PDF, 9 B)');
    const entry = await apply(site, { kind: 'link-form', form: 'Download {title} [{format} {size}]' });
    expect(await placed()).toBe('Download Programme [PDF 9 B]');
    await expect(apply(site, { kind: 'link-form', form: '{title}: {pages}' })).rejects.toThrow(
      'worded like this',
    );
    await applyProposal(site, await proposeUndo(site, entry), 1);
    expect(await placed()).toBe('Programme (PDF, 9 B)');
  });

  test('in place of an image, as a background, on a Markdown page', async () => {
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

test('a gallery: small images beside the large ones; made anew when its folder has changed; undone', async () => {
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
  // Its own small images do not count as images of the folder.
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
