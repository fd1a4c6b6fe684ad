import { mkdir, readFile, symlink, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { afterEach, describe, expect, test } from 'vitest';
import { SITE_RULE } from '../../core/intake/rules.ts';
import type { Site } from '../app/site.ts';
import { ALL_HERE } from '../db/item-query.ts';
import { closeSites, openSite, picture, siteFolder, smallSite, treeOf } from '../test/site.ts';
import { planMoves } from './addresses.ts';
import { proposeCopies } from './files.ts';
import { proposeDropFolders, proposeFolder, proposeNewFolder } from './folders.ts';
import { applyProposal } from './apply.ts';
import type { Proposal } from './proposal.ts';
import { proposeAbove, proposeRecords, proposeRule, proposeSpelling, proposeTag } from './records.ts';
import { proposeUndo } from './undo.ts';
import { proposeBringBack, versionsOf } from './versions.ts';

afterEach(closeSites);
const apply = (site: Site, proposal: Proposal | Promise<Proposal>, note?: string) =>
  applyProposal(site, proposal, 1, { note });
const undo = async (site: Site, entry: number) => apply(site, await proposeUndo(site, entry));
const idOf = (site: Site, path: string) => site.items.atPath(path)!.id;

describe('folders', () => {
  test('are made, and removed when empty; both are undone', async () => {
    const site = await openSite(await smallSite());
    const before = await treeOf(site.folder.root);
    const made = await apply(site, await proposeNewFolder(site, 'new/deep'));
    expect(site.index.emptyFolders).toEqual(['new', 'new/deep']);
    expect((await proposeNewFolder(site, 'NEW')).plan.clashes).toHaveLength(1);
    expect((await proposeNewFolder(site, 'img/../x')).plan.clashes).toHaveLength(1);
    expect((await proposeNewFolder(site, 'img/.hidden')).plan.clashes).toHaveLength(1);
    expect((await proposeDropFolders(site, ['img'])).plan.clashes).toHaveLength(1);
    const dropped = await apply(site, await proposeDropFolders(site, ['new']));
    expect(await treeOf(site.folder.root)).toEqual(before);
    await undo(site, dropped);
    expect(site.index.emptyFolders).toEqual(['new', 'new/deep']);
    await writeFile(join(site.folder.root, 'new/deep/x.txt'), 'x');
    expect((await proposeUndo(site, made)).plan.clashes.length).toBeGreaterThan(0);
  });

  test('with pages: the pages move too, links from anywhere follow, folder addresses stay folder addresses', async () => {
    const root = await siteFolder({
      'index.html':
        '<title>Home</title><a href="about/">about</a> <a href="/about/index.html#x">again</a> <a href=\'about/team.html?a=1\'>t</a>',
      'about/index.html':
        '<title>About</title><img src="pic.png"><a href="../index.html">home</a><a href="team.html">team</a><link rel=stylesheet href="../css/s.css">',
      'about/team.html': '<title>Team</title><a href="/about/">back</a><img src=/about/pic.png>',
      'about/deep/note.md': '[up](../team.html) ![p](../pic.png)',
      'css/s.css': 'body { background: url(../about/pic.png) }',
      'about/pic.png': await picture(1),
    });
    const site = await openSite(root);
    const before = await treeOf(root);
    const proposal = await proposeFolder(site, 'about', 'who/we-are');
    expect(proposal.plan).toMatchObject({ kind: 'move', clashes: [] });
    expect(proposal.plan.warnings[0]).toContain('3 pages lie in it');
    const entry = await apply(site, proposal);
    const text = async (path: string) => readFile(join(root, path), 'utf8');
    expect(await text('index.html')).toBe(
      '<title>Home</title><a href="who/we-are/">about</a> <a href="/who/we-are/index.html#x">again</a> <a href=\'who/we-are/team.html?a=1\'>t</a>',
    );
    expect(await text('who/we-are/index.html')).toBe(
      '<title>About</title><img src="pic.png"><a href="../../index.html">home</a><a href="team.html">team</a><link rel=stylesheet href="../../css/s.css">',
    );
    expect(await text('who/we-are/team.html')).toContain(
      'href="/who/we-are/">back</a><img src=/who/we-are/pic.png>',
    );
    expect(await text('who/we-are/deep/note.md')).toBe('[up](../team.html) ![p](../pic.png)');
    expect(await text('css/s.css')).toContain('url(../who/we-are/pic.png)');
    expect(Object.keys(await treeOf(root))).not.toContain('about/');
    expect(site.items.atPath('who/we-are/pic.png')?.placements).toBe(4);
    await undo(site, entry);
    expect(await treeOf(root)).toEqual(before);

    // What others write into a moved page meanwhile stays, and its addresses are turned back.
    const again = await apply(site, await proposeFolder(site, 'about', 'who'));
    await writeFile(join(root, 'who/team.html'), '<title>Team</title><a href="/who/">back</a><p>New words');
    await undo(site, again);
    expect(await text('about/team.html')).toBe('<title>Team</title><a href="/about/">back</a><p>New words');
    expect(await text('index.html')).toContain('href="about/">about');
  });

  test('moved up by a level over a folder of the same name: every file is there, none over another', async () => {
    const root = await siteFolder({
      'index.html': '<img src=a/a/x.png><img src=a/a/a/x.png>',
      'a/a/x.png': await picture(1),
      'a/a/a/x.png': await picture(2),
    });
    const site = await openSite(root);
    const before = await treeOf(root);
    const entry = await apply(site, await proposeFolder(site, 'a/a', 'a'));
    const after = await treeOf(root);
    expect([after['a/x.png'], after['a/a/x.png']]).toEqual([before['a/a/x.png'], before['a/a/a/x.png']]);
    expect(after['index.html']).not.toEqual(before['index.html']);
    expect(await readFile(join(root, 'index.html'), 'utf8')).toBe('<img src=a/x.png><img src=a/a/x.png>');
    await undo(site, entry);
    expect(await treeOf(root)).toEqual(before);
  });

  test('two items exchange their addresses, and three in a circle; undone', async () => {
    const site = await openSite(await smallSite());
    const before = await treeOf(site.folder.root);
    const paths = ['img/b.png', 'img/c.png', 'img/unused.png'];
    const items = paths.map((path) => site.items.atPath(path)!);
    const to = new Map(items.map((item, at) => [item.id, paths[(at + 1) % 3]!]));
    const proposal = await planMoves(site, items, to);
    expect(proposal.plan.clashes).toEqual([]);
    const entry = await apply(site, proposal);
    expect(items.map((item) => site.items.need(item.id).path)).toEqual([paths[1], paths[2], paths[0]]);
    const after = await treeOf(site.folder.root);
    expect(after['img/c.png']).toEqual(before['img/b.png']);
    await undo(site, entry);
    expect(await treeOf(site.folder.root)).toEqual(before);
    expect(items.map((item) => site.items.need(item.id).path)).toEqual(paths);
  });

  test('merged: the rule of the one that goes follows, unless the other has its own; a link in it stands in the way', async () => {
    const site = await openSite(await smallSite());
    const { folder: _root, ...rule } = { ...SITE_RULE, purpose: 'old things' };
    await apply(site, proposeRule(site, 'old', rule));
    const proposal = await proposeFolder(site, 'old', 'img');
    expect(proposal.plan.title).toBe('Merge the folder “old” into “img”');
    const entry = await apply(site, proposal);
    expect(site.rules.all()).toMatchObject([{ folder: 'img', purpose: 'old things' }]);
    await undo(site, entry);
    expect(site.rules.all()).toMatchObject([{ folder: 'old' }]);
    await symlink(join(site.folder.root, 'css'), join(site.folder.root, 'old/link'));
    expect((await proposeFolder(site, 'old', 'older')).plan.clashes).toMatchObject([{ path: 'old/link' }]);
  });

  test('the folders within that are empty go along', async () => {
    const site = await openSite(await smallSite());
    await mkdir(join(site.folder.root, 'img/later/on'), { recursive: true });
    const before = await treeOf(site.folder.root);
    const entry = await apply(site, await proposeFolder(site, 'img', 'pics'));
    expect(site.index.emptyFolders).toEqual(['pics/later', 'pics/later/on']);
    expect(Object.keys(await treeOf(site.folder.root))).not.toContain('img/');
    await undo(site, entry);
    expect(await treeOf(site.folder.root)).toEqual(before);
  });
});

describe('copies', () => {
  test('have their own name and the same record; undone, nothing of them is left', async () => {
    const site = await openSite(await smallSite());
    const before = await treeOf(site.folder.root);
    const id = idOf(site, 'img/b.png');
    await apply(site, proposeRecords(site, [id], { addTags: ['sky'], set: { alt: 'B' }, owner: 'Ben' }));
    const entry = await apply(site, await proposeCopies(site, [id, id], null));
    const copies = ['img/b-2.png', 'img/b-3.png'].map((path) => site.items.atPath(path)!);
    for (const copy of copies)
      expect(copy).toMatchObject({
        words: { alt: 'B', tags: ['sky'] },
        owner: 'Ben',
        use: 'unused',
        addedBy: 'Ottilie',
        originalName: 'b.png',
      });
    const into = await apply(site, await proposeCopies(site, [id], 'elsewhere'));
    expect(site.items.atPath('elsewhere/b.png')).toMatchObject({ words: { alt: 'B' } });
    await undo(site, into);
    await undo(site, entry);
    expect(await treeOf(site.folder.root)).toEqual(before);
    expect(site.tags.counts()).toEqual([{ name: 'sky', items: 1 }]);
  });

  test('that cannot be made leave no record behind', async () => {
    const site = await openSite(await smallSite());
    const count = () => site.db.value("select count(*) from item where state <> 'here'");
    const before = count();
    const proposal = await proposeCopies(site, [idOf(site, 'img/b.png')], 'else');
    await mkdir(join(site.folder.root, 'else'));
    await writeFile(join(site.folder.root, 'else/b.png'), 'in the way');
    await expect(apply(site, proposal)).rejects.toMatchObject({ code: 'clash' });
    expect(count()).toBe(before);
  });
});

describe('tags that belong together', () => {
  const tagged = (site: Site, tag: string) =>
    site.finder.count({
      ...ALL_HERE,
      where: { join: 'all', not: false, of: [{ test: 'tag', value: tag, not: false }] },
    });

  test('merged: the old spelling finds, and is the same tag when written; undone', async () => {
    const site = await openSite(await smallSite());
    const [b, c] = ['img/b.png', 'img/c.png'].map((path) => idOf(site, path)) as [number, number];
    await apply(site, proposeRecords(site, [b], { addTags: ['telescopes'] }));
    await apply(site, proposeRecords(site, [c], { addTags: ['telescope'] }));
    const entry = await apply(site, proposeTag(site, 'telescopes', 'telescope'));
    expect([tagged(site, 'telescope'), tagged(site, 'Telescopes')]).toEqual([2, 2]);
    await apply(site, proposeRecords(site, [idOf(site, 'img/unused.png')], { addTags: ['telescopes'] }));
    expect(site.tags.counts()).toEqual([{ name: 'telescope', items: 3 }]);
    await undo(site, entry);
    expect([tagged(site, 'telescope'), tagged(site, 'telescopes')]).toEqual([2, 1]);
  });

  test('below another: the upper one finds both; circles and own names are refused; renaming keeps it', async () => {
    const site = await openSite(await smallSite());
    await apply(site, proposeRecords(site, [idOf(site, 'img/b.png')], { addTags: ['moon'] }));
    await apply(site, proposeRecords(site, [idOf(site, 'img/c.png')], { addTags: ['sky'] }));
    await apply(site, proposeAbove(site, 'moon', 'sky'));
    expect([tagged(site, 'sky'), tagged(site, 'moon')]).toEqual([2, 1]);
    expect(proposeAbove(site, 'sky', 'Moon').plan.clashes).toHaveLength(1);
    expect(proposeAbove(site, 'sky', 'sky').plan.clashes).toHaveLength(1);
    expect(proposeSpelling(site, 'moon', 'Sky', false).plan.clashes).toHaveLength(1);
    await apply(site, proposeSpelling(site, 'moon', 'luna', false));
    await apply(site, proposeTag(site, 'moon', 'our moon'));
    expect([tagged(site, 'sky'), tagged(site, 'luna'), tagged(site, 'moon')]).toEqual([2, 1, 0]);
    await apply(site, proposeSpelling(site, 'our moon', 'luna', true));
    expect(tagged(site, 'luna')).toBe(0);
    await apply(site, proposeAbove(site, 'our moon', null));
    expect(tagged(site, 'sky')).toBe(1);
  });
});

describe('versions', () => {
  test('each change of an item with person, time and note; what it took is brought back', async () => {
    const site = await openSite(await smallSite());
    const id = idOf(site, 'img/b.png');
    await apply(
      site,
      proposeRecords(site, [id], { set: { alt: 'first', title: 'T' } }),
      'from the card index',
    );
    await applyProposal(site, proposeRecords(site, [id], { set: { alt: 'second' } }), 2);
    const versions = await versionsOf(site, id);
    expect(versions).toMatchObject([
      { person: 'Ben', before: { alt: 'first' }, after: { alt: 'second' }, note: '' },
      { person: 'Ottilie', before: { alt: '', title: '' }, note: 'from the card index' },
    ]);
    await apply(site, await proposeBringBack(site, id, versions[0]!.entryId));
    expect(site.items.need(id).words).toMatchObject({ alt: 'first', title: 'T' });
    await expect(proposeBringBack(site, id, 999)).rejects.toThrow('doesn’t exist');
  });

  test('bytes that were replaced are kept, also through a move, and brought back to the byte', async () => {
    const site = await openSite(await smallSite());
    const id = idOf(site, 'img/b.png');
    const old = await site.folder.read('img/b.png');
    const next = await picture(77);
    const sha256 = await site.blobs.put(next);
    const item = site.items.need(id);
    const { proposeBringIn } = await import('./files.ts');
    await apply(
      site,
      await proposeBringIn(site, [
        { do: 'replace', path: item.path, sha256, itemId: id, before: item.sha256, width: 77 },
      ]),
    );
    await apply(site, await planMoves(site, [site.items.need(id)], new Map([[id, 'img/moved.png']])));
    // Another item that gets the old address has nothing to do with it.
    await apply(
      site,
      await planMoves(
        site,
        [site.items.atPath('img/c.png')!],
        new Map([[idOf(site, 'img/c.png'), 'img/b.png']]),
      ),
    );
    expect(await versionsOf(site, id)).toMatchObject([
      { moved: { from: 'img/b.png', to: 'img/moved.png' }, file: null },
      { file: { before: item.sha256, after: sha256 } },
    ]);
    expect(await versionsOf(site, idOf(site, 'img/b.png'))).toMatchObject([{ moved: { from: 'img/c.png' } }]);
    const entry = (await versionsOf(site, id))[1]!.entryId;
    const back = await apply(site, await proposeBringBack(site, id, entry));
    expect((await site.folder.read('img/moved.png')).equals(old)).toBe(true);
    await undo(site, back);
    expect((await site.folder.read('img/moved.png')).equals(next)).toBe(true);
  });
});

describe('long changes', () => {
  async function many(count: number): Promise<Site> {
    const bytes = await picture(5);
    return openSite(
      await siteFolder(Object.fromEntries(Array.from({ length: count }, (_, i) => [`p/${i}.png`, bytes]))),
    );
  }
  test('of records go on in slices and let the thread breathe; one entry, undone as one', async () => {
    const site = await many(700);
    const ids = site.finder.ids(ALL_HERE);
    let breaths = 0;
    const timer = setInterval(() => breaths++, 0);
    const told: number[] = [];
    site.jobs.onProgress((job) => told.push(job.done));
    const entry = await apply(site, proposeRecords(site, ids, { addTags: ['many'], set: { credit: 'C' } }));
    clearInterval(timer);
    expect(breaths).toBeGreaterThan(1);
    expect(told.length).toBeGreaterThan(1);
    expect(site.tags.counts()).toEqual([{ name: 'many', items: 700 }]);
    await undo(site, entry);
    expect(site.tags.counts()).toEqual([]);
  });

  test('are stopped before anything is put in place, and nothing has changed', async () => {
    const site = await many(400);
    const before = await treeOf(site.folder.root);
    const ids = site.finder.ids(ALL_HERE);
    const items = site.items.some(ids);
    const proposal = await planMoves(site, items, new Map(items.map((item) => [item.id, `q/${item.name}`])));
    site.jobs.onProgress((job) => site.jobs.cancel(job.id));
    await expect(apply(site, proposal)).rejects.toMatchObject({ code: 'cancelled' });
    expect(await treeOf(site.folder.root)).toEqual(before);
    expect(await site.rows.unfinished()).toEqual([]);
    expect(site.rows.count()).toBe(0);
  });
});
