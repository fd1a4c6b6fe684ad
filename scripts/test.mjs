// Everything: types, lint, unit, server and browser tests. Installs what it needs, Chromium too.
import { existsSync, readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { bin, ensureInstalled, fail, root, run, say } from './ensure.mjs';

const started = Date.now();
ensureInstalled();
if (!existsSync('/usr/bin/chromium') || !existsSync('/usr/bin/chromedriver')) {
  say('Installing Chromium and ChromeDriver for the browser tests …');
  const apt = (args) => run('apt-get', args, { env: { DEBIAN_FRONTEND: 'noninteractive' } });
  if (
    apt(['update', '-q']) !== 0 ||
    apt(['install', '-y', '-q', '--no-install-recommends', 'chromium', 'chromium-driver']) !== 0
  ) {
    fail(
      'Chromium could not be installed. Install the packages chromium and chromium-driver, then run npm test again.',
    );
  }
}

const { build } = await import('./build.mjs');
await build();
say('Checking types …');
if (run(bin('vue-tsc'), ['--noEmit', '-p', 'tsconfig.json']) !== 0)
  fail('The types do not fit; the lines above say where.');
say('Linting …');
if (run(bin('eslint'), ['.', '--max-warnings', '0']) !== 0)
  fail('The linter found faults; the lines above say where.');
if (run(bin('prettier'), ['--check', '--log-level', 'warn', '.']) !== 0)
  fail('Some files are not formatted: run npm run format.');
say('Running unit, server and browser tests …');
const results = join(root, 'build', 'tests.json');
rmSync(results, { force: true });
const code = run(bin('vitest'), [
  'run',
  '--reporter=default',
  '--reporter=json',
  `--outputFile.json=${results}`,
]);
if (!existsSync(results)) fail('The tests did not run to their end.');
const { numPassedTests, numFailedTests, numTotalTests } = JSON.parse(readFileSync(results, 'utf8'));
say(`All of it took ${Math.round((Date.now() - started) / 1000)} s.`);
process.stdout.write(`${numPassedTests} passed, ${numFailedTests} failed\n`);
if (code !== 0 || numFailedTests > 0) fail('Some tests failed; the lines above say which.');
if (numTotalTests === 0) fail('No test ran.');
