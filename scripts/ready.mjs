// What commands need first: installed packages and a build that is newer than its sources.
import { existsSync, readdirSync, mkdirSync, statSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { root } from './command.mjs';
import { ensureInstalled } from './install.mjs';

const SOURCES = [
  'core',
  'api',
  'server',
  'web',
  'cli',
  'demo',
  'e2e',
  'bench',
  'scripts',
  'package-lock.json',
  'vite.config.ts',
  'index.html',
];

function newest(path) {
  if (!existsSync(path)) return 0;
  const found = statSync(path);
  if (!found.isDirectory()) return found.mtimeMs;
  return Math.max(found.mtimeMs, ...readdirSync(path).map((name) => newest(join(path, name))));
}

/** Builds server, worker, commands and interface when a source is newer than the build. */
export async function ensureBuilt() {
  const stamp = join(root, 'build', '.built');
  const sources = Math.max(...SOURCES.map((name) => newest(join(root, name))));
  if (existsSync(stamp) && statSync(stamp).mtimeMs > sources) return;
  const { build } = await import('./build.mjs');
  await build();
  mkdirSync(join(root, 'build'), { recursive: true });
  writeFileSync(stamp, '');
}

export async function ensureReady() {
  ensureInstalled();
  await ensureBuilt();
}
