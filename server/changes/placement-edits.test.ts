import { join } from 'node:path';
import { readFile } from 'node:fs/promises';
import sharp from 'sharp';
import { afterEach, describe, expect, test } from 'vitest';
import { apply, idOf, plan, undo } from '../test/plans.ts';
import { closeSites, openSite, siteFolder, treeOf } from '../test/site.ts';
import { placementFacts } from './placement-edits.ts';

afterEach(closeSites);

const photo = (width: number) =>
  sharp({ create: { width, height: width / 2, channels: 3, background: '#369' } })
    .jpeg()
    .toBuffer();

const HOME = `<!doctype html>
<html><head><title>Home</title>
<link rel="stylesheet" href="css/site.css"></head>
<body>
<div class="hero"><h1>Hill</h1></div>
<p><img src="img/pond.jpg" alt="A pond" width="1600" height="800"></p>
<p>See <a href="doc/map.pdf">the map</a> first.</p>
<video src="media/talk.mp4" controls></video>
</body></html>
`;
async function pageSite() {
  const root = await siteFolder({
    'index.html': HOME,
    'notes.md': '# Notes\n\n![Pond](img/pond.jpg)\n\nText\n',
    'css/site.css': '.deep { background: url("../img/pond.jpg") }\n',
    'img/pond.jpg': await photo(1600),
    'img/poster.jpg': await photo(800),
    'doc/map.pdf': '%PDF-1.4\n',
    'media/talk.mp4': 'film',
    'media/talk.vtt': 'WEBVTT\n',
  });
  const site = await openSite(root);
  return {
    root,
    site,
    home: () => readFile(join(root, 'index.html'), 'utf8'),
    start: (path: string, page = 'index.html') =>
      site.references.placedOn(page).find((one) => one.path === path)!.start,
  };
}

