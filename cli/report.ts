import { rename, writeFile } from 'node:fs/promises';
import { parseArgs } from 'node:util';
import { FAILURES, Report } from '../api/report.ts';
import { CHECKS, type CheckName } from '../core/upkeep/checks.ts';
import { Fault } from '../server/fault.ts';
import { dataFolderOf } from '../server/files/data-folder.ts';
import { SiteFolder } from '../server/files/site-folder.ts';
import { reportOf } from '../server/upkeep/report.ts';
import { checkReport } from './check-report.ts';
import { alikeFiles } from '../server/upkeep/alike-files.ts';
import { familiesIn } from '../server/upkeep/survey-families.ts';
import { scanSite } from '../server/scan/scan.ts';
import { Pool } from '../server/workers/pool.ts';

const USAGE =
  'Usage: npm run --silent report -- --site DIR [--out FILE.json] [--data DIR] [--fail-on unused,copies,lookalikes,broken,alt or any check] [--quick] [--checks]';

/** Reads a site and writes its report. Changes nothing in the site. Answers the exit code. */
async function main(): Promise<number> {
  const { values } = parseArgs({
    options: {
      site: { type: 'string' },
      out: { type: 'string' },
      data: { type: 'string' },
      'fail-on': { type: 'string', default: '' },
      quick: { type: 'boolean', default: false },
      checks: { type: 'boolean', default: false },
    },
  });
  if (!values.site) throw new Fault('bad-request', 'No site was named.', USAGE);
  const failOn = values['fail-on'].split(',').filter((word) => word !== '');
  for (const word of failOn) {
    if (!Object.hasOwn(FAILURES, word) && !Object.hasOwn(CHECKS, word))
      throw new Fault('bad-request', `--fail-on does not know “${word}”.`, USAGE);
  }
  const folder = await SiteFolder.open(values.site);
  const dataFolder = dataFolderOf(folder.root, values.data);
  const pool = new Pool();
  try {
    const survey = await scanSite({
      root: folder.root,
      dataFolder,
      pool,
      onProgress: ({ phase, done, total }) => {
        if (process.stderr.isTTY) process.stderr.write(`\r${phase} ${done} of ${total}   `);
      },
    });
    if (process.stderr.isTTY) process.stderr.write('\n');
    const families = await familiesIn(survey, values.quick ? undefined : { root: folder.root, pool });
    const lookalikes = values.quick
      ? []
      : await alikeFiles(survey, folder.root, pool, families, (done, total) => {
          if (process.stderr.isTTY) process.stderr.write(`\rpictures ${done} of ${total}   `);
        });
    const told = (done: number, total: number, what: string) => {
      if (process.stderr.isTTY) process.stderr.write(`\r${what} ${done} of ${total}   `);
    };
    // A check that shall not find anything has to be made.
    const wanted = values.checks || failOn.some((word) => !Object.hasOwn(FAILURES, word));
    const checks = wanted ? { checks: await checkReport(folder.root, dataFolder, pool, told) } : {};
    const report = Report.parse({ ...(await reportOf(survey, families, lookalikes)), ...checks });
    for (const { path, why } of survey.unreadable) process.stderr.write(`${path}: ${why}\n`);
    const json = `${JSON.stringify(report, null, 1)}\n`;
    if (values.out === undefined) {
      await new Promise<void>((done, failed) =>
        process.stdout.write(json, (error) => (error ? failed(error) : done())),
      );
    } else {
      await writeFile(`${values.out}.part`, json);
      await rename(`${values.out}.part`, values.out);
    }
    const found = (word: string) =>
      Object.hasOwn(FAILURES, word)
        ? FAILURES[word as keyof typeof FAILURES](report)
        : (report.checks?.[word as CheckName]?.length ?? 0);
    const failures = failOn.filter((word) => found(word) > 0);
    for (const word of failures) process.stderr.write(`Found ${word}.\n`);
    return failures.length > 0 ? 1 : 0;
  } finally {
    await pool.close();
  }
}

main().then(
  (code) => {
    process.exitCode = code;
  },
  (error: unknown) => {
    if (error instanceof Fault) process.stderr.write(`${error.message} ${error.remedy}\n`);
    else
      process.stderr.write(
        `The report failed: ${error instanceof Error ? (error.stack ?? error.message) : String(error)}\n`,
      );
    process.exitCode = 2;
  },
);
