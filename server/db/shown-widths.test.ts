import { rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import sharp from 'sharp';
import { afterEach, expect, test } from 'vitest';
import type { OpenedSite } from '../app/opened-site.ts';
import { closeSites, openSite, siteFolder } from '../test/site.ts';

afterEach(closeSites);

const noise = { type: 'gaussian', mean: 90, sigma: 40 } as const;
const picture = (width: number) =>
  sharp({ create: { width, height: width >> 1, channels: 3, background: '#000', noise } })
    .jpeg()
    .toBuffer();
const page = (html: string) => `<!doctype html><title>t</title><link rel="stylesheet" href="s.css">${html}`;

async function tooLarge(site: OpenedSite): Promise<Record<string, string>> {
  await site.checks.refresh();
  const rows = await site.findings.list('too-large', 100, 0);
  return Object.fromEntries(rows.map(({ itemId, why }) => [site.items.need(itemId).path, why]));
}
/** As a browser would tell it: every image of the page that wide. */
function drawn(site: OpenedSite, path: string, wide: number): void {
  const starts = ['a.jpg', 'b.jpg', 'c.jpg'].flatMap((item) =>
    site.references.placementsOf(item).filter((one) => one.page === path),
  );
  site.widths.save(
    path,
    starts.map(({ start }) => ({ start, wide })),
    site.now(),
  );
}

test('what is measured decides how large an image is shown, until page, style sheet or image change', async () => {
  const root = await siteFolder({
    'index.html': page('<img src="a.jpg"><img src="b.jpg" width="1800">'),
    'other.html': page('<img src="b.jpg"><a href="c.jpg"><img src="c.jpg"></a>'),
    'plain.html': page('<p>No picture</p>'),
    's.css': 'img { max-width: 30em }',
    'a.jpg': await picture(2400),
    'b.jpg': await picture(2400),
    'c.jpg': await picture(2400),
  });
  const site = await openSite(root);
  expect(await tooLarge(site)).toEqual({});
  expect(site.widths.toMeasure().map((one) => one.path)).toEqual(['index.html', 'other.html']);

  drawn(site, 'index.html', 480);
  // The other page may show b in full; c is linked to as a whole.
  expect(await tooLarge(site)).toEqual({
    'a.jpg': 'It is 2400 pixels wide but displayed at 480 pixels at most.',
  });
  drawn(site, 'other.html', 700);
  expect(await tooLarge(site)).toEqual({
    'a.jpg': 'It is 2400 pixels wide but displayed at 480 pixels at most.',
    'b.jpg': 'It is 2400 pixels wide but displayed at 700 pixels at most.',
  });
  expect(site.widths.toMeasure()).toEqual([]);

  // Read again without a change, nothing is forgotten.
  await site.scanner.scan(true);
  expect(site.widths.toMeasure()).toEqual([]);
  await writeFile(join(root, 'other.html'), page('<p>x</p><img src="b.jpg">'));
  await site.scanner.scan();
  expect(site.widths.toMeasure().map((one) => one.path)).toEqual(['other.html']);
  expect(Object.keys(await tooLarge(site))).toEqual(['a.jpg']);

  // The image has other pixels: it may be drawn otherwise.
  drawn(site, 'other.html', 700);
  await writeFile(join(root, 'a.jpg'), await picture(2600));
  await site.scanner.scan();
  expect(site.widths.toMeasure().map((one) => one.path)).toEqual(['index.html']);
  expect(Object.keys(await tooLarge(site))).toEqual(['b.jpg']);

  drawn(site, 'index.html', 480);
  expect(Object.keys(await tooLarge(site)).sort()).toEqual(['a.jpg', 'b.jpg']);
  await writeFile(join(root, 's.css'), 'img { max-width: 90em }');
  await site.scanner.scan();
  expect(site.widths.toMeasure()).toHaveLength(2);
  expect(await tooLarge(site)).toEqual({});

  drawn(site, 'index.html', 480);
  await rm(join(root, 'index.html'));
  await site.scanner.scan();
  expect(site.widths.measuredCount()).toBe(0);
});

test('what is told of a place that is no image is passed over', async () => {
  const root = await siteFolder({
    'index.html': page('<a href="a.jpg">a</a><img src="a.jpg">'),
    'a.jpg': await picture(2400),
  });
  const site = await openSite(root);
  site.widths.save(
    'index.html',
    [
      { start: 0, wide: 100 },
      ...site.references.placementsOf('a.jpg').map(({ start }) => ({ start, wide: 300 })),
    ],
    site.now(),
  );
  expect(site.db.all('select path, wide from shown_width')).toEqual([{ path: 'a.jpg', wide: 300 }]);
});
