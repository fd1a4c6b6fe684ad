import { existsSync } from 'node:fs';
import { rm } from 'node:fs/promises';
import { resolve } from 'node:path';
import { parseArgs } from 'node:util';
import { besideSite } from '../server/files/data-folder.ts';
import { openSite } from '../server/app/open-site.ts';
import { makeDemo, SEED } from './make.ts';
import { freshSets } from './sets.ts';
import { DEMO_PEOPLE, writeDemoRecords } from './records.ts';

/** Makes the demo site and its records, unless they are there. */
async function main(): Promise<void> {
  const { values } = parseArgs({
    options: { site: { type: 'string' }, fresh: { type: 'boolean', default: false } },
  });
  const folder = resolve(values.site ?? 'demo-site/corvane-hill');
  if (values.fresh)
    for (const one of [folder, besideSite(folder)]) await rm(one, { recursive: true, force: true });
  if (existsSync(folder)) return;
  const started = Date.now();
  let told = 0;
  process.stdout.write(
    'Painting the demo site, the Corvane Hill Observatory. This takes about a minute and a half.\n',
  );
  const tell = (done: number, total: number) => {
    if (Date.now() - told < 2000 && done < total) return;
    told = Date.now();
    process.stdout.write(`  ${done} of ${total} items made\n`);
  };
  await makeDemo(folder, SEED, tell, () => true, 900, freshSets(SEED));
  const site = await openSite({ site: folder, people: DEMO_PEOPLE });
  await site.scanner.scan();
  await writeDemoRecords(site, SEED);
  await site.close();
  process.stdout.write(
    `The demo site is in ${folder}, made in ${Math.round((Date.now() - started) / 1000)} s.\n`,
  );
}

main().catch((error: unknown) => {
  process.stderr.write(
    `The demo site could not be made: ${error instanceof Error ? (error.stack ?? error.message) : String(error)}\n`,
  );
  process.exit(2);
});
