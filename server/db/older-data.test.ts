import { createHash } from 'node:crypto';
import { mkdir, readFile, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { gunzipSync } from 'node:zlib';
import { afterEach, expect, test } from 'vitest';
import { BlobFolder } from '../files/blobs.ts';
import { MIGRATIONS } from './migrations/index.ts';
import { idOf, undo } from '../test/plans.ts';
import { closeSites, openSite, siteFolder, treeOf } from '../test/site.ts';
import { besideSite } from '../files/data-folder.ts';

afterEach(closeSites);

const drawing = (colour: string) =>
  `<svg xmlns="http://www.w3.org/2000/svg" width="40" height="30"><rect width="40" height="30" fill="${colour}"/></svg>\n`;
const page = (dome: string) =>
  `<!doctype html><title>Home</title><p><img src="img/hill.svg" alt="A hill"><p><img src="img/${dome}" alt="">\n`;
/** The site as it stood when the database was written, with schema 17: words and tags, a new name, an item set aside, a spelling. */
const SITE = {
  'index.html': page('observatory-dome.svg'),
  'img/hill.svg': drawing('teal'),
  'img/observatory-dome.svg': drawing('navy'),
  'iconomos-redirects.csv': 'from,to,status\r\n/img/dome.svg,/img/observatory-dome.svg,301\r\n',
  'notes.txt': 'img/hill.svg was drawn last.\n',
};

test('a data folder of an earlier version opens: all it says is there, and its changes can be undone to the byte', async () => {
  const root = await siteFolder(SITE);
  const data = besideSite(root);
  await mkdir(data, { mode: 0o700 });
  const database = await readFile(join(import.meta.dirname, '../test/older/schema-17.db.gz'));
  await writeFile(join(data, 'iconomos.db'), gunzipSync(database));
  const old = drawing('grey');
  // What the changes took away is kept by its hash.
  const blobs = new BlobFolder(join(data, 'blobs'), join(data, 'arrivals'));
  for (const text of [old, page('dome.svg')]) {
    const blob = blobs.get(createHash('sha256').update(text).digest('hex'));
    await mkdir(dirname(blob), { recursive: true });
    await writeFile(blob, text);
  }

  const site = await openSite(root);
  expect(site.db.pragma('user_version')).toBe(MIGRATIONS.length);
  expect(site.items.need(idOf(site, 'img/hill.svg'))).toMatchObject({
    use: 'placed',
    words: { alt: 'The hill at dusk', licence: 'CC BY 4.0', tags: ['dusk', 'Hill'] },
  });
  expect(site.tags.tagOfSpelling('tor')).toBe('Hill');
  expect(site.finder.counts()).toMatchObject({ items: 2, aside: 1 });
  const entries = site.rows.list(10);
  expect(entries.map((one) => one.kind)).toEqual([expect.any(String), 'set-aside', 'rename', 'describe']);

  for (const { id, kind } of entries) {
    const plan = await undo(site, id);
    expect(plan.kind, kind).toBe('undo');
  }
  expect(site.tags.tagOfSpelling('tor')).toBeNull();
  expect(await readFile(join(root, 'img/old.svg'), 'utf8')).toBe(old);
  expect(await readFile(join(root, 'index.html'), 'utf8')).toBe(page('dome.svg'));
  expect(
    Object.keys(await treeOf(root))
      .filter((path) => !path.endsWith('/'))
      .sort(),
  ).toEqual(['img/dome.svg', 'img/hill.svg', 'img/old.svg', 'index.html', 'notes.txt']);
  expect(site.items.need(idOf(site, 'img/hill.svg')).words).toMatchObject({ alt: '', tags: [] });
});