describe('one placement', () => {
  test('its words, caption, width and classes are changed in one plan; undone to the byte', async () => {
    const { root, site, home, start } = await pageSite();
    const before = await treeOf(root);
    const entry = await apply(site, {
      kind: 'placement',
      page: 'index.html',
      start: start('img/pond.jpg'),
      alt: 'The pond at “noon”',
      title: 'Pond',
      caption: 'A & B',
      shownWidth: 400,
      classes: 'wide',
    });
    const page = await home();
    expect(page).toContain('<figure><img');
    expect(page).toContain('alt="The pond at “noon”" width="400" height="200"');
    expect(page).toContain('class="wide"');
    expect(page).toContain('title="Pond"');
    expect(page).toContain('<figcaption>A &amp; B</figcaption></figure>');
    const facts = await placementFacts(site, 'index.html', start('img/pond.jpg'));
    expect(facts).toMatchObject({ caption: 'A & B', width: 400, words: { title: 'Pond' } });
    await undo(site, entry);
    expect(await treeOf(root)).toEqual(before);
  });

  test('the small style sheet is made and linked once, for all pages', async () => {
    const { root, site, home, start } = await pageSite();
    const before = await treeOf(root);
    const look = async () =>
      plan(site, {
        kind: 'placement',
        page: 'index.html',
        start: start('img/pond.jpg'),
        ours: { align: 'right', space: 'small' },
      });
    const { plan: first } = await look();
    expect(first.files).toMatchObject([
      { do: 'write', path: 'css/placements.css', before: null },
      { do: 'write', path: 'index.html' },
    ]);
    const entry = await apply(site, {
      kind: 'placement',
      page: 'index.html',
      start: start('img/pond.jpg'),
      ours: { align: 'right', space: 'small' },
    });
    expect(await home()).toContain('<link rel="stylesheet" href="css/placements.css">');
    expect(await home()).toContain('class="placed-right placed-space-small"');
    await apply(site, {
      kind: 'placement',
      page: 'index.html',
      start: start('img/pond.jpg'),
      ours: { align: 'center', space: 'none' },
    });
    expect((await home()).match(/placements\.css/g)).toHaveLength(1);
    expect(await home()).toContain('class="placed-center"');
    await undo(site, entry + 1);
    await undo(site, entry);
    expect(await treeOf(root)).toEqual(before);
  });

  test('a video gets its poster and captions, and loses them again', async () => {
    const { site, home, start } = await pageSite();
    const of = { kind: 'placement', page: 'index.html' } as const;
    await apply(site, {
      ...of,
      start: start('media/talk.mp4'),
      posterId: idOf(site, 'img/poster.jpg'),
      captions: { path: 'media/talk.vtt', language: 'en', label: 'English' },
    });
    expect(await home()).toContain('poster="img/poster.jpg"');
    expect(await home()).toContain(
      '<track kind="captions" src="media/talk.vtt" srclang="en" label="English" default>',
    );
    expect(site.items.atPath('img/poster.jpg')!.use).toBe('placed');
    const facts = await placementFacts(site, 'index.html', start('media/talk.mp4'));
    expect(facts).toMatchObject({ isFilm: true, poster: 'img/poster.jpg', captions: [{ language: 'en' }] });
    await apply(site, { ...of, start: start('media/talk.mp4'), posterId: null, captions: null });
    expect(await home()).toBe(HOME);
  });

  test('taken off: the block goes, a link keeps its words, a style sheet shows nothing there', async () => {
    const { root, site, home, start } = await pageSite();
    const before = await treeOf(root);
    const places = [
      { page: 'index.html', start: start('img/pond.jpg') },
      { page: 'index.html', start: start('doc/map.pdf') },
      { page: 'css/site.css', start: start('img/pond.jpg', 'css/site.css') },
      { page: 'notes.md', start: start('img/pond.jpg', 'notes.md') },
    ];
    const entry = await apply(site, { kind: 'unplace', places });
    expect(await home()).toContain('<div class="hero"><h1>Hill</h1></div>\n<p>See the map first.</p>');
    expect(await readFile(join(root, 'css/site.css'), 'utf8')).toBe('.deep { background: none }\n');
    expect(await readFile(join(root, 'notes.md'), 'utf8')).toBe('# Notes\n\nText\n');
    expect(site.items.atPath('img/pond.jpg')).toMatchObject({ use: 'unused', placements: 0 });
    await undo(site, entry);
    expect(await treeOf(root)).toEqual(before);
  });

  test('moved up and down; the first says that it is the first', async () => {
    const { site, home, start } = await pageSite();
    const of = { kind: 'order', page: 'index.html' } as const;
    await apply(site, { ...of, start: start('img/pond.jpg'), to: 'up' });
    expect((await home()).indexOf('img/pond.jpg')).toBeLessThan((await home()).indexOf('class="hero"'));
    const { plan: refused } = await plan(site, { ...of, start: start('img/pond.jpg'), to: 'up' });
    expect(refused.clashes[0]!.why).toContain('the first here already');
    await apply(site, { ...of, start: start('img/pond.jpg'), to: 'down' });
    expect(await home()).toBe(HOME);
  });

  test('of a page that has changed meanwhile nothing is written', async () => {
    const { site } = await pageSite();
    await expect(
      plan(site, { kind: 'placement', page: 'index.html', start: 3, alt: 'x' }),
    ).rejects.toMatchObject({ code: 'moved-on' });
  });
});

describe('backgrounds', () => {
  const placing = {
    kind: 'place',
    page: 'index.html',
    caption: false,
    classes: '',
    sizes: false,
    full: false,
  } as const;
  test('a block without one gets one in a size that fits; undone to the byte', async () => {
    const { root, site, home } = await pageSite();
    const before = await treeOf(root);
    const entry = await apply(site, {
      ...placing,
      spot: { behind: HOME.indexOf('<div class="hero"') },
      itemId: idOf(site, 'img/pond.jpg'),
      shownWidth: 390,
    });
    expect(await home()).toContain(
      '<div style="background-image: url(&quot;img/pond-780.jpg&quot;); background-size: cover; background-position: center" class="hero">',
    );
    expect((await sharp(join(root, 'img/pond-780.jpg')).metadata()).width).toBe(780);
    expect(site.references.placedOn('index.html').map((one) => one.path)).toContain('img/pond-780.jpg');
    await undo(site, entry);
    expect(await treeOf(root)).toEqual(before);
  });
  test('one that is there is offered in a size that fits, in its style sheet', async () => {
    const { root, site, start } = await pageSite();
    await apply(site, {
      ...placing,
      spot: { background: start('img/pond.jpg', 'css/site.css'), in: 'css/site.css' },
      itemId: idOf(site, 'img/pond.jpg'),
      shownWidth: 300,
    });
    expect(await readFile(join(root, 'css/site.css'), 'utf8')).toBe(
      '.deep { background: url("../img/pond-600.jpg") }\n',
    );
    expect(site.items.atPath('img/pond-600.jpg')!.sizeOf).toBe(idOf(site, 'img/pond.jpg'));
    expect(site.references.brokenCount()).toBe(0);
  });
});
