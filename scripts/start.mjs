import { spawn } from 'node:child_process';
import { join } from 'node:path';
import { root } from './command.mjs';
import { ensureReady } from './ready.mjs';

/** Runs the server in the foreground and ends as it ends. @param beside processes that end with it */
export function serve(args, beside = []) {
  const cwd = process.env.INIT_CWD ?? process.cwd();
  const server = spawn(process.execPath, [join(root, 'build', 'server.js'), ...args], {
    cwd,
    stdio: 'inherit',
  });
  for (const signal of ['SIGINT', 'SIGTERM']) process.on(signal, () => server.kill(signal));
  server.on('exit', (code) => {
    for (const one of beside) one.kill();
    process.exit(code ?? 0);
  });
}

if (process.argv[1] === join(root, 'scripts', 'start.mjs')) {
  await ensureReady();
  serve(process.argv.slice(2));
}
