import { Report } from '../../api/report.ts';
import { scanSite } from '../scan/scan.ts';
import type { Pool } from '../workers/pool.ts';
import { alikeFiles } from './alike-files.ts';
import { reportOf } from './report.ts';
import { familiesIn } from './survey-families.ts';

/**
 * Reads a whole site anew and reports on it; nothing in it changes.
 * @param asked.quick images are not compared by how they look
 */
export async function wholeReport(
  { root, dataFolder, pool }: { root: string; dataFolder: string; pool: Pool },
  asked: { quick: boolean },
  told: (done: number, total: number, what: string) => void = () => {},
): Promise<{ report: Report; unreadable: readonly { path: string; why: string }[] }> {
  const survey = await scanSite({
    root,
    dataFolder,
    pool,
    onProgress: ({ phase, done, total }) => told(done, total, phase),
  });
  const families = await familiesIn(survey, asked.quick ? undefined : { root, pool });
  const lookalikes = asked.quick
    ? []
    : await alikeFiles(survey, root, pool, families, (done, total) => told(done, total, 'pictures'));
  return {
    report: Report.parse(await reportOf(survey, families, lookalikes)),
    unreadable: survey.unreadable,
  };
}
