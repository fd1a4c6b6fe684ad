import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { ensureReady, root } from './ensure.mjs';

/** Runs the server in the foreground and ends as it ends. */
export function serve(args) {
  const cwd = process.env.INIT_CWD ?? process.cwd();
  const server = spawn(process.execPath, [join(root, 'build', 'server.js'), ...args], {
    cwd,
    stdio: 'inherit',
  });
  for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => server.kill(signal));
  server.on('exit', (code) => process.exit(code ?? 0));
}

if (process.argv[1] === join(root, 'scripts', 'start.mjs')) {
  await ensureReady();
  serve(process.argv.slice(2));
}
