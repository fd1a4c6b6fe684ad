import { createHash } from 'node:crypto';
import { expect, test } from 'vitest';
import { besideSite } from '../server/files/data-folder.ts';
import { SiteFolder } from '../server/files/site-folder.ts';
import { reportOf } from '../server/upkeep/report.ts';
import { scanSite } from '../server/scan/scan.ts';
import { familiesIn } from '../server/upkeep/survey-families.ts';
import { alikeFiles } from '../server/upkeep/alike-files.ts';
import { Pool } from '../server/workers/pool.ts';
import { catalogue } from './catalogue.ts';
import { plantedFaults } from './faults.ts';
import { SEED } from './make.ts';
import { render } from './render.ts';
import { SMALL_DEMO } from './test-setup.ts';

test('the report of the demo says exactly what was planted in it', async () => {
  const folder = await SiteFolder.open(SMALL_DEMO);
  const pool = new Pool();
  try {
    const survey = await scanSite({ root: folder.root, dataFolder: besideSite(folder.root), pool });
    const families = await familiesIn(survey, { root: folder.root, pool });
    const report = await reportOf(survey, families, await alikeFiles(survey, folder.root, pool, families));
    const truth = plantedFaults(SEED);
    const using = (use: string) => report.items.filter((item) => item.use === use).map((item) => item.path);
    expect(report.items.map((item) => item.path)).toEqual(truth.items);
    expect(using('placed')).toEqual(truth.placed);
    expect(using('mentioned')).toEqual(truth.mentioned);
    expect(report.unused).toEqual(truth.unused);
    expect(report.copies.map((group) => [...group].sort()).sort()).toEqual([...truth.copies].sort());
    expect(report.lookalikes.map((group) => [...group.paths].sort()).sort()).toEqual(
      truth.alike.map((group) => [...group].sort()).sort(),
    );
    expect(report.broken.map(({ page, url }) => ({ page, url })).sort(byPage)).toEqual(
      [...truth.broken].sort(byPage),
    );
    expect(report.alt.missing.map(({ page, path }) => ({ page, path })).sort(byPage)).toEqual(
      [...truth.altMissing].sort(byPage),
    );
    expect(truth.unused.length).toBeGreaterThan(10);
    expect(truth.mentioned.length).toBeGreaterThan(3);
  } finally {
    await pool.close();
  }
});

test('the same recipe gives the same bytes, of every kind', async () => {
  const seen = new Set<string>();
  for (const { path, recipe } of catalogue(SEED)) {
    if (recipe.make === 'copy' || seen.has(recipe.make)) continue;
    seen.add(recipe.make);
    const hash = async () =>
      createHash('sha256')
        .update(await render(recipe, path, 120))
        .digest('hex');
    expect(await hash(), path).toBe(await hash());
  }
  expect(seen.size).toBe(10);
});

test('another seed paints another sky', () => {
  expect(JSON.stringify(catalogue('a'))).not.toBe(JSON.stringify(catalogue('b')));
});

const byPage = (a: { page: string }, b: { page: string }) => (a.page < b.page ? -1 : a.page > b.page ? 1 : 0);
