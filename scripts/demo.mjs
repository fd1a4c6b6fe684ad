import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { fail, root, run, say } from './command.mjs';
import { ensureReady } from './ready.mjs';
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
const given = args.filter((arg) => arg !== '--fresh');
const at = given.indexOf('--port');
const agencyPort = String((at >= 0 ? Number(given[at + 1]) : 4310) + 2);
const agency = spawn(
  process.execPath,
  [join(root, 'build', 'agency.js'), '--folder', join(root, 'demo-site', 'agency'), '--port', agencyPort],
  { stdio: 'inherit' },
);
serve(['--site', site, '--demo', '--fetch-host', `127.0.0.1:${agencyPort}`, ...given], [agency]);
