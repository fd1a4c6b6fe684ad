import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import sharp from 'sharp';
import { afterEach, expect, test } from 'vitest';
import { metadataOf } from '../../core/describe/metadata.ts';
import { NO_WORDS } from '../../core/describe/fields.ts';
import { closeSites, openSite, picture, siteFolder, treeOf } from '../test/site.ts';
import { proposeEmbed } from './write-metadata.ts';
import { applyProposal } from './apply.ts';
import { proposeCells } from './records.ts';
import { proposeUndo } from './undo.ts';

afterEach(closeSites);
const WORDS = {
  alt: 'Größe – “the dome” & 星',
  longDescription: 'All of it',
  title: 'Dome',
  caption: '-A caption with = signs',
  description: 'Inside &amp; out, &#65; &lt;b&gt;',
  creator: 'Ines',
  credit: 'CHO',
  copyright: '© Corvane Hill',
  source: 'Archive',
  licence: 'CC BY 4.0',
  licenceEnd: '2027-01-31',
  taken: '2026-08-12T23:14:05',
  place: 'Corvane Hill',
  language: 'en',
  tags: ['dome', 'open night', 'R&amp;D'],
};

test('the words go into the files without a new encoding, and are read again as they were; undone to the byte', async () => {
  const files = {
    'a.jpg': await picture(1, 'jpeg', 64),
    'b.png': await picture(2),
    'c.svg': '<svg xmlns="http://www.w3.org/2000/svg"/>',
  };
  const site = await openSite(await siteFolder(files));
  const { root } = site.folder;
  const ids = ['a.jpg', 'b.png', 'c.svg'].map((path) => site.items.atPath(path)!.id);
  await applyProposal(
    site,
    proposeCells(
      site,
      ids.map((itemId) => ({ itemId, set: WORDS })),
    ),
    1,
  );
  const before = await treeOf(root);
  const proposal = await proposeEmbed(site, ids, 'file');
  expect(proposal.plan.files.map((step) => step.do === 'write' && step.path)).toEqual(['a.jpg', 'b.png']);
  expect(proposal.plan.warnings[0]).toContain('c.svg');
  const entry = await applyProposal(site, proposal, 1);
  for (const name of ['a.jpg', 'b.png'] as const) {
    const { words } = await site.metadata.read(join(root, name));
    expect(words, name).toEqual(WORDS);
    const pixels = (input: Buffer) => sharp(input).raw().toBuffer();
    expect(await pixels(await readFile(join(root, name)))).toEqual(await pixels(files[name]));
  }
  expect(site.items.need(ids[0]!)).toMatchObject({ path: 'a.jpg', words: { ...NO_WORDS, ...WORDS } });
  expect((await proposeEmbed(site, [ids[1]!], 'file')).plan.warnings).toEqual([]);
  await applyProposal(site, await proposeUndo(site, entry), 1);
  expect(await treeOf(root)).toEqual(before);
}, 60_000);

test('sidecars hold the same words, beside files of any format', async () => {
  const site = await openSite(await siteFolder({ 'c.svg': '<svg xmlns="http://www.w3.org/2000/svg"/>' }));
  const { id } = site.items.atPath('c.svg')!;
  await applyProposal(site, proposeCells(site, [{ itemId: id, set: WORDS }]), 1);
  await applyProposal(site, await proposeEmbed(site, [id], 'sidecar'), 1);
  const file = join(site.folder.root, 'c.svg.xmp');
  expect(await readFile(file, 'utf8')).toContain('http://iptc.org/std/Iptc4xmpCore');
  expect((await site.metadata.read(file)).words).toEqual(WORDS);
  expect(metadataOf({}).words).toEqual({});
}, 60_000);
