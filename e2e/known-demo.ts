import { existsSync, statSync } from 'node:fs';
import { rename, utimes } from 'node:fs/promises';
import { join } from 'node:path';
import { setTimeout as wait } from 'node:timers/promises';
import { SMALL_DEMO } from '../demo/test-setup.ts';
import { buildFolder, builtFile } from '../server/built.ts';
import { besideSite } from '../server/files/data-folder.ts';
import { copySite, removeSite } from '../server/test/site.ts';
import { RunningServer } from './server.ts';

/** The small demo after the server has read it and looked at all of its items: most tests of the interface start there. */
export const KNOWN_DEMO = join(buildFolder(), 'known-demo');

/** Makes it once for all tests of a run, anew when the demo or the server have changed. */
export async function setup(): Promise<void> {
  const asked = process.argv.slice(2).filter((one) => /[/.]/.test(one) && !one.startsWith('-'));
  if (asked.length > 0 && !asked.some((one) => one.includes('e2e'))) return;
  const madeOf = [SMALL_DEMO, builtFile('server.js'), builtFile('worker.js')];
  if (existsSync(KNOWN_DEMO) && madeOf.every((one) => statSync(one).mtimeMs < statSync(KNOWN_DEMO).mtimeMs))
    return;
  process.stdout.write('Reading the small demo site for the tests …\n');
  const making = `${KNOWN_DEMO}-making`;
  for (const one of [KNOWN_DEMO, making]) await removeSite(one);
  await copySite(SMALL_DEMO, making);
  const server = await RunningServer.start(making);
  try {
    await settled(server);
  } finally {
    await server.stop();
  }
  await rename(besideSite(making), besideSite(KNOWN_DEMO));
  await rename(making, KNOWN_DEMO);
  // The copy has the times of what it was copied from.
  await utimes(KNOWN_DEMO, new Date(), new Date());
}

/** Waits until no job of the server has run for a while. */
export async function settled(server: RunningServer): Promise<void> {
  const until = Date.now() + 180_000;
  for (let still = 0; still < 6; await wait(250)) {
    if (Date.now() > until) throw new Error(`the demo was not read in three minutes: ${server.said()}`);
    const jobs = (await (await fetch(`${server.address}/api/jobs`)).json()) as { state: string }[];
    still = jobs.length > 0 && jobs.every((job) => job.state === 'done') ? still + 1 : 0;
  }
}
