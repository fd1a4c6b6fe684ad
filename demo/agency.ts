import { existsSync } from 'node:fs';
import { readFile, rename, rm } from 'node:fs/promises';
import { createServer, type Server } from 'node:http';
import { join } from 'node:path';
import { renderAll } from './make.ts';
import type { Made } from './recipe.ts';
import type { Scene } from './sky/scene.ts';

/** The demo's supplier of images: an agency with numbers for names, as such suppliers have them. */
export const AGENCY = 'Greyling Pictures';

const SHELF: readonly [scene: Omit<Scene, 'seed'>, words: string][] = [
  [{ motif: 'comet' }, 'A comet with two tails over a dark horizon'],
  [{ motif: 'milkyway' }, 'The Milky Way above bare hills'],
  [{ motif: 'sun' }, 'The Sun with a large group of spots'],
  [{ motif: 'dome', weather: 'aurora' }, 'An observatory dome under green northern lights'],
  [{ motif: 'saturn' }, 'Saturn, its rings wide open'],
  [{ motif: 'nebula' }, 'A red nebula with a dark lane'],
];

const nameOf = (index: number) => `GP_${40217 + 13 * index}_L.jpg`;

function pictures(seed: string): Made[] {
  return SHELF.map(([scene, words], index) => ({
    path: nameOf(index),
    recipe: {
      make: 'picture',
      scene: { ...scene, seed: `${seed} agency ${index}` },
      width: 2400,
      height: 1600,
      format: 'jpg',
      quality: 88,
      exif: { Artist: 'Tamsin Greyling', Copyright: `© ${AGENCY}`, ImageDescription: words },
    },
  }));
}

/** Makes the agency's images, unless they are there. */
export async function makeAgency(folder: string, seed: string, edge = 900): Promise<void> {
  if (existsSync(folder)) return;
  const unfinished = `${folder}.making`;
  await rm(unfinished, { recursive: true, force: true });
  await renderAll(pictures(seed), unfinished, edge, () => undefined);
  await rename(unfinished, folder);
}

/** The agency's server: a list at '/', each image under its number ('/order/40217' leads on to the file). */
export function serveAgency(folder: string): Server {
  return createServer((request, answer) => {
    const path = new URL(request.url ?? '/', 'http://agency').pathname;
    const order = /^\/order\/(\d+)$/.exec(path)?.[1];
    const names = SHELF.map((_, index) => nameOf(index));
    const named = names.find((name) => name === path.slice(1));
    if (path === '/') {
      const own = `http://${request.headers.host}`;
      const lines = names.map((name, index) => `<li>${SHELF[index]![1]}: <code>${own}/${name}</code></li>`);
      answer.setHeader('Content-Type', 'text/html; charset=utf-8');
      answer.end(
        `<!doctype html><html lang="en"><title>${AGENCY}</title><h1>${AGENCY}</h1><p>Addresses of the pictures ordered:</p><ol>${lines.join('')}</ol>`,
      );
    } else if (order && names.includes(`GP_${order}_L.jpg`)) {
      answer.writeHead(302, { Location: `/GP_${order}_L.jpg` }).end();
    } else if (named) {
      readFile(join(folder, named)).then(
        (bytes) =>
          answer.writeHead(200, { 'Content-Type': 'image/jpeg', 'Content-Length': bytes.length }).end(bytes),
        (error: Error) => answer.writeHead(500).end(error.message),
      );
    } else answer.writeHead(404).end('There is no such picture.');
  });
}
