// Everything: types, lint, unit, server and browser tests. Installs what it needs, Chromium too.
import { existsSync, readFileSync, rmSync } from 'node:fs';
import { join } from 'node:path';
import { bin, fail, root, run, runBeside, say } from './command.mjs';
import { ensureInstalled } from './install.mjs';

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

// What follows needs the packages: it is loaded only now.
const { build } = await import('./build.mjs');
const { refuseWrongImports } = await import('./imports.mjs');
await build();
refuseWrongImports();
say('Running unit, server and browser tests; types, lint and format beside them …');
const results = join(root, 'build', 'tests.json');
rmSync(results, { force: true });
const tests = runBeside(
  bin('vitest'),
  ['run', '--reporter=default', '--reporter=json', `--outputFile.json=${results}`],
  { aloud: true },
);
const faults = [];
for (const [name, args, fault] of [
  ['vue-tsc', ['--noEmit', '-p', 'tsconfig.json'], 'The types do not fit; the lines above say where.'],
  ['eslint', ['.', '--max-warnings', '0'], 'The linter found faults; the lines above say where.'],
  ['prettier', ['--check', '--log-level', 'warn', '.'], 'Some files are not formatted: run npm run format.'],
]) {
  const begun = Date.now();
  const { code, said } = await runBeside(bin(name), args);
  say(`${name}: ${code === 0 ? 'no faults' : 'faults'}, ${Math.round((Date.now() - begun) / 1000)} s.`);
  if (code !== 0) faults.push({ said, fault });
}
const { code } = await tests;
if (!existsSync(results)) fail('The tests did not run to their end.');
const { numPassedTests, numFailedTests, numTotalTests } = JSON.parse(readFileSync(results, 'utf8'));
say(`All of it took ${Math.round((Date.now() - started) / 1000)} s.`);
process.stdout.write(`${numPassedTests} passed, ${numFailedTests} failed\n`);
for (const { said } of faults) say(said);
if (faults.length > 0) fail(faults.map(({ fault }) => fault).join('\n'));
if (code !== 0 || numFailedTests > 0) fail('Some tests failed; the lines above say which.');
if (numTotalTests === 0) fail('No test ran.');
