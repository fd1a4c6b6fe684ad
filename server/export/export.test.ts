import { execFile } from 'node:child_process';
import { readdir, readFile, writeFile } from 'node:fs/promises';
import { basename, dirname, join } from 'node:path';
import { promisify } from 'node:util';
import { parse } from 'csv-parse/sync';
import { strFromU8, unzipSync } from 'fflate';
import { getDocument } from 'pdfjs-dist/legacy/build/pdf.mjs';
import sharp from 'sharp';
import { afterEach, expect, test } from 'vitest';
import { TREATMENTS } from '../../core/picture/recipe/treatments.ts';
import { bringArchive } from '../archive/bring.ts';
import { proposeAside } from '../changes/files.ts';
import { applyProposal } from '../changes/apply.ts';
import { proposeCells, proposeOwnField, proposeRecords, proposeWords } from '../changes/records.ts';
import { apply, idOf, undo } from '../test/plans.ts';
import { closeSites, openSite, picture, smallSite, treeOf } from '../test/site.ts';
import { ExportOptions } from '../../api/site.ts';
import { Exports } from './export.ts';
import { itemsCsv } from './items-table.ts';
import { writeZip } from './zip.ts';

afterEach(closeSites);

test('the table holds every record field and the pages that show each item; formulas are text, line breaks survive', async () => {
  const site = await openSite(await smallSite());
  const item = site.items.atPath('img/IMG_1234.png')!;
  const change = {
    alt: '=HYPERLINK("x")',
    title: 'A "hill", at dusk',
    caption: 'two\nlines',
    tags: ['Moor', 'dome'],
    licenceEnd: '2026-12-31',
    creator: 'Ünal',
  };
  await applyProposal(site, proposeWords(site, item.id, 1, change), 2);
  const field = { kind: 'choice', choices: ['north', 'south'] };
  await applyProposal(site, proposeOwnField(site, 'Wing', field), 2);
  await applyProposal(site, proposeCells(site, [{ itemId: item.id, set: { own: { Wing: 'north' } } }]), 2);
  await applyProposal(site, proposeRecords(site, [item.id], { owner: 'Ottilie' }), 2);
  const csv = await itemsCsv(
    site,
    [site.items.need(item.id), site.items.atPath('img/b.png')!],
    ['a.png', 'img/b.png'],
  );
  expect(csv.split('\r\n')[0]!.split(',')).toHaveLength(42);
  const [row, size] = parse(csv, { columns: true }) as Record<string, string>[];
  // Offered by one place with another one, and as wide as that: another image.
  expect(size).toMatchObject({ size_of: '' });
  expect(row).toMatchObject({
    path: 'img/IMG_1234.png',
    address: '/img/IMG_1234.png',
    alt: '\'=HYPERLINK("x")',
    title: 'A "hill", at dusk',
    caption: 'two\nlines',
    tags: 'dome; Moor',
    licence_end: '2026-12-31',
    creator: 'Ünal',
    use: 'placed',
    placements: '7',
    pages: 'css/s.css; index.html; sub/page.html',
    described: 'yes',
    named: 'no',
    filed: 'yes',
    changed_by: 'Ben',
    width: '24',
    owner: 'Ottilie',
    focal_point: '',
    'own: Wing': 'north',
  });
});

test('an export of all leaves out what is set aside, changes nothing, and is kept for download', async () => {
  const root = await smallSite();
  await writeFile(join(root, 'items.csv'), 'mine');
  const site = await openSite(root);
  await applyProposal(site, await proposeAside(site, [site.items.atPath('img/unused.png')!.id]), 1);
  const before = await treeOf(root);
  const exports = new Exports(site);
  const made = await exports.make('all', 2);
  expect(made).toMatchObject({ items: 6, person: 'Ben', title: 'All items' });
  const names = (await readFile(exports.file(made.id))).toString('latin1');
  expect(names).toContain('items (from the site).csv');
  expect(names).not.toContain('img/unused.png');
  expect(await treeOf(root)).toEqual(before);
  expect(exports.list()).toHaveLength(1);
});

