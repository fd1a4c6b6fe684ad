import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { ensureReady, fail, root, run } from './ensure.mjs';

await ensureReady();
const site = join(root, 'demo-site', 'corvane-hill');
if (!existsSync(site)) fail('There is no demo site yet: run npm run demo once.');
process.exit(
  run(process.execPath, [join(root, 'build', 'screenshots.js'), site, join(root, 'docs', 'screenshots')]),
);
