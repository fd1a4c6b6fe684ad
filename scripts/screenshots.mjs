import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { fail, root, run } from './command.mjs';
import { ensureReady } from './ready.mjs';

await ensureReady();
const site = join(root, 'demo-site', 'corvane-hill');
if (!existsSync(site)) fail('There is no demo site yet: run npm run demo once.');
process.exit(
  run(process.execPath, [join(root, 'build', 'screenshots.js'), site, join(root, 'docs', 'screenshots')]),
);