test('nothing to export, or a file that vanished: a sentence, and no half archive', async () => {
  const site = await openSite(await smallSite());
  const exports = new Exports(site);
  const unused = site.items.atPath('img/unused.png')!.id;
  await applyProposal(site, await proposeAside(site, [unused]), 1);
  await expect(exports.make([unused], 1)).rejects.toMatchObject({ code: 'bad-request' });
  await expect(exports.make([4711], 1)).rejects.toMatchObject({ code: 'not-found' });
  expect(() => exports.file(99)).toThrowError(expect.objectContaining({ code: 'not-found' }));
  expect(exports.list()).toEqual([]);
});

test('names of every kind stay what they are in the archive', async () => {
  const root = await smallSite();
  await writeFile(join(root, 'img', 'größe & höhe.png'), await picture(40));
  const site = await openSite(root);
  const exports = new Exports(site);
  const made = await exports.make([site.items.atPath('img/größe & höhe.png')!.id], 1);
  expect((await readFile(exports.file(made.id))).includes(Buffer.from('img/größe & höhe.png', 'utf8'))).toBe(
    true,
  );
});

test('names that others gave and we never would: listed, shown, exported under a safe name, repaired, and put back', async () => {
  const root = await smallSite();
  const odd = ['a\\b.png', 'line\nbreak.png', 'C:con.png', ' .png', 'nul.png'];
  for (const [at, name] of odd.entries())
    await writeFile(join(root, 'img', name), await picture(50 + at, 'png', 30 + at));
  const site = await openSite(root);
  const before = await treeOf(root);
  const ids = odd.map((name) => idOf(site, `img/${name}`));
  await site.analyser.analyseAll();
  for (const id of ids)
    expect(site.contents.get(site.items.need(id).sha256)).toMatchObject({ preview: true });
  const exports = new Exports(site);
  const made = await exports.make(ids, 1);
  const unzipped = unzipSync(await readFile(exports.file(made.id)));
  const packed = Object.keys(unzipped);
  // The table says which file of the archive each row is about.
  const csv = strFromU8(unzipped['items.csv']!);
  for (const file of packed) if (file !== 'items.csv') expect(csv).toContain(`,${file},`);
  expect(packed).toEqual(
    expect.arrayContaining([
      'img/a-b.png',
      'img/linebreak.png',
      'img/C-con.png',
      'img/nul-file.png',
      'items.csv',
    ]),
  );
  expect(packed).toHaveLength(odd.length + 1);
  const names = ids.map((itemId, at) => ({ itemId, name: `repaired-${at}.png` }));
  const entry = await apply(site, { kind: 'names', names });
  expect(Object.keys(await treeOf(root))).toEqual(
    expect.arrayContaining(odd.map((_, at) => `img/repaired-${at}.png`)),
  );
  await undo(site, entry);
  const { 'iconomos-redirects.csv': _redirects, ...after } = await treeOf(root);
  expect(after).toEqual(before);
});

test('an archive is told file by file; one that is not there, or stopping it, ends it with the reason', async () => {
  const root = await smallSite();
  const file = join(root, 'img', 'b.png');
  const entries = Array.from({ length: 450 }, (_, at) => ({
    file,
    name: `f${at}.png`,
    compress: at % 2 === 0,
  }));
  const texts = () => Promise.resolve([{ name: 'items.csv', text: 'id\r\n' }]);
  const target = join(root, 'x.zip');
  const told: number[] = [];
  await writeZip(target, entries, texts, (done) => told.push(done), new AbortController().signal);
  expect(told).toEqual(entries.map((_, at) => at + 1));
  const unzipped = unzipSync(await readFile(target));
  expect(Object.keys(unzipped)).toHaveLength(451);
  expect(Buffer.from(unzipped['f449.png']!).equals(await readFile(file))).toBe(true);
  const gone = [...entries.slice(0, 3), { file: join(root, 'gone.png'), name: 'g.png', compress: false }];
  const never = new AbortController().signal;
  await expect(writeZip(target, gone, texts, () => undefined, never)).rejects.toMatchObject({
    code: 'ENOENT',
  });
  const stopping = new AbortController();
  const reason = new Error('stopped');
  const stopped = writeZip(
    target,
    entries,
    texts,
    (done) => done === 210 && stopping.abort(reason),
    stopping.signal,
  );
  await expect(stopped).rejects.toBe(reason);
});

