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
const port = at >= 0 ? Number(given[at + 1]) : 4310;
const agencyPort = String(port + 2);
const agency = spawn(
  process.execPath,
  [join(root, 'build', 'agency.js'), '--folder', join(root, 'demo-site', 'agency'), '--port', agencyPort],
  { stdio: 'inherit' },
);
const provider = join(root, 'demo-site', 'accounts.json');
const accountsProgram = join(root, 'build', 'accounts.js');
if (run(process.execPath, [accountsProgram, '--provider', provider, '--make', String(port + 3)]) !== 0)
  fail('The demo’s provider of accounts could not be set up; the lines above say why.');
const apps = ['127.0.0.1', 'localhost'].flatMap((name) => ['--app', `http://${name}:${port}`]);
const accounts = spawn(process.execPath, [accountsProgram, '--provider', provider, ...apps], {
  stdio: 'inherit',
});
const bankPort = String(port + 4);
const bank = spawn(
  process.execPath,
  [join(root, 'build', 'bank.js'), '--folder', join(root, 'demo-site', 'bank'), '--port', bankPort],
  { stdio: 'inherit' },
);
serve(
  [
    '--site',
    site,
    '--demo',
    '--fetch-host',
    `127.0.0.1:${agencyPort}`,
    '--provider',
    provider,
    '--image-bank',
    `http://127.0.0.1:${bankPort}`,
    ...given,
  ],
  [agency, accounts, bank],
);
