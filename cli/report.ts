import { readFileSync } from 'node:fs';
import { rename, writeFile } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { parseArgs } from 'node:util';
import { z } from 'zod';
import { FAILURES, Report } from '../api/report.ts';
import { junitOf } from '../core/report/junit.ts';
import { sarifOf } from '../core/report/sarif.ts';
import { CHECKS, type CheckName } from '../core/upkeep/checks.ts';
import { buildFolder } from '../server/built.ts';
import { Fault } from '../server/fault.ts';
import { dataFolderOf } from '../server/files/data-folder.ts';
import { SiteFolder } from '../server/files/site-folder.ts';
import { wholeReport } from '../server/upkeep/whole-report.ts';
import { reportFromServer } from './ask-server.ts';
import { runCommand } from './command.ts';
import { checkReport } from './check-report.ts';
import { Pool } from '../server/workers/pool.ts';

const USAGE =
  'Usage: npm run --silent report -- (--site DIR | --server URL --token TOKEN) [--out FILE.json] [--data DIR] [--as json|sarif|junit] [--fail-on unused,copies,lookalikes,broken,alt or any check] [--quick] [--checks]';

/** Reads a site and writes its report. Changes nothing in the site. Answers the exit code. */
async function main(): Promise<number> {
  const { values } = parseArgs({
    options: {
      site: { type: 'string' },
      server: { type: 'string' },
      token: { type: 'string' },
      out: { type: 'string' },
      as: { type: 'string', default: 'json' },
      data: { type: 'string' },
      'fail-on': { type: 'string', default: '' },
      quick: { type: 'boolean', default: false },
      checks: { type: 'boolean', default: false },
    },
  });
  if (!values.site && values.server === undefined)
    throw new Fault('bad-request', 'No site was named.', USAGE);
  const failOn = values['fail-on'].split(',').filter((word) => word !== '');
  for (const word of failOn) {
    if (!Object.hasOwn(FAILURES, word) && !Object.hasOwn(CHECKS, word))
      throw new Fault('bad-request', `--fail-on does not know “${word}”.`, USAGE);
  }
  const as = FORMS.find((form) => form === values.as);
  if (!as) throw new Fault('bad-request', `--as does not know “${values.as}”.`, USAGE);
  const asked: Asked = { out: values.out, as, failOn };
  const checked = failOn.some((word) => !Object.hasOwn(FAILURES, word));
  if (values.server !== undefined) {
    if (values.checks || checked)
      throw new Fault('bad-request', 'Checks are made on the folder only.', 'Name it by --site.');
    const report = await reportFromServer(values.server, values.token ?? '', values.quick);
    return told(report, asked);
  }
  const folder = await SiteFolder.open(values.site!);
  const dataFolder = dataFolderOf(folder.root, values.data);
  const pool = new Pool();
  try {
    const tell = (done: number, total: number, what: string) => {
      if (process.stderr.isTTY) process.stderr.write(`\r${what} ${done} of ${total}   `);
    };
    const { report, unreadable } = await wholeReport(
      { root: folder.root, dataFolder, pool },
      { quick: values.quick },
      tell,
    );
    // A check that shall not find anything has to be made.
    if (values.checks || checked)
      report.checks = Report.shape.checks.parse(await checkReport(folder.root, dataFolder, pool, tell));
    for (const { path, why } of unreadable) process.stderr.write(`${path}: ${why}\n`);
    return await told(report, asked, unreadable);
  } finally {
    await pool.close();
  }
}

/** Of how a report is written: by its own schema, or as build pipelines take it. */
const FORMS = ['json', 'sarif', 'junit'] as const;
interface Asked {
  out: string | undefined;
  as: (typeof FORMS)[number];
  failOn: readonly string[];
}
/** As the tool that found it, in SARIF. */
const version = (): string =>
  z
    .object({ version: z.string() })
    .parse(JSON.parse(readFileSync(join(dirname(buildFolder()), 'package.json'), 'utf8'))).version;

type Unreadable = readonly { path: string; why: string }[];

function written(report: Report, { as, failOn }: Asked, unreadable: Unreadable): string {
  if (as === 'junit') return junitOf(report, failOn);
  const what = as === 'sarif' ? sarifOf(report, { version: version(), failOn, unreadable }) : report;
  return `${JSON.stringify(what, null, 1)}\n`;
}

/** Writes a report out. Answers the exit code: whether it holds what it was not to hold. */
async function told(report: Report, asked: Asked, unreadable: Unreadable = []): Promise<number> {
  const { out, failOn } = asked;
  const text = written(report, asked, unreadable);
  if (out === undefined) {
    await new Promise<void>((done, failed) =>
      process.stdout.write(text, (error) => (error ? failed(error) : done())),
    );
  } else {
    await writeFile(`${out}.part`, text);
    await rename(`${out}.part`, out);
  }
  const found = (word: string) =>
    Object.hasOwn(FAILURES, word)
      ? FAILURES[word as keyof typeof FAILURES](report)
      : (report.checks?.[word as CheckName]?.length ?? 0);
  const failures = failOn.filter((word) => found(word) > 0);
  for (const word of failures) process.stderr.write(`Found ${word}.\n`);
  return failures.length > 0 ? 1 : 0;
}

runCommand('The report', main);
