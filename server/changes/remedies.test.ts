import { readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { PDFArray, PDFDocument, PDFName, PDFNumber, PDFRawStream, PDFString, StandardFonts } from 'pdf-lib';
import sharp from 'sharp';
import { afterEach, expect, test } from 'vitest';
import { readPdf } from '../media/document.ts';
import { film, photograph, placedPhotograph } from '../test/media.ts';
import { closeSites, openSite, siteFolder, treeOf } from '../test/site.ts';
import { filmSample, proposeLighter, proposeRightEndings, proposeWithoutPlace } from './remedies.ts';
import { applyProposal } from './apply.ts';
import { runAsJob } from './proposal.ts';
import { proposeOffered } from './sizes.ts';
import { proposeUndo } from './undo.ts';
import { proposeKept } from './versions.ts';

afterEach(closeSites);

async function pdf(pictures: Buffer[], change: (document: PDFDocument) => void = () => undefined) {
  const document = await PDFDocument.create();
  const font = await document.embedFont(StandardFonts.Helvetica);
  for (const bytes of pictures) {
    const page = document.addPage([400, 300]);
    page.drawImage(await document.embedJpg(bytes), { x: 20, y: 40, width: 360, height: 240 });
    page.drawText('Open on every clear Friday', { x: 20, y: 15, size: 12, font });
  }
  change(document);
  return document.save();
}

test('PDFs: photographs get as many pixels as a screen shows, texts stay; undone to the byte', async () => {
  const root = await siteFolder({
    'index.html': '<title>x</title><a href="print.pdf">Print</a>',
    'print.pdf': await pdf([await photograph(2400, 1600), await photograph(1900, 1200, 'b-w')]),
    'press.pdf': await pdf([await photograph(1200, 800, 'cmyk')]),
    'signed.pdf': await pdf([await photograph(2000, 1000)], (document) => {
      const { context } = document;
      const range = PDFArray.withContext(context);
      for (const value of [0, 10, 20, 30]) range.push(PDFNumber.of(value));
      context.register(context.obj({ Type: 'Sig', ByteRange: range, Contents: PDFString.of('x') }));
    }),
    'torn.pdf': (await pdf([await photograph(600, 400)])).subarray(0, 900),
  });
  const site = await openSite(root);
  const id = (path: string) => site.items.atPath(path)!.id;
  const before = await treeOf(root);
  const proposal = await proposeLighter(site, ['print.pdf', 'press.pdf', 'signed.pdf', 'torn.pdf'].map(id));
  expect(proposal.plan.files.map((file) => file.do === 'write' && file.path)).toEqual(['print.pdf']);
  expect(proposal.plan.warnings).toEqual([
    '“press.pdf” is unchanged: it has no photographs to compress.',
    '“signed.pdf” is unchanged: it is signed, and a copy would lose the signature.',
    expect.stringContaining('“torn.pdf” is unchanged:'),
  ]);
  const entry = await applyProposal(site, proposal, 1);
  const made = await readFile(join(root, 'print.pdf'));
  const whole = site.items.atPath('print.pdf')!.bytes;
  expect(whole).toBe(made.length);
  expect(proposal.plan.totals.bytesFreed).toBeGreaterThan(2 * made.length);

  // What is in it is as large as a screen shows, and is drawn as before.
  const document = await PDFDocument.load(made);
  const sizes = document.context
    .enumerateIndirectObjects()
    .flatMap(([, one]) =>
      one instanceof PDFRawStream && one.dict.get(PDFName.of('Subtype')) === PDFName.of('Image')
        ? [['Width', 'Height', 'ColorSpace'].map((name) => one.dict.get(PDFName.of(name))!.toString())]
        : [],
    );
  expect(sizes.sort()).toEqual([
    ['1754', '1108', '/DeviceGray'],
    ['1754', '1169', '/DeviceRGB'],
  ]);
  const drawn = async () => (await readPdf(join(root, 'print.pdf'), 300)).picture!;
  const after = await drawn();
  await applyProposal(site, await proposeUndo(site, entry), 1);
  expect(await treeOf(root)).toEqual(before);
  const first = await drawn();
  expect([after.width, after.height]).toEqual([first.width, first.height]);
  let differs = 0;
  for (let at = 0; at < first.data.length; at++) differs += Math.abs(first.data[at]! - after.data[at]!);
  expect(differs / first.data.length).toBeLessThan(6);
});

test('films: encoded with fewer bits at their address, as long as they were; undone to the byte; others stay and say why', async () => {
  const whole = await film(10);
  const root = await siteFolder({
    'index.html': '<title>x</title><video src="m/sky.mp4"></video>',
    'm/sky.mp4': whole,
    'm/torn.mp4': whole.subarray(0, whole.length >> 1),
    'm/old.avi': Buffer.concat([Buffer.from('RIFF____AVI LIST'), whole]),
  });
  const site = await openSite(root);
  await site.checks.refresh();
  const item = site.items.atPath('m/sky.mp4')!;
  expect(item.duration).toBeCloseTo(2, 1);
  // A piece of it is really encoded to know what all of it would weigh.
  const expected = await filmSample(site, item, new AbortController().signal);
  const before = await treeOf(root);
  const ids = ['m/sky.mp4', 'm/torn.mp4', 'm/old.avi'].map((path) => site.items.atPath(path)!.id);
  const told: string[] = [];
  const proposal = await runAsJob(site, 'x', (progress) =>
    proposeLighter(
      site,
      ids,
      Object.assign((...[, , what]: Parameters<typeof progress>) => void told.push(what), {
        signal: progress.signal,
      }),
    ),
  );
  expect(told.some((what) => /“sky.mp4” to \d+ %/.test(what))).toBe(true);
  expect(proposal.plan.warnings).toEqual([
    expect.stringContaining('“m/torn.mp4” is unchanged:'),
    '“m/old.avi” is unchanged: videos of this format are not encoded here.',
  ]);
  const entry = await applyProposal(site, proposal, 1);
  const made = site.items.atPath('m/sky.mp4')!;
  expect(made).toMatchObject({ id: item.id, width: 320, height: 240, mime: 'video/mp4' });
  expect(made.duration).toBeCloseTo(2, 1);
  expect(made.bytes).toBeLessThan(0.9 * whole.length);
  expect(expected / made.bytes).toBeGreaterThan(0.5);
  expect(expected / made.bytes).toBeLessThan(2);
  await applyProposal(site, await proposeUndo(site, entry), 1);
  expect(await treeOf(root)).toEqual(before);
});

test('what others broke is brought back from what is kept; what has nothing kept stays, and says so', async () => {
  const first = await photograph(900, 600);
  const root = await siteFolder({
    'index.html': '<title>x</title><img src="a.jpg" width="100"><img src="b.jpg">',
    'a.jpg': first,
    'b.jpg': await photograph(300, 200),
  });
  const site = await openSite(root);
  await site.checks.refresh();
  const id = (path: string) => site.items.atPath(path)!.id;
  await applyProposal(site, await proposeLighter(site, [id('a.jpg')]), 1);
  const lighter = await readFile(join(root, 'a.jpg'));
  expect(lighter.length).toBeLessThan(first.length);
  // By others, with bytes that end too early.
  await writeFile(join(root, 'a.jpg'), lighter.subarray(0, 700));
  await writeFile(join(root, 'b.jpg'), first.subarray(0, 700));
  await site.scanner.scan();
  await site.analyser.analyseAll();
  await site.checks.refresh();
  const broken = [id('a.jpg'), id('b.jpg')];
  expect((await site.findings.ids('outside')).sort()).toEqual(broken);
  const proposal = await proposeKept(site, broken);
  expect(proposal.plan.title).toBe('Restore the kept version of 1 file');
  expect(proposal.plan.warnings).toEqual(['“b.jpg” is unchanged: no earlier version is kept.']);
  // What was there before it was made lighter: copies are kept of what was replaced.
  const entry = await applyProposal(site, proposal, 1);
  expect(await readFile(join(root, 'a.jpg'))).toEqual(first);
  await site.analyser.analyseAll();
  await site.checks.refresh();
  expect(await site.findings.ids('outside')).toEqual([id('b.jpg')]);
  expect(await site.findings.ids('unreadable')).not.toContain(id('a.jpg'));
  await applyProposal(site, await proposeUndo(site, entry), 1);
  expect(await readFile(join(root, 'a.jpg'))).toEqual(lighter.subarray(0, 700));
});

test('encoding that is stopped changes nothing and leaves nothing behind', async () => {
  const root = await siteFolder({ 'm/sky.mp4': await film(12) });
  const site = await openSite(root);
  const { id } = site.items.atPath('m/sky.mp4')!;
  const before = await treeOf(root);
  const work = runAsJob(site, 'Computing the plan', (progress) => proposeLighter(site, [id], progress));
  const stop = site.jobs.onProgress((job) => {
    if (job.what.includes('sky.mp4')) site.jobs.cancel(job.id);
  });
  await expect(work).rejects.toThrow('Stopped. Nothing was changed.');
  stop();
  expect(await treeOf(root)).toEqual(before);
  // Work goes on with another worker.
  expect((await proposeLighter(site, [id])).plan.files).toHaveLength(1);
});

test('pages offer images in smaller sizes: what visitors see stays; undone to the byte', async () => {
  const root = await siteFolder({
    'index.html':
      '<title>x</title><img src="img/sky.jpg" width="600" alt="Sky">\n<a href="img/sky.jpg"><IMG alt=\'\' src=img/sky.jpg></a>\n<noscript><img src="img/sky.jpg"></noscript>',
    'list.html': '<title>l</title><img src="img/sky.jpg" srcset="img/sky.jpg 2000w" sizes="100vw">',
    'deep/page.html': '<title>y</title><img\n  src="../img/hill.png" class="wide">',
    'notes.md': '# x\n\n![A hill](img/meadow.jpg)\n',
    'img/sky.jpg': await photograph(2000, 900),
    'img/sky-800.jpg': await photograph(300, 200),
    'img/hill.png': await sharp(await photograph(900, 300))
      .png()
      .toBuffer(),
    'img/meadow.jpg': await photograph(1300, 400),
  });
  const site = await openSite(root);
  await site.checks.refresh();
  const id = (path: string) => site.items.atPath(path)!.id;
  const before = await treeOf(root);
  const ids = ['img/sky.jpg', 'img/hill.png', 'img/meadow.jpg'].map(id);
  const proposal = await proposeOffered(site, ids);
  expect(proposal.plan.title).toBe('Add responsive sizes to 2 images');
  expect(proposal.plan.clashes).toEqual([]);
  expect(proposal.plan.warnings).toEqual([
    '“img/sky.jpg” is unchanged at some placements: style sheets, links and Markdown can’t offer sizes.',
    '“img/sky.jpg” is unchanged at some placements: line 3 of “index.html” can’t be changed safely.',
    '“img/sky.jpg” is unchanged at some placements: it already has responsive sizes there.',
    expect.stringMatching(/“img\/meadow.jpg” is unchanged: style sheets, links and Markdown/),
  ]);
  const entry = await applyProposal(site, proposal, 1);
  const after = await treeOf(root);
  // Another file has the name of one of the sizes: it stays.
  const list =
    'img/sky-480.jpg 480w, img/sky-800-2.jpg 800w, img/sky-1200.jpg 1200w, img/sky-1600.jpg 1600w, img/sky.jpg 2000w';
  expect(await readFile(join(root, 'index.html'), 'utf8')).toBe(
    `<title>x</title><img src="img/sky.jpg" srcset="${list}" sizes="(max-width: 600px) 100vw, 600px" width="600" alt="Sky">\n` +
      `<a href="img/sky.jpg"><IMG alt='' src=img/sky.jpg srcset="${list}" sizes="(max-width: 2000px) 100vw, 2000px"></a>\n<noscript><img src="img/sky.jpg"></noscript>`,
  );
  expect(await readFile(join(root, 'deep/page.html'), 'utf8')).toContain(
    'src="../img/hill.png" srcset="../img/hill-480.png 480w, ../img/hill-800.png 800w, ../img/hill.png 900w"',
  );
  for (const untouched of ['notes.md', 'list.html', 'img/sky.jpg', 'img/sky-800.jpg'])
    expect(after[untouched], untouched).toBe(before[untouched]);
  expect(await sharp(join(root, 'img/sky-1200.jpg')).metadata()).toMatchObject({ width: 1200, height: 540 });
  expect(site.references.brokenCount()).toBe(0);
  await site.checks.refresh();
  expect((await site.findings.ids('no-sizes')).filter((one) => one !== id('img/meadow.jpg'))).toEqual([]);
  // Told once more, there is nothing left to do.
  const again = await proposeOffered(site, [id('img/hill.png')]);
  expect([again.plan.files, again.plan.warnings]).toEqual([
    [],
    ['“img/hill.png” is unchanged: it already has responsive sizes there.'],
  ]);
  await applyProposal(site, await proposeUndo(site, entry), 1);
  expect(await treeOf(root)).toEqual(before);
});

test('the place is taken out of files, and nothing else of what they show; undone to the byte', async () => {
  const placed = await placedPhotograph();
  const root = await siteFolder({
    'index.html': '<title>x</title><img src="a.jpg">',
    'a.jpg': placed,
    'b.jpg': placed.subarray(0, 200),
  });
  const site = await openSite(root);
  await site.analyser.analyseAll();
  await site.checks.refresh();
  const [item] = [site.items.atPath('a.jpg')!];
  expect(await site.findings.ids('private')).toContain(item.id);
  const before = await treeOf(root);
  const entry = await applyProposal(site, await proposeWithoutPlace(site, [item.id]), 1);
  expect(await site.metadata.read(join(root, 'a.jpg'))).toMatchObject({
    place: false,
    words: { creator: 'Ottilie Marrow' },
  });
  const pixels = (bytes: Uint8Array) => sharp(bytes).raw().toBuffer();
  expect(await pixels(await readFile(join(root, 'a.jpg')))).toEqual(await pixels(placed));
  await site.analyser.analyseAll();
  await site.checks.refresh();
  expect(await site.findings.ids('private')).not.toContain(item.id);
  await applyProposal(site, await proposeUndo(site, entry), 1);
  expect(await treeOf(root)).toEqual(before);
});

test('files get the ending of what they are: references follow; what is right, or cannot be told, stays', async () => {
  const image = sharp({ create: { width: 40, height: 30, channels: 3, background: '#653' } });
  const root = await siteFolder({
    'index.html':
      '<title>x</title><img src="img/poster.png"><img src="img/taken.jpg"><img src="img/right.png">',
    'img/poster.png': await image.clone().jpeg().toBuffer(),
    'img/right.png': await image.clone().png().toBuffer(),
    'img/taken.jpg': await image.clone().webp().toBuffer(),
    'img/taken.webp': await image.clone().webp({ quality: 30 }).toBuffer(),
  });
  const site = await openSite(root);
  const id = (path: string) => site.items.atPath(path)!.id;
  const before = await treeOf(root);
  const proposal = await proposeRightEndings(site, [id('img/poster.png'), id('img/right.png')]);
  expect(proposal.plan.warnings).toEqual(['“img/right.png” is unchanged: its extension is right.']);
  const entry = await applyProposal(site, proposal, 1);
  expect(await readFile(join(root, 'index.html'), 'utf8')).toContain('<img src="img/poster.jpg">');
  expect(site.items.atPath('img/poster.jpg')).toMatchObject({ mime: 'image/jpeg', use: 'placed' });
  await site.checks.refresh();
  expect(await site.findings.ids('other-type')).toEqual([id('img/taken.jpg')]);
  await applyProposal(site, await proposeUndo(site, entry), 1);
  expect(await treeOf(root)).toEqual(before);
  // Its right name is another's: nothing is written over.
  expect((await proposeRightEndings(site, [id('img/taken.jpg')])).plan.clashes).toHaveLength(1);
});