test('a contact sheet: images in rows with their names and words, tagged; too many are told', async () => {
  const root = await smallSite();
  await writeFile(join(root, 'img', 'notes.csv'), 'a,b\n');
  const site = await openSite(root);
  const b = site.items.atPath('img/b.png')!.id;
  const words = { alt: 'Dots', caption: 'Dots in spring', credit: 'Ilse', licence: 'CC BY 4.0' };
  await applyProposal(site, await proposeRecords(site, [b], { set: words }), 1);
  const before = await treeOf(root);
  const exports = new Exports(site);
  const made = await exports.make('all', 2, 'contact-sheet');
  expect(made).toMatchObject({ items: 7, form: 'contact-sheet' });
  const bytes = await readFile(exports.file(made.id));
  expect(bytes.length).toBe(made.bytes);
  const pdf = await getDocument({ data: new Uint8Array(bytes) }).promise;
  const page = await pdf.getPage(1);
  const said = (await page.getTextContent()).items
    .map((one) => ('str' in one ? one.str : ''))
    .join(' ')
    .replace(/ +/g, ' ');
  for (const one of ['b.png', 'img, 24 × 16', 'Dots in spring', 'Ilse', 'CC BY 4.0', 'notes.csv'])
    expect(said).toContain(one);
  const tree = JSON.stringify(await page.getStructTree());
  expect(tree.match(/"role":"Figure"/g)).toHaveLength(7);
  expect(tree).toContain('Dots');
  expect(await treeOf(root)).toEqual(before);
});

test('files flat, words in the copies or beside them, JSON Lines: nothing of the site changes', async () => {
  const root = await smallSite();
  await writeFile(join(root, 'old/c.png'), await picture(44));
  await writeFile(join(root, 'img/drawing.svg'), '<svg xmlns="http://www.w3.org/2000/svg"/>');
  const site = await openSite(root);
  const words = { alt: 'A hill, “blue”', tags: ['moon', 'sky'] };
  for (const path of ['img/c.png', 'img/drawing.svg'])
    await apply(site, { kind: 'cells', cells: [{ itemId: idOf(site, path), set: words }] });
  const before = await treeOf(root);
  const ids = ['img/c.png', 'old/c.png', 'img/drawing.svg'].map((path) => idOf(site, path));
  const exports = new Exports(site);
  const exported = async (options: Partial<ExportOptions>) => {
    const all = ExportOptions.parse(options);
    return unzipSync(await readFile(exports.file((await exports.make(ids, 1, 'files', all)).id)));
  };
  const inside = await exported({ folders: 'flat', table: 'jsonl', words: 'inside' });
  expect(Object.keys(inside).sort()).toEqual([
    'c-2.png',
    'c.png',
    'drawing.svg',
    'drawing.svg.xmp',
    'items.jsonl',
  ]);
  await writeFile(join(dirname(root), 'copy.png'), inside['c.png']!);
  expect((await site.metadata.read(join(dirname(root), 'copy.png'))).words).toMatchObject(words);
  const pixels = (bytes: Uint8Array) => sharp(bytes).raw().toBuffer();
  expect(await pixels(inside['c.png']!)).toEqual(await pixels(await readFile(join(root, 'img/c.png'))));
  const [first] = strFromU8(inside['items.jsonl']!).split('\n');
  expect(JSON.parse(first!)).toMatchObject({
    path: 'img/c.png',
    file: 'c.png',
    alt: 'A hill, “blue”',
    tags: ['moon', 'sky'],
    pages: ['css/s.css'],
    described: true,
    width: 24,
  });
  const beside = await exported({ folders: 'kept', table: 'none', words: 'beside' });
  expect(Object.keys(beside).sort()).toEqual(
    ['img/c.png', 'img/drawing.svg', 'old/c.png'].flatMap((path) => [path, `${path}.xmp`]).sort(),
  );
  expect(strFromU8(beside['img/c.png.xmp']!)).toContain('A hill, “blue”');
  expect(await treeOf(root)).toEqual(before);
  // What was made for it is gone.
  expect(await readdir(site.data.arrivals)).toEqual([]);
});

