import { mkdir, readdir, stat, utimes, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { afterEach, expect, test } from 'vitest';
import { Exports } from '../export/export.ts';
import { arrive, closeSites, openSite, picture, smallSite } from '../test/site.ts';
import { sweep } from './leftovers.ts';

afterEach(closeSites);

const DAY = 86_400_000;

test('at the start goes what belongs to nothing: parts of uploads, of exports, images of what is gone', async () => {
  const root = await smallSite();
  const site = await openSite(root);
  await site.analyser.analyseAll();
  const waiting = await arrive(site, await picture(60), 'waits.png');
  const made = await new Exports(site).make('all', 1);
  const [arrivals, thumbs, exports] = ['arrivals', 'thumbs', 'exports'].map((name) =>
    join(site.data.root, name),
  );
  const kept = await readdir(thumbs!);
  await writeFile(join(arrivals!, '0f0e0d0c-0b0a-4000-8000-000000000000'), 'half');
  await writeFile(join(thumbs!, `${'ab'.repeat(32)}-320.webp`), 'of a killed check');
  await mkdir(join(exports!, '2026-01-01-archive.zip.folder/data'), { recursive: true });
  await sweep(site, false);
  // It may be at work on them.
  expect([(await readdir(arrivals!)).length, (await readdir(exports!)).length]).toEqual([1, 2]);
  await sweep(site, true);
  expect(await readdir(arrivals!)).toEqual([]);
  expect((await readdir(thumbs!)).sort()).toEqual(kept.sort());
  expect(await readdir(exports!)).toHaveLength(1);
  expect((await stat(new Exports(site).file(made.id))).size).toBe(made.bytes);
  expect(site.arrivals.get(waiting.id)?.state).toBe('ready');
  expect(site.blobs.has(waiting.sha256)).toBe(true);
});

test('what is no longer being sent ends after a day, with its bytes; what still comes does not', async () => {
  const root = await smallSite();
  const site = await openSite(root);
  const uploads = ['1', '2'].map((digit) => `0f0e0d0c-0b0a-4000-8000-${digit.repeat(12)}`);
  const [left, coming] = uploads.map((upload) =>
    site.arrivals.insert({ at: site.now(), personId: 1, givenName: 'film.mp4', bytes: 9e6, upload }),
  );
  for (const upload of uploads) await writeFile(site.data.upload(upload), 'first bytes');
  await utimes(site.data.upload(uploads[0]!), new Date(), new Date(Date.now() - 1.1 * DAY));
  await sweep(site, true);
  expect([site.arrivals.get(left!), site.arrivals.get(coming!)?.state]).toEqual([undefined, 'sending']);
  expect(await readdir(site.data.arrivals)).toEqual([uploads[1]]);
});

test('exports are kept for two weeks', async () => {
  let now = Date.now();
  const site = await openSite(await smallSite(), { now: () => new Date(now).toISOString() });
  const exports = new Exports(site);
  const old = await exports.make('all', 1);
  now += 10 * DAY;
  const recent = await exports.make('all', 1);
  now += 5 * DAY;
  await sweep(site, true);
  expect(exports.list().map((one) => one.id)).toEqual([recent.id]);
  expect(() => exports.file(old.id)).toThrow('This export no longer exists.');
  expect(await readdir(site.data.exports)).toHaveLength(1);
});
