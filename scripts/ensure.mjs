// What every command needs first: installed packages and a build that is newer than its sources.
import { spawnSync } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync, readdirSync, readFileSync, mkdirSync, statSync, writeFileSync } from 'node:fs';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';

export const root = join(dirname(fileURLToPath(import.meta.url)), '..');

/** Says what is being done, on standard error, so that standard output stays for results. */
export function say(text) {
  process.stderr.write(`${text}\n`);
}

/** Ends the command with a sentence. */
export function fail(text) {
  say(`\n${text}`);
  process.exit(2);
}

/** Runs a program in the project's folder, its output on our standard error. Answers its exit code. */
export function run(command, args, options = {}) {
  const done = spawnSync(command, args, {
    cwd: root,
    stdio: ['ignore', options.toStdout ? 'inherit' : 2, 'inherit'],
    env: { ...process.env, ...options.env },
  });
  if (done.error) fail(`“${command}” could not be started: ${done.error.message}.`);
  return done.status ?? 1;
}

export function bin(name) {
  return join(root, 'node_modules', '.bin', name);
}

/** Installs the packages of the lock file when they are not there, or not those of this lock file. */
export function ensureInstalled() {
  const [major, minor] = process.versions.node.split('.').map(Number);
  if (major < 20 || (major === 20 && minor < 19))
    fail(`Iconomos needs Node.js 20.19 or newer; this is ${process.versions.node}.`);
  const stamp = join(root, 'node_modules', '.iconomos-installed');
  const lock = createHash('sha256')
    .update(readFileSync(join(root, 'package-lock.json')))
    .digest('hex');
  if (existsSync(stamp) && readFileSync(stamp, 'utf8') === lock) return;
  say(
    'Installing packages. The database library is compiled on the way: that takes 2 to 4 minutes, with no output.',
  );
  const started = Date.now();
  if (run('npm', ['ci', '--no-audit', '--no-fund', '--loglevel=error']) !== 0) {
    fail(
      'Installing the packages failed. Read the lines above; a C++ compiler, make and python3 are needed.',
    );
  }
  writeFileSync(stamp, lock);
  say(`Packages installed in ${Math.round((Date.now() - started) / 1000)} s.`);
}

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
