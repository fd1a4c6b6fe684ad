import { mkdir, writeFile } from 'node:fs/promises';
import { dirname } from 'node:path';
import { parentPort } from 'node:worker_threads';
import sharp from 'sharp';
import type { Recipe } from './recipe.ts';
import { render } from './render.ts';

sharp.concurrency(1);

parentPort!.on(
  'message',
  async ({
    recipe,
    path,
    edge,
    to,
  }: {
    recipe: Exclude<Recipe, { make: 'copy' }>;
    path: string;
    edge: number;
    to: string;
  }) => {
    try {
      await mkdir(dirname(to), { recursive: true });
      await writeFile(to, await render(recipe, path, edge));
      parentPort!.postMessage({ path });
    } catch (error) {
      parentPort!.postMessage({
        path,
        error: error instanceof Error ? (error.stack ?? error.message) : String(error),
      });
    }
  },
);
