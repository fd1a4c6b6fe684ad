import { copyFile, mkdir, readdir, rename, rm, utimes, writeFile } from 'node:fs/promises';
import { availableParallelism } from 'node:os';
import { dirname, join } from 'node:path';
import { Worker } from 'node:worker_threads';
import { builtFile } from '../server/built.ts';
import { catalogue } from './catalogue.ts';
import { Chance } from './chance.ts';
import type { Made } from './recipe.ts';
import { writePages } from './pages.ts';

export const SEED = 'corvane hill';

/**
 * Makes the demo site in a folder. The same seed gives the same bytes.
 * @param only makes just the items of which it says so; pages are always whole
 * @param edge pixels at which skies are painted before they are enlarged to their size
 * @param beside items that no page and no list of faults knows of
 */
export async function makeDemo(
  folder: string,
  seed: string,
  onProgress: (done: number, total: number) => void,
  only: (item: Made) => boolean = () => true,
  edge = 900,
  beside: readonly Made[] = [],
): Promise<void> {
  const unfinished = `${folder}.making`;
  await rm(unfinished, { recursive: true, force: true });
  const all = catalogue(seed);
  const wanted = [...all.filter(only), ...beside];
  const rendered = wanted.filter((item) => item.recipe.make !== 'copy');
  await renderAll(rendered, unfinished, edge, (done) => onProgress(done, wanted.length));
  for (const item of wanted) {
    if (item.recipe.make !== 'copy') continue;
    await mkdir(dirname(join(unfinished, item.path)), { recursive: true });
    await copyFile(join(unfinished, item.recipe.of), join(unfinished, item.path));
  }
  for (const [path, text] of writePages(all).files) {
    await mkdir(dirname(join(unfinished, path)), { recursive: true });
    await writeFile(join(unfinished, path), text);
  }
  await giveAges(unfinished, seed);
  await rename(unfinished, folder);
}

/** The files of a site have come over years: those in a folder of a year in that year, what is called old before. */
async function giveAges(folder: string, seed: string): Promise<void> {
  for (const entry of await readdir(folder, { recursive: true, withFileTypes: true })) {
    if (!entry.isFile()) continue;
    const file = join(entry.parentPath, entry.name);
    const year = /[\\/](20\d\d)[\\/]/.exec(file.slice(folder.length))?.[1];
    const [from, to] = year
      ? [Date.UTC(Number(year), 0), Date.UTC(Number(year), 11, 20)]
      : /[\\/]old[\\/]/.test(file.slice(folder.length))
        ? [Date.UTC(2021, 0), Date.UTC(2022, 11)]
        : [Date.UTC(2023, 0), Date.UTC(2026, 3)];
    const at = new Date(new Chance(`${seed} ${file.slice(folder.length)}`).between(from, to));
    await utimes(file, at, at);
  }
}

/** Makes the files of items in a folder, several at a time. */
export async function renderAll(
  items: readonly Made[],
  folder: string,
  edge: number,
  onDone: (done: number) => void,
): Promise<void> {
  // The large ones first, so that no worker is left with a long one at the end.
  const cost = (item: Made) =>
    item.recipe.make === 'film' ? 1e9 : item.recipe.make === 'picture' ? item.recipe.width : 1;
  const queue = [...items].sort((a, b) => cost(b) - cost(a));
  let done = 0;
  await Promise.all(
    Array.from({ length: Math.max(2, availableParallelism()) }, async () => {
      const worker = new Worker(builtFile('demo-worker.js'));
      try {
        for (let item = queue.shift(); item; item = queue.shift()) {
          const { path, recipe } = item;
          const answer = await ask(worker, { recipe, path, edge, to: join(folder, path) });
          if (answer.error) throw new Error(`${path}: ${answer.error}`);
          onDone(++done);
        }
      } finally {
        await worker.terminate();
      }
    }),
  );
}

/** Sends one message to a worker and waits for its answer, its error or its end. */
function ask(worker: Worker, message: unknown): Promise<{ error?: string }> {
  return new Promise((resolve, reject) => {
    const settle = (then: () => void) => () => {
      worker.off('message', onMessage).off('error', onError).off('exit', onExit);
      then();
    };
    const onMessage = (answer: { error?: string }) => settle(() => resolve(answer))();
    const onError = (error: Error) => settle(() => reject(error))();
    const onExit = (code: number) => settle(() => reject(new Error(`a painter ended with code ${code}`)))();
    worker.on('message', onMessage).on('error', onError).on('exit', onExit);
    worker.postMessage(message);
  });
}
