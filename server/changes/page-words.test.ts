import { readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { afterEach, describe, expect, test } from 'vitest';
import { fromPage, inLine, isFileName } from '../../core/describe/in-line.ts';
import { allPlacementContexts, placementContextsOf } from '../describe/placement-contexts.ts';
import type { Site } from '../app/site.ts';
import { closeSites, openSite, picture, siteFolder, treeOf } from '../test/site.ts';
import { proposePageWords, type PlaceKey } from './page-words.ts';
import { applyProposal } from './apply.ts';
import type { Proposal } from './proposal.ts';
import { proposeCells, proposeOwnField, proposeWords } from './records.ts';
import { proposeUndo } from './undo.ts';

afterEach(closeSites);
const apply = (site: Site, proposal: Proposal | Promise<Proposal>) => applyProposal(site, proposal, 1);
const idOf = (site: Site, path: string) => site.items.atPath(path)!.id;
const describeIt = async (
  site: Site,
  path: string,
  words: { alt?: string; title?: string; decorative?: boolean },
) => apply(site, proposeWords(site, idOf(site, path), site.items.atPath(path)!.rowVersion, words));
async function places(site: Site): Promise<PlaceKey[]> {
  const found: PlaceKey[] = [];
  await allPlacementContexts(site, undefined, (page, contexts) =>
    found.push(...contexts.map(({ start }) => ({ page, start }))),
  );
  return found;
}
const site = async () =>
  openSite(
    await siteFolder({
      'index.html':
        '<title>Home</title><h2>Night</h2>\n<img src="a.png"><a href="x.html"><img src=a.png alt=old></a>\n<a href="b.pdf" title="b.pdf">b.pdf</a>',
      'notes.md': '# Notes\n\n![](a.png) and [b.pdf](b.pdf)\n',
      'x.html': '<title>Visit us</title>',
      'a.png': await picture(1),
      'b.pdf': '%PDF-1.4\n',
    }),
  );

describe('words on pages', () => {
  test('are known with their surroundings and what their link leads to', async () => {
    const opened = await site();
    const { contexts } = await placementContextsOf(opened, opened.items.atPath('a.png')!);
    expect(contexts.map((one) => [one.page, one.alt, one.heading, one.link?.targetTitle ?? null])).toEqual([
      ['index.html', null, 'Night', null],
      ['index.html', 'old', 'Night', 'Visit us'],
      ['notes.md', '', 'Notes', null],
    ]);
  });

  test('follow the records: only the words change, file names give way to titles; undone to the byte', async () => {
    const one = await site();
    await describeIt(one, 'a.png', { alt: 'The “dome” & moor' });
    await describeIt(one, 'b.pdf', { title: 'Sky chart' });
    const before = await treeOf(one.folder.root);
    const proposal = await proposePageWords(one, await places(one));
    expect(proposal.plan).toMatchObject({ clashes: [], totals: { items: 2, pages: 2, spans: 6 } });
    const entry = await apply(one, proposal);
    expect(await readFile(join(one.folder.root, 'index.html'), 'utf8')).toBe(
      '<title>Home</title><h2>Night</h2>\n<img src="a.png" alt="The “dome” &amp; moor"><a href="x.html"><img src=a.png alt="The “dome” &amp; moor"></a>\n<a href="b.pdf" title="Sky chart">Sky chart</a>',
    );
    expect(await readFile(join(one.folder.root, 'notes.md'), 'utf8')).toBe(
      '# Notes\n\n![The “dome” & moor](a.png) and [Sky chart](b.pdf)\n',
    );
    expect((await proposePageWords(one, await places(one))).plan.files).toEqual([]);
    await apply(one, await proposeUndo(one, entry));
    expect(await treeOf(one.folder.root)).toEqual(before);
  });

  test('links that tell format and size of a file say what it is now, each in its own way', async () => {
    const one = await openSite(
      await siteFolder({
        'index.html':
          '<a href="b.pdf">Chart (DOCX, 2 MB)</a> <a href="b.pdf">Chart (PDF, 9 B)</a> <a href="b.pdf">Chart</a>',
        'notes.md': '[Chart (pdf 1,5 kB)](b.pdf)\n',
        'b.pdf': '%PDF-1.4\n',
      }),
    );
    const before = await treeOf(one.folder.root);
    const entry = await apply(one, proposePageWords(one, await places(one)));
    expect(await readFile(join(one.folder.root, 'index.html'), 'utf8')).toBe(
      '<a href="b.pdf">Chart (PDF, 9 B)</a> <a href="b.pdf">Chart (PDF, 9 B)</a> <a href="b.pdf">Chart</a>',
    );
    expect(await readFile(join(one.folder.root, 'notes.md'), 'utf8')).toBe('[Chart (pdf 9 B)](b.pdf)\n');
    await apply(one, await proposeUndo(one, entry));
    expect(await treeOf(one.folder.root)).toEqual(before);
  });

  test('a page that has changed since is told; nothing is written by guess', async () => {
    const one = await site();
    await describeIt(one, 'a.png', { alt: 'New' });
    const known = await places(one);
    await writeFile(join(one.folder.root, 'index.html'), '<title>Home</title> <p>More</p><img src="a.png">');
    await expect(proposePageWords(one, known)).rejects.toThrow('page has changed');
  });
});

describe('cells', () => {
  test('each record its own words; one that changed since stands in the way', async () => {
    const one = await site();
    const [a, b] = [one.items.atPath('a.png')!, one.items.atPath('b.pdf')!];
    await describeIt(one, 'b.pdf', { title: 'By Ottilie' });
    const proposal = await proposeCells(one, [
      { itemId: a.id, rowVersion: a.rowVersion, set: { alt: ' A dome ', tags: ['x', 'X'] } },
      { itemId: b.id, rowVersion: b.rowVersion, set: { title: 'Mine' } },
    ]);
    expect(proposal.plan.records).toHaveLength(1);
    expect(proposal.plan.records[0]!.after).toEqual({ alt: 'A dome', tags: ['x'] });
    expect(proposal.plan.clashes).toEqual([
      { path: 'b.pdf', why: expect.stringContaining('Ottilie has changed') },
    ]);
  });

  test('own fields: defined, checked by their kind, kept one by one, found by their words', async () => {
    const one = await site();
    await apply(one, proposeOwnField(one, 'Season', { kind: 'choice', choices: ['summer', 'winter'] }));
    await apply(one, proposeOwnField(one, 'Shelf', { kind: 'number', choices: [] }));
    const id = idOf(one, 'a.png');
    const wrong = await proposeCells(one, [
      { itemId: id, set: { own: { Season: 'spring', Shelf: 'x', Other: '1' } } },
    ]);
    expect(wrong.plan.clashes).toHaveLength(3);
    await apply(one, proposeCells(one, [{ itemId: id, set: { own: { Season: 'winter' } } }]));
    await apply(one, proposeCells(one, [{ itemId: id, set: { own: { Shelf: '12' } } }]));
    expect(one.items.need(id).words.own).toEqual({ Season: 'winter', Shelf: '12' });
    const entry = await apply(one, proposeCells(one, [{ itemId: id, set: { own: { Season: '' } } }]));
    expect(one.items.need(id).words.own).toEqual({ Shelf: '12' });
    await apply(one, await proposeUndo(one, entry));
    expect(one.items.need(id).words.own).toEqual({ Season: 'winter', Shelf: '12' });
  });
});

describe('in line', () => {
  const page = { takesAlt: true, alt: 'Page', title: null, linkText: null };
  const words = { alt: 'Record', decorative: false, title: 'Title' };
  test.each([
    [page, words, { alt: 'Record' }, { alt: 'Page', decorative: false }],
    [{ ...page, alt: 'Record' }, words, undefined, undefined],
    [{ ...page, alt: null }, words, { alt: 'Record' }, undefined],
    [page, { ...words, alt: '' }, undefined, { alt: 'Page', decorative: false }],
    [page, { ...words, alt: '', decorative: true }, { alt: '' }, { alt: 'Page', decorative: false }],
    [{ ...page, alt: '' }, { ...words, alt: '' }, undefined, { decorative: true }],
    [{ ...page, alt: 'IMG_2041.JPG' }, { ...words, alt: '' }, undefined, undefined],
    [{ ...page, takesAlt: false, alt: null, title: 'chart.pdf' }, words, { title: 'Title' }, undefined],
    [{ ...page, takesAlt: false, alt: null, title: 'A chart' }, words, undefined, undefined],
    [{ ...page, takesAlt: false, alt: null, linkText: 'IMG_2041' }, words, { linkText: 'Title' }, undefined],
  ])('%j with %j', (given, record, toPage, toRecord) => {
    expect(inLine(given, record)).toEqual(toPage);
    expect(fromPage(given, record)).toEqual(toRecord);
  });
  test.each([
    ['a.pdf', true],
    ['IMG_1234', true],
    ['Read a.pdf now', false],
    ['Dome', false],
    ['v1.2', false],
  ])('%s is a file name: %s', (text, is) => expect(isFileName(text)).toBe(is));
});