test('images through a treatment: each in its new format and size, what is no image as it is, sizes not beside them', async () => {
  const root = await smallSite();
  await writeFile(join(root, 'img/wide.png'), await picture(45, 'png', 3000));
  await writeFile(join(root, 'img/wide.jpg'), await picture(46, 'jpeg', 3000));
  await writeFile(join(root, 'img/notes.pdf'), '%PDF-1.4\n%%EOF\n');
  const site = await openSite(root);
  const before = await treeOf(root);
  const paths = ['img/wide.png', 'img/wide.jpg', 'img/notes.pdf'];
  for (const path of paths.slice(0, 1))
    await apply(site, { kind: 'cells', cells: [{ itemId: idOf(site, path), set: { alt: 'Far and wide' } }] });
  const exports = new Exports(site);
  const treatment = TREATMENTS.find(({ name }) => name === 'Press photo')!;
  const options = ExportOptions.parse({ treatment, folders: 'flat', words: 'inside' });
  const ids = paths.map((path) => idOf(site, path));
  const made = await exports.make(ids, 1, 'files', options);
  const files = unzipSync(await readFile(exports.file(made.id)));
  expect(Object.keys(files).sort()).toEqual([
    'items.csv',
    'notes.pdf',
    'notes.pdf.xmp',
    'wide-2.jpg',
    'wide.jpg',
  ]);
  for (const name of ['wide.jpg', 'wide-2.jpg'])
    expect(await sharp(files[name]!).metadata()).toMatchObject({ format: 'jpeg', width: 2000 });
  expect(Buffer.from(files['notes.pdf']!)).toEqual(await readFile(join(root, 'img/notes.pdf')));
  const rows = parse(Buffer.from(files['items.csv']!), { columns: true }) as Record<string, string>[];
  const [row] = rows.filter(({ path }) => path === 'img/wide.png');
  await writeFile(join(dirname(root), 'copy.jpg'), files[row!['file']!]!);
  expect((await site.metadata.read(join(dirname(root), 'copy.jpg'))).words.alt).toBe('Far and wide');
  expect(await treeOf(root)).toEqual(before);
  expect(await readdir(site.data.arrivals)).toEqual([]);
  expect(site.planBytes.size.total).toBe(0);
});

test('the whole library goes out as a ZIP, which other programs can read, and comes in again', async () => {
  const root = await smallSite();
  const site = await openSite(root);
  await apply(site, { kind: 'set-aside', itemIds: [idOf(site, 'img/unused.png')] });
  const exports = new Exports(site);
  const made = await exports.make('all', 1, 'archive');
  expect(made).toMatchObject({ form: 'archive', title: 'The whole library', items: 6 });
  const file = exports.file(made.id);
  expect(await readdir(dirname(file))).toEqual([basename(file)]);
  const { stdout } = await promisify(execFile)('unzip', ['-tq', file]);
  expect(stdout).toContain('No errors detected');
  const names = (await promisify(execFile)('unzip', ['-Z1', file])).stdout.split('\n');
  expect(new Set(names.filter(Boolean).map((name) => name.split('/')[0])).size).toBe(1);

  const other = join(dirname(root), 'other');
  const data = join(dirname(root), 'other-data');
  expect((await bringArchive(file, { root: other, data })).faults).toEqual([]);
  expect(await treeOf(other)).toEqual(await treeOf(root));
  expect((await readdir(dirname(other))).filter((name) => name.includes('unpacked'))).toEqual([]);
  const again = await openSite(other, { data });
  expect(again.rows.list(9).map(({ title }) => title)).toEqual(['Set aside “unused.png”']);

  await expect(exports.make([idOf(site, 'img/b.png')], 1, 'archive')).rejects.toThrow(
    'holds the whole library',
  );
  // An image lies in it as it is.
  const spoilt = await readFile(file);
  const image = spoilt.indexOf(Buffer.from('\x89PNG', 'latin1'));
  spoilt.fill(0x20, image + 20, image + 60);
  await writeFile(join(dirname(root), 'spoilt.zip'), spoilt);
  const third = { root: join(dirname(root), 'third'), data: join(dirname(root), 'third-data') };
  const { faults } = await bringArchive(join(dirname(root), 'spoilt.zip'), third);
  expect(faults.map(({ says }) => says)).toEqual([
    'It can’t be unpacked: Its checksum is wrong: it is damaged.',
    'Its bytes aren’t those of the list (sha256, sha512).',
    expect.stringMatching(/^It speaks of /),
  ]);
  await writeFile(join(dirname(root), 'none.zip'), 'no ZIP');
  const none = bringArchive(join(dirname(root), 'none.zip'), {
    root: `${third.root}-2`,
    data: `${third.data}-2`,
  });
  await expect(none).rejects.toThrow('isn’t a ZIP that can be read');
});
