import { join } from 'node:path';
import { ensureReady, fail, root, run, say } from './ensure.mjs';
import { serve } from './start.mjs';

await ensureReady();
const args = process.argv.slice(2);
const site = join(root, 'demo-site', 'corvane-hill');
const fresh = args.includes('--fresh') ? ['--fresh'] : [];
if (
  run(process.execPath, [join(root, 'build', 'demo.js'), '--site', site, ...fresh], { toStdout: true }) !== 0
) {
  fail('The demo site could not be made; the lines above say why.');
}
say('Starting the server …');
serve(['--site', site, ...args.filter((arg) => arg !== '--fresh')]);
