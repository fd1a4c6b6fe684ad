import { readFile, rename, rm, symlink, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { afterEach, describe, expect, test } from 'vitest';
import { closeSites, openSite, picture, siteFolder, smallSite, treeOf } from '../test/site.ts';
import { proposeAddress } from './addresses.ts';
import { proposeAside, proposeRestore } from './files.ts';
import { applyProposal } from './apply.ts';
import { proposeWords } from './records.ts';
import { proposeUndo } from './undo.ts';

afterEach(closeSites);

describe('rename and move', () => {
  test('the plan names every span; applying changes file, pages and redirects; undo restores the tree to the byte', async () => {
    const root = await smallSite();
    const site = await openSite(root);
    const before = await treeOf(root);
    const item = site.items.atPath('img/IMG_1234.png')!;

    const proposal = await proposeAddress(site, item.id, 'pictures/hill', 'hill-at-dusk.png');
    expect(proposal.plan.clashes).toEqual([]);
    expect(proposal.plan.totals).toMatchObject({ items: 1, pages: 3, spans: 7 });
    expect(await treeOf(root)).toEqual(before);

    const entry = await applyProposal(site, proposal, 1);
    const page = await readFile(join(root, 'index.html'), 'utf8');
    expect(page).toBe(
      `<!doctype html>\r\n<title>Home \u00e9</title>\r\n<link rel=stylesheet href=css/s.css>\r\n<h1>Hill</h1>\r\n<p>Look: <img src="pictures/hill/hill-at-dusk.png" alt="A hill"> and <img srcset="pictures/hill/hill-at-dusk.png 1x, /img/b.png 2x" src='img/b.png'></p>\r\n<div style="background:url(pictures/hill/hill-at-dusk.png)"></div>\r\n<video poster="pictures/hill/hill-at-dusk.png?v=1"></video><a href="pictures/hill/hill-at-dusk.png#x">\u00fc</a>\r\n`,
    );
    expect(await readFile(join(root, 'css/s.css'), 'utf8')).toContain(
      'url("../pictures/hill/hill-at-dusk.png")',
    );
    expect(await readFile(join(root, 'sub/page.html'), 'utf8')).toContain(
      '../pictures/hill/hill-at-dusk.png',
    );
    expect(await readFile(join(root, 'iconomos-redirects.csv'), 'utf8')).toBe(
      'from,to,status\r\n/img/IMG_1234.png,/pictures/hill/hill-at-dusk.png,301\r\n',
    );
    expect(site.items.get(item.id)).toMatchObject({
      path: 'pictures/hill/hill-at-dusk.png',
      placements: 7,
      use: 'placed',
    });

    const undo = await proposeUndo(site, entry);
    expect(undo.plan.clashes).toEqual([]);
    const undoEntry = await applyProposal(site, undo, 2);
    expect(await treeOf(root)).toEqual(before);
    expect(site.items.get(item.id)).toMatchObject({ path: 'img/IMG_1234.png', placements: 7 });

    await applyProposal(site, await proposeUndo(site, undoEntry), 2);
    expect(await readFile(join(root, 'index.html'), 'utf8')).toBe(page);
    expect(site.rows.list(10).map((one) => [one.person, one.kind])).toEqual([
      ['Ben', 'undo'],
      ['Ben', 'undo'],
      ['Ottilie', 'move'],
    ]);
  });

  test('two renames on one page: the first can still be undone, the second stays', async () => {
    const root = await smallSite();
    const site = await openSite(root);
    const one = await applyProposal(
      site,
      await proposeAddress(site, site.items.atPath('img/IMG_1234.png')!.id, 'img', 'hill.png'),
      1,
    );
    await applyProposal(
      site,
      await proposeAddress(site, site.items.atPath('img/b.png')!.id, 'img', 'bee.png'),
      1,
    );
    const undo = await proposeUndo(site, one);
    expect(undo.plan.clashes).toEqual([]);
    await applyProposal(site, undo, 1);
    const page = await readFile(join(root, 'index.html'), 'utf8');
    expect(page).toContain('srcset="img/IMG_1234.png 1x, /img/bee.png 2x" src=\'img/bee.png\'');
    expect(page).not.toContain('hill.png');
  });

  test.each([
    ['img', 'b.png', 'already'],
    ['img', 'B.PNG', 'already'],
    ['img', 'B.png', 'already'],
    ['img', '../up.png', 'another folder'],
    ['../outside', 'a.png', 'another folder'],
    ['img', 'a/b.png', undefined],
    ['img', '.hidden.png', 'dot'],
    ['img', 'x.jpg', 'extension'],
    ['index.html', 'x.png', 'is a file'],
    ['img', `${'n'.repeat(300)}.png`, 'too long'],
    ['img', 'a\u0000b.png', 'control'],
  ])('to %s / %s: %s', async (folder, name, why) => {
    const root = await smallSite();
    const site = await openSite(root);
    const before = await treeOf(root);
    const proposal = await proposeAddress(site, site.items.atPath('img/IMG_1234.png')!.id, folder, name);
    if (why === undefined) expect(proposal.plan.clashes).toEqual([]);
    else {
      expect(proposal.plan.clashes.map((clash) => clash.why).join(' ')).toContain(why);
      await expect(applyProposal(site, proposal, 1)).rejects.toMatchObject({ code: 'clash' });
    }
    expect(await treeOf(root)).toEqual(before);
  });

  test('when the site moved on after the plan, nothing is written and the files are named', async () => {
    const root = await smallSite();
    const site = await openSite(root);
    const proposal = await proposeAddress(site, site.items.atPath('img/IMG_1234.png')!.id, 'img', 'hill.png');
    await writeFile(join(root, 'sub/page.html'), 'edited by someone else <img src="../img/IMG_1234.png">');
    const before = await treeOf(root);
    await expect(applyProposal(site, proposal, 1)).rejects.toMatchObject({
      code: 'moved-on',
      details: ['sub/page.html'],
    });
    expect(await treeOf(root)).toEqual(before);
  });

  test('a case-only rename works', async () => {
    const root = await smallSite();
    const site = await openSite(root);
    const proposal = await proposeAddress(
      site,
      site.items.atPath('img/IMG_1234.png')!.id,
      'img',
      'img_1234.png',
    );
    expect(proposal.plan.clashes).toEqual([]);
    await applyProposal(site, proposal, 1);
    expect(site.items.atPath('img/img_1234.png')).toMatchObject({ placements: 7 });
  });

  test('a rename and a rename back leave no chain of redirects', async () => {
    const root = await smallSite();
    const site = await openSite(root);
    const id = site.items.atPath('img/c.png')!.id;
    for (const name of ['d.png', 'e.png', 'c.png'])
      await applyProposal(site, await proposeAddress(site, id, 'img', name), 1);
    expect(await readFile(join(root, 'iconomos-redirects.csv'), 'utf8')).toBe(
      'from,to,status\r\n/img/d.png,/img/c.png,301\r\n/img/e.png,/img/c.png,301\r\n',
    );
  });

  test('a mention that will go stale is named, and not rewritten', async () => {
    const root = await smallSite();
    const site = await openSite(root);
    const proposal = await proposeAddress(
      site,
      site.items.atPath('img/mentioned.png')!.id,
      'img',
      'other.png',
    );
    expect(proposal.plan.warnings.join()).toContain('js/app.js”, line 1');
    await applyProposal(site, proposal, 1);
    expect(await readFile(join(root, 'js/app.js'), 'utf8')).toContain('mentioned.png');
  });
});

describe('never outside the site', () => {
  test('a folder that is a link is not written through', async () => {
    const root = await smallSite();
    const elsewhere = await siteFolder({ 'x.txt': 'mine' });
    await symlink(elsewhere, join(root, 'linked'));
    const site = await openSite(root);
    const proposal = await proposeAddress(site, site.items.atPath('img/c.png')!.id, 'linked', 'c.png');
    await expect(applyProposal(site, proposal, 1)).rejects.toMatchObject({ code: 'outside' });
    expect(Object.keys(await treeOf(elsewhere))).toEqual(['x.txt']);
    expect(site.items.atPath('img/c.png')).toBeDefined();
  });
});

describe('set aside and restore', () => {
  test('unused files leave the site, come back where they were, and undo is exact', async () => {
    const root = await smallSite();
    const site = await openSite(root);
    const before = await treeOf(root);
    const ids = ['img/unused.png', 'old/copy-of-b.png'].map((path) => site.items.atPath(path)!.id);
    const proposal = await proposeAside(site, ids);
    expect(proposal.plan.totals).toMatchObject({ items: 2 });
    const entry = await applyProposal(site, proposal, 1);
    expect(Object.keys(await treeOf(root))).not.toContain('img/unused.png');
    expect(site.items.get(ids[0]!)).toMatchObject({ state: 'aside', path: 'img/unused.png' });

    await applyProposal(site, await proposeRestore(site, [ids[0]!]), 1);
    expect((await treeOf(root))['img/unused.png']).toBe(before['img/unused.png']);
    await expect(applyProposal(site, await proposeUndo(site, entry), 1)).rejects.toMatchObject({
      code: 'clash',
    });
    await applyProposal(site, await proposeRestore(site, [ids[1]!]), 1);
    expect(await treeOf(root)).toEqual(before);
  });

  test('a placed item is never set aside; a mentioned one only with a warning', async () => {
    const site = await openSite(await smallSite());
    const placed = await proposeAside(site, [site.items.atPath('img/b.png')!.id]);
    expect(placed.plan.clashes[0]!.why).toContain('in use on a page');
    const mentioned = await proposeAside(site, [site.items.atPath('img/mentioned.png')!.id]);
    expect(mentioned.plan.clashes).toEqual([]);
    expect(mentioned.plan.warnings[0]).toContain('js/app.js');
  });

  test('a reference that someone adds between scan and plan is seen', async () => {
    const root = await smallSite();
    const site = await openSite(root);
    await writeFile(join(root, 'new.html'), '<img src="img/unused.png">');
    const plan = (await proposeAside(site, [site.items.atPath('img/unused.png')!.id])).plan;
    expect(plan.clashes).toHaveLength(1);
  });

  test('a taken address stands in the way of restoring, in words', async () => {
    const root = await smallSite();
    const site = await openSite(root);
    const id = site.items.atPath('img/unused.png')!.id;
    await applyProposal(site, await proposeAside(site, [id]), 1);
    await writeFile(join(root, 'img/Unused.png'), await picture(9));
    const { plan } = await proposeRestore(site, [id]);
    expect(plan.clashes[0]!.why).toContain('img/Unused.png');
  });

  test('undo of a restore is refused once a page shows the item', async () => {
    const root = await smallSite();
    const site = await openSite(root);
    const id = site.items.atPath('img/unused.png')!.id;
    await applyProposal(site, await proposeAside(site, [id]), 1);
    const entry = await applyProposal(site, await proposeRestore(site, [id]), 1);
    await writeFile(join(root, 'new.html'), '<img src="img/unused.png">');
    expect((await proposeUndo(site, entry)).plan.clashes[0]!.why).toContain('in use on a page');
  });
});

describe('words', () => {
  test('two people on one record: the second is told, nothing is overwritten', async () => {
    const site = await openSite(await smallSite());
    const item = site.items.atPath('img/b.png')!;
    await applyProposal(site, proposeWords(site, item.id, item.rowVersion, { alt: 'A bee' }), 1);
    await expect(proposeWords(site, item.id, item.rowVersion, { alt: 'A wasp' })).rejects.toMatchObject({
      code: 'stale-record',
    });
    expect(site.items.need(item.id).words.alt).toBe('A bee');
  });

  test('a plan that raced another is refused by the row version', async () => {
    const site = await openSite(await smallSite());
    const item = site.items.atPath('img/b.png')!;
    const first = proposeWords(site, item.id, item.rowVersion, { alt: 'A bee' });
    const second = proposeWords(site, item.id, item.rowVersion, { title: 'Bee' });
    await applyProposal(site, first, 1);
    await expect(applyProposal(site, second, 2)).rejects.toMatchObject({ code: 'stale-record' });
    expect(site.items.need(item.id).words).toMatchObject({ alt: 'A bee', title: '' });
  });

  test('undo brings words and tags back; words changed later stand in its way', async () => {
    const site = await openSite(await smallSite());
    const item = site.items.atPath('img/b.png')!;
    const entry = await applyProposal(
      site,
      proposeWords(site, item.id, 1, { alt: 'A bee', tags: ['Insects', 'insects ', 'garden'] }),
      1,
    );
    expect(site.items.need(item.id).words.tags).toEqual(['garden', 'Insects']);
    const later = await applyProposal(site, proposeWords(site, item.id, 2, { alt: 'Two bees' }), 2);
    const blocked = await proposeUndo(site, entry);
    expect(blocked.plan.clashes[0]!.why).toContain('Ben');
    expect(blocked.plan.warnings.join()).toContain('Undo that one first');
    await applyProposal(site, await proposeUndo(site, later), 1);
    await applyProposal(site, await proposeUndo(site, entry), 1);
    expect(site.items.need(item.id).words).toMatchObject({ alt: '', tags: [] });
  });
});

describe('changed by others', () => {
  test('a file moved outside keeps its record; one taken away keeps it too, as absent', async () => {
    const root = await smallSite();
    const site = await openSite(root);
    const item = site.items.atPath('img/unused.png')!;
    await applyProposal(site, proposeWords(site, item.id, 1, { alt: 'Kept' }), 1);
    await rename(join(root, 'img/unused.png'), join(root, 'img/elsewhere.png'));
    await site.scanner.scan();
    expect(site.items.atPath('img/elsewhere.png')).toMatchObject({ id: item.id, words: { alt: 'Kept' } });
    await rm(join(root, 'img/elsewhere.png'));
    await site.scanner.scan();
    expect(site.items.get(item.id)).toMatchObject({ state: 'absent', words: { alt: 'Kept' } });
  });

  test('what an older version of the reading code found is read anew', async () => {
    const root = await smallSite();
    const first = await openSite(root);
    first.db.exec(
      "update reader set version = 0; update file set reading = null where path = 'index.html'; delete from placement",
    );
    await first.close();
    const second = await openSite(root);
    expect(second.items.atPath('img/IMG_1234.png')).toMatchObject({ placements: 7 });
    expect(await second.scanner.scan()).toMatchObject({ changed: 0 });
  });

  test('a second start reads only what changed', async () => {
    const root = await smallSite();
    const first = await openSite(root);
    await first.close();
    await writeFile(join(root, 'sub/page.html'), '<img src="../img/unused.png">');
    const second = await openSite(root);
    expect(await second.scanner.scan()).toMatchObject({ changed: 0 });
    expect(second.items.atPath('img/unused.png')).toMatchObject({ use: 'placed' });
    await writeFile(join(root, 'sub/page.html'), '<p>nothing</p>');
    expect(await second.scanner.scan()).toMatchObject({ changed: 1, removed: 0 });
    expect(second.items.atPath('img/unused.png')).toMatchObject({ use: 'unused' });
  });
});
