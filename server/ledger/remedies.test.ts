import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { PDFArray, PDFDocument, PDFName, PDFNumber, PDFRawStream, PDFString, StandardFonts } from 'pdf-lib';
import sharp from 'sharp';
import { afterEach, expect, test } from 'vitest';
import { seeded } from '../../core/test/chance.ts';
import { readPdfPage } from '../intake/document.ts';
import { closeSites, openSite, siteFolder, treeOf } from '../test/site.ts';
import { proposeLighter, proposeRightEndings, proposeWithoutPlace } from './remedies.ts';
import { applyProposal } from './proposal.ts';
import { proposeUndo } from './undo.ts';

afterEach(closeSites);

/** A photograph with the noise of a scanner. */
function photograph(width: number, height: number, space: 'srgb' | 'cmyk' | 'b-w' = 'srgb'): Promise<Buffer> {
  const { below } = seeded(width + height);
  const pixels = Buffer.from(
    Uint8Array.from(
      { length: width * height * 3 },
      (_, i) => 60 + below(50) + ((i / 3) % width) / (width / 120),
    ),
  );
  return sharp(pixels, { raw: { width, height, channels: 3 } })
    .toColourspace(space)
    .jpeg({ quality: 96, chromaSubsampling: '4:4:4' })
    .toBuffer();
}
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
    '“press.pdf” stays as it is: it has no photographs that could be made lighter.',
    '“signed.pdf” stays as it is: it is signed, and a copy would lose the signature.',
    expect.stringContaining('“torn.pdf” stays as it is:'),
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
  const after = await readPdfPage(join(root, 'print.pdf'), 1, 300);
  await applyProposal(site, await proposeUndo(site, entry), 1);
  expect(await treeOf(root)).toEqual(before);
  const first = await readPdfPage(join(root, 'print.pdf'), 1, 300);
  expect([after.width, after.height]).toEqual([first.width, first.height]);
  let differs = 0;
  for (let at = 0; at < first.data.length; at++) differs += Math.abs(first.data[at]! - after.data[at]!);
  expect(differs / first.data.length).toBeLessThan(6);
});

test('the place is taken out of files, and nothing else of what they show; undone to the byte', async () => {
  const plain = sharp({ create: { width: 40, height: 30, channels: 3, background: '#345' } });
  const placed = await plain
    .clone()
    .withExif({
      IFD0: { Artist: 'Ottilie Marrow' },
      IFD3: {
        GPSLatitudeRef: 'N',
        GPSLatitude: '54/1 10/1 0/1',
        GPSLongitudeRef: 'W',
        GPSLongitude: '30/1 1/1 0/1',
      },
    })
    .jpeg()
    .toBuffer();
  const root = await siteFolder({
    'index.html': '<title>x</title><img src="a.jpg">',
    'a.jpg': placed,
    'b.jpg': placed.subarray(0, 200),
  });
  const site = await openSite(root);
  await site.deriving.makeAll();
  await site.checks.refresh();
  const [item] = [site.items.atPath('a.jpg')!];
  expect(site.findings.ids('private')).toContain(item.id);
  const before = await treeOf(root);
  const entry = await applyProposal(site, await proposeWithoutPlace(site, [item.id]), 1);
  expect(await site.metadata.read(join(root, 'a.jpg'))).toMatchObject({
    place: false,
    words: { creator: 'Ottilie Marrow' },
  });
  const pixels = (bytes: Uint8Array) => sharp(bytes).raw().toBuffer();
  expect(await pixels(await readFile(join(root, 'a.jpg')))).toEqual(await pixels(placed));
  await site.deriving.makeAll();
  await site.checks.refresh();
  expect(site.findings.ids('private')).not.toContain(item.id);
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
  expect(proposal.plan.warnings).toEqual(['“img/right.png” stays as it is: its ending says what it is.']);
  const entry = await applyProposal(site, proposal, 1);
  expect(await readFile(join(root, 'index.html'), 'utf8')).toContain('<img src="img/poster.jpg">');
  expect(site.items.atPath('img/poster.jpg')).toMatchObject({ mime: 'image/jpeg', use: 'placed' });
  await site.checks.refresh();
  expect(site.findings.ids('other-type')).toEqual([id('img/taken.jpg')]);
  await applyProposal(site, await proposeUndo(site, entry), 1);
  expect(await treeOf(root)).toEqual(before);
  // Its right name is another's: nothing is written over.
  expect((await proposeRightEndings(site, [id('img/taken.jpg')])).plan.clashes).toHaveLength(1);
});
