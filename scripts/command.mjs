// What every command is made of: where the project is, saying, failing, running programs.
import { spawn, spawnSync } from 'node:child_process';
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

/**
 * Runs a program beside others.
 * @param how.aloud its output goes to our standard error; else it gives way to the others, and what it says is kept until it ends
 * @returns its exit code and what it said
 */
export function runBeside(command, args, { aloud = false } = {}) {
  return new Promise((done) => {
    const child = aloud
      ? spawn(command, args, { cwd: root, stdio: ['ignore', 2, 'inherit'] })
      : spawn('nice', [command, ...args], { cwd: root, stdio: ['ignore', 'pipe', 'pipe'] });
    let said = '';
    child.stdout?.on('data', (text) => (said += text));
    child.stderr?.on('data', (text) => (said += text));
    child.on('error', (error) => done({ code: 1, said: error.message }));
    child.on('close', (code) => done({ code: code ?? 1, said }));
  });
}
