import { spawnSync } from 'node:child_process';
import { join } from 'node:path';
import { root } from './command.mjs';
import { ensureReady } from './ready.mjs';

await ensureReady();
// From the folder the person stands in, so that relative paths mean what they say.
const cwd = process.env.INIT_CWD ?? process.cwd();
const [program, ...given] = process.argv.slice(2);
const done = spawnSync(process.execPath, [join(root, 'build', `${program}.js`), ...given], {
  cwd,
  stdio: 'inherit',
});
process.exit(done.status ?? 2);
