import { cpSync, existsSync, readdirSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { join } from 'node:path';
import { brotliCompressSync, constants, gzipSync } from 'node:zlib';
import { bin, fail, root, run, say } from './command.mjs';
import { ensureInstalled } from './install.mjs';

/** Every program of the build: its name in build/ and its source. */
const PROGRAMS = {
  server: 'server/main.ts',
  worker: 'server/workers/worker.ts',
  reader: 'server/db/reader-thread.ts',
  checkpoint: 'server/db/checkpoint-thread.ts',
  'file-writer': 'server/files/file-writer-thread.ts',
  json: 'server/workers/json-thread.ts',
  zip: 'server/export/zip-thread.ts',
  'archive-packer': 'server/archive/pack-thread.ts',
  matching: 'server/upkeep/matching-thread.ts',
  report: 'cli/report.ts',
  backup: 'cli/backup.ts',
  archive: 'cli/archive.ts',
  import: 'cli/import.ts',
  restore: 'cli/restore.ts',
  verify: 'cli/verify.ts',
  demo: 'demo/main.ts',
  agency: 'demo/agency-main.ts',
  accounts: 'demo/accounts-main.ts',
  bank: 'demo/bank/main.ts',
  tagger: 'demo/tagger/main.ts',
  'demo-worker': 'demo/worker.ts',
  'kills-driver': 'bench/kills-driver.ts',
  'crash-driver': 'server/test/crash-driver.ts',
  screenshots: 'e2e/screenshots.ts',
  bench: 'bench/main.ts',
};

export async function build() {
  say('Building server and commands …');
  rmSync(join(root, 'build', 'parts'), { recursive: true, force: true });
  const { build: bundle } = await import('esbuild');
  const entryPoints = Object.fromEntries(
    Object.entries(PROGRAMS).filter(([, source]) => existsSync(join(root, source))),
  );
  await bundle({
    entryPoints,
    absWorkingDir: root,
    outdir: 'build',
    bundle: true,
    splitting: true,
    chunkNames: 'parts/[name]-[hash]',
    platform: 'node',
    format: 'esm',
    target: 'node20',
    packages: 'external',
    sourcemap: true,
    logLevel: 'warning',
  });
  if (existsSync(join(root, 'index.html'))) {
    say('Building the interface …');
    if (run(bin('vite'), ['build', '--logLevel', 'warn']) !== 0)
      fail('The interface could not be built; the lines above say why.');
    // What PDFs need that hold no fonts of their own, and images in formats that browsers don't draw.
    for (const part of ['cmaps', 'standard_fonts', 'wasm'])
      cpSync(join(root, 'node_modules', 'pdfjs-dist', part), join(root, 'build', 'web', 'pdf', part), {
        recursive: true,
      });
    cpSync(join(root, 'node_modules/pdfjs-dist/web/images'), join(root, 'build/web/pdf/images'), {
      recursive: true,
    });
    compress(join(root, 'build', 'web'));
  }
}

/** Beside each text of the interface, what browsers take of it compressed: served as it lies, never made at a request. */
function compress(folder) {
  const params = { [constants.BROTLI_PARAM_QUALITY]: 9 };
  for (const name of readdirSync(folder, { recursive: true })) {
    if (!/\.(m?js|css|html|svg|json)$/.test(name)) continue;
    const path = join(folder, name);
    const bytes = readFileSync(path);
    writeFileSync(`${path}.br`, brotliCompressSync(bytes, { params }));
    writeFileSync(`${path}.gz`, gzipSync(bytes, { level: 9 }));
  }
}

if (process.argv[1] === join(root, 'scripts', 'build.mjs')) {
  ensureInstalled();
  await build();
}
