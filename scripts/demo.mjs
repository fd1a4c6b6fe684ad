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
const agencyPort = port + 2;
const provider = join(root, 'demo-site', 'accounts.json');
const accountsProgram = join(root, 'build', 'accounts.js');
if (run(process.execPath, [accountsProgram, '--provider', provider, '--make', String(port + 3)]) !== 0)
  fail('The demo’s provider of accounts could not be set up; the lines above say why.');
const apps = ['127.0.0.1', 'localhost'].flatMap((name) => ['--app', `http://${name}:${port}`]);
const accounts = spawn(process.execPath, [accountsProgram, '--provider', provider, ...apps], {
  stdio: 'inherit',
});
const [bankPort, taggerPort] = [port + 4, port + 5];
const beside = (name, at) =>
  spawn(
    process.execPath,
    [join(root, 'build', `${name}.js`), '--folder', join(root, 'demo-site', name), '--port', String(at)],
    { stdio: 'inherit' },
  );
const services = [beside('agency', agencyPort), beside('bank', bankPort), beside('tagger', taggerPort)];
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
    '--tagging-service',
    `http://127.0.0.1:${taggerPort}`,
    ...given,
  ],
  [accounts, ...services],
);
