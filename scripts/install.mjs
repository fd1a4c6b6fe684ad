// Installs what package-lock.json says.
import { createHash } from 'node:crypto';
import { existsSync, readFileSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { fail, root, run, say } from './command.mjs';

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
