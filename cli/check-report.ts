import { existsSync } from 'node:fs';
import { mkdir, mkdtemp, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import Database from 'better-sqlite3';
import type { Report } from '../api/report.ts';
import { ITEM_CHECKS } from '../core/upkeep/checks.ts';
import { DataPaths } from '../server/files/data-paths.ts';
import { openSite } from '../server/app/open-site.ts';
import { redirectViews, tagFindings } from '../server/upkeep/library-wide.ts';
import type { Pool } from '../server/workers/pool.ts';

/**
 * What all checks say of a site. Records come from its data folder, if there is one; the work is done on a copy in a folder of its own, so that
 * nothing changes and a running server is not disturbed.
 */
export async function checkReport(
  root: string,
  dataFolder: string,
  pool: Pool,
  onProgress: (done: number, total: number, what: string) => void = () => {},
): Promise<NonNullable<Report['checks']>> {
  const folder = await mkdtemp(join(tmpdir(), 'iconomos-report-'));
  const data = join(folder, 'data');
  await mkdir(data);
  try {
    const records = new DataPaths(dataFolder).database;
    if (existsSync(records)) {
      const from = new Database(records, { readonly: true });
      await from.backup(new DataPaths(data).database);
      from.close();
    }
    const site = await openSite({ site: root, data, pool, without: dataFolder });
    const stop = site.jobs.onProgress((job) => onProgress(job.done, job.total, job.what));
    try {
      await site.scanner.scan();
      await site.analyser.analyseAll();
      await site.checks.refresh();
      const found: NonNullable<Report['checks']> = {};
      for (const check of ITEM_CHECKS)
        found[check] = (await site.findings.list(check, 1_000_000, 0))
          .map(({ itemId, why }) => ({ path: site.items.need(itemId).path, why }))
          .sort((a, b) => (a.path < b.path ? -1 : 1));
      const tags = await tagFindings(site);
      found['near-tags'] = tags.near.map(({ name, to, why }) => ({ tag: name, why: `“${to}”: ${why}` }));
      found['lone-tags'] = tags.lone.map(({ name }) => ({ tag: name, why: 'Only one item bears it.' }));
      const redirects = await redirectViews(site);
      for (const check of ['idle-redirects', 'redirect-chains'] as const)
        found[check] = redirects
          .filter((one) => one.check === check)
          .map(({ from, why }) => ({ address: from, why }));
      return found;
    } finally {
      stop();
      await site.close();
    }
  } finally {
    await rm(folder, { recursive: true, force: true });
  }
}
