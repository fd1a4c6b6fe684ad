import { writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { afterEach, describe, expect, test } from 'vitest';
import { closeSites, openSite, smallSite, treeOf } from '../test/site.ts';
import { proposeMove } from './addresses.ts';
import { proposeFolder } from './folders.ts';
import { applyProposal } from './apply.ts';
import { proposeRecords, proposeTag } from './records.ts';
import { proposeUndo } from './undo.ts';

afterEach(closeSites);

describe('changes of many records', () => {
  test('tags are added and taken off, texts set, a person named: one entry, undone as one', async () => {
    const site = await openSite(await smallSite());
    const ids = ['img/b.png', 'img/c.png', 'img/unused.png'].map((path) => site.items.atPath(path)!.id);
    await applyProposal(site, proposeRecords(site, [ids[0]!], { addTags: ['Moon'] }), 1);
    const change = { addTags: ['sky'], removeTags: ['moon'], set: { credit: 'Hill' }, owner: 'Ben' };
    const proposal = await proposeRecords(site, ids, change);
    expect(proposal.plan.title).toBe(
      'Tag “sky”, remove the tag “moon”, set credit of, assign to Ben: 3 items',
    );
    const entry = await applyProposal(site, proposal, 1);
    for (const id of ids)
      expect(site.items.need(id)).toMatchObject({ owner: 'Ben', words: { tags: ['sky'], credit: 'Hill' } });
    // What is so already is no change.
    expect((await proposeRecords(site, ids, change)).plan.records).toEqual([]);

    await applyProposal(site, await proposeUndo(site, entry), 1);
    expect(site.items.some(ids).map((item) => [item.owner, item.words.credit, item.words.tags])).toEqual([
      [null, '', ['Moon']],
      [null, '', []],
      [null, '', []],
    ]);
    expect(site.tags.counts()).toEqual([{ name: 'Moon', items: 1 }]);
  });

  test('a record that someone changed meanwhile refuses the whole', async () => {
    const site = await openSite(await smallSite());
    const ids = ['img/b.png', 'img/c.png'].map((path) => site.items.atPath(path)!.id);
    const proposal = await proposeRecords(site, ids, { addTags: ['sky'] });
    await applyProposal(site, proposeRecords(site, [ids[1]!], { set: { title: 'C' } }), 2);
    await expect(applyProposal(site, proposal, 1)).rejects.toMatchObject({ code: 'stale-record' });
    expect(site.tags.counts()).toEqual([]);
  });

  test('a tag is renamed, merged into another, and taken off', async () => {
    const site = await openSite(await smallSite());
    const [b, c] = ['img/b.png', 'img/c.png'].map((path) => site.items.atPath(path)!.id) as [number, number];
    await applyProposal(site, proposeRecords(site, [b], { addTags: ['telescope'] }), 1);
    await applyProposal(site, proposeRecords(site, [b, c], { addTags: ['telescopes'] }), 1);
    const merge = await proposeTag(site, 'telescopes', 'Telescope');
    expect(merge.plan.title).toContain('Merge the tag “telescopes” into “telescope”');
    const entry = await applyProposal(site, merge, 1);
    expect(site.tags.counts()).toMatchObject([{ items: 2 }]);
    await applyProposal(site, await proposeUndo(site, entry), 1);
    expect(site.tags.counts()).toEqual([
      { name: 'telescope', items: 1 },
      { name: 'telescopes', items: 2 },
    ]);
    await applyProposal(site, proposeTag(site, 'telescopes', null), 1);
    expect(site.tags.counts()).toEqual([{ name: 'telescope', items: 1 }]);
    await applyProposal(site, proposeTag(site, 'telescope', 'Telescope'), 1);
    expect(site.tags.counts()).toEqual([{ name: 'Telescope', items: 1 }]);
  });
});

describe('moving many', () => {
  test('to another folder: pages follow, undo restores the tree', async () => {
    const site = await openSite(await smallSite());
    const before = await treeOf(site.folder.root);
    const ids = ['img/IMG_1234.png', 'img/c.png'].map((path) => site.items.atPath(path)!.id);
    const proposal = await proposeMove(site, ids, 'pictures');
    expect(proposal.plan).toMatchObject({ kind: 'move', title: 'Move 2 items to “pictures”', clashes: [] });
    const entry = await applyProposal(site, proposal, 1);
    const css = await site.folder.read('css/s.css');
    expect(css.toString()).toContain('../pictures/IMG_1234.png');
    await applyProposal(site, await proposeUndo(site, entry), 1);
    expect(await treeOf(site.folder.root)).toEqual(before);
  });

  test('two of one name into one folder is a clash, told before anything moves', async () => {
    const site = await openSite(await smallSite());
    await writeFile(join(site.folder.root, 'b.png'), await site.folder.read('img/c.png'));
    await site.scanner.scan();
    const ids = ['b.png', 'img/b.png'].map((path) => site.items.atPath(path)!.id);
    expect((await proposeMove(site, ids, 'all')).plan.clashes).toHaveLength(1);
  });

  test('a folder goes to another place whole, never into itself, and leaves nothing', async () => {
    const site = await openSite(await smallSite());
    const before = await treeOf(site.folder.root);
    await expect(proposeFolder(site, 'img', 'img/deeper')).rejects.toThrow('moved into itself');
    await expect(proposeFolder(site, 'none', 'some')).rejects.toThrow('There is no folder “none”');
    const entry = await applyProposal(site, await proposeFolder(site, 'img', 'media/img'), 1);
    const after = Object.keys(await treeOf(site.folder.root));
    expect([after.includes('img/'), after.includes('media/img/b.png')]).toEqual([false, true]);
    await applyProposal(site, await proposeUndo(site, entry), 1);
    expect(await treeOf(site.folder.root)).toEqual(before);
  });
});
