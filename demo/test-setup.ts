import { existsSync, statSync } from 'node:fs';
import { rm } from 'node:fs/promises';
import { join } from 'node:path';
import { buildFolder, builtFile } from '../server/built.ts';
import { makeDemo, SEED } from './make.ts';

/** The demo site painted small: its pages, names, references and faults are those of the real one. */
export const SMALL_DEMO = join(buildFolder(), 'small-demo');

/** Makes the small demo once for all tests of a run, anew when its code has changed. */
export async function setup(): Promise<void> {
  if (existsSync(SMALL_DEMO) && statSync(SMALL_DEMO).mtimeMs > statSync(builtFile('demo-worker.js')).mtimeMs)
    return;
  process.stdout.write('Making the small demo site for the tests …\n');
  await rm(SMALL_DEMO, { recursive: true, force: true });
  await makeDemo(SMALL_DEMO, SEED, () => {}, undefined, 40);
}
