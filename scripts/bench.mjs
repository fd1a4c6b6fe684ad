import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { bin, root, run, say } from './command.mjs';
import { ensureReady } from './ready.mjs';

await ensureReady();
if (!existsSync(join(root, 'build', 'small-demo'))) {
  say('The small demo site of the tests is missing: running its tests makes it.');
  run(bin('vitest'), ['run', 'demo']);
}
process.exit(
  run(process.execPath, [join(root, 'build', 'bench.js'), ...process.argv.slice(2)], {
    toStdout: true,
  }),
);
