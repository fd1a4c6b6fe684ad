import { execFileSync } from 'node:child_process';
import { mkdtempSync, mkdirSync, rmSync, writeFileSync } from 'node:fs';
import { readFile } from 'node:fs/promises';
import { createServer, request } from 'node:http';
import type { AddressInfo } from 'node:net';
import { availableParallelism, tmpdir } from 'node:os';
import { join } from 'node:path';
import { monitorEventLoopDelay } from 'node:perf_hooks';
import pino from 'pino';
import sharp from 'sharp';
import { createApp } from '../server/http/app.ts';
import { THUMBNAIL_SIZES } from '../core/media/analysis.ts';
import type { OpenedSite } from '../server/app/opened-site.ts';
import { openSite } from '../server/app/open-site.ts';
import { twelveMegapixels } from './twelve.ts';
import { RunningServer } from '../e2e/server.ts';

/**
 * Intake of twelve-megapixel JPEGs through the real protocol, against a bare loop that only makes the same two thumbnails
 * of each; the hold of the server's thread meanwhile; its memory while a large file comes in.
 * @param files how many pictures; @param megabytes of the large file
 */
export async function benchIntake(
  say: (text: string) => void,
  files: number,
  megabytes: number,
): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), 'iconomos-bench-'));
  const root = join(folder, 'site');
  mkdirSync(root);
  writeFileSync(join(root, 'index.html'), '<p>');
  say(`Painting ${files} pictures of twelve megapixels …`);
  const paths = await twelveMegapixels(folder, files);

  sharp.concurrency(1);
  sharp.cache(false);
  const site = await openSite({ site: root });
  await site.scanner.scan();
  const log = pino({ level: 'silent' });
  const server = createServer();
  await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
  const { port } = server.address() as AddressInfo;
  server.on(
    'request',
    createApp({
      site,
      log,
      servedAt: 'http://127.0.0.1:1',
      hosts: [`127.0.0.1:${port}`],
      demo: true,
    }).callback(),
  );
  // Block by block in turn, so that both see the same moods of the machine.
  const delay = monitorEventLoopDelay({ resolution: 5 });
  let [bare, ours] = [0, 0];
  await takeIn(site, port, paths.slice(0, 4)); // the first task of every worker loads what it needs
  for (let at = 4; at < paths.length; at += BLOCK) {
    const block = paths.slice(at, at + BLOCK);
    bare += await time(() => bareLoop(block, folder));
    delay.enable();
    ours += await time(() => takeIn(site, port, block));
    delay.disable();
  }
  const states = site.arrivals.of(1).map((row) => row.state);
  if (states.some((state) => state !== 'ready')) throw new Error(`not all were taken: ${states.join(' ')}`);
  say(
    `Intake of ${files} twelve-megapixel JPEGs: ${(bare / ours).toFixed(2)} x the rate of a bare loop that makes the same thumbnails (${(ours / (files - 4)).toFixed(0)} and ${(bare / (files - 4)).toFixed(0)} ms a file).`,
  );
  say(`Delay of the server's event loop meanwhile: p99 ${(delay.percentile(99) / 1e6).toFixed(0)} ms.`);

  server.close();
  server.closeAllConnections();
  await site.close();
  rmSync(folder, { recursive: true });
  await benchMemory(say, megabytes);
}

const BLOCK = 37;

async function time(work: () => Promise<void>): Promise<number> {
  const start = performance.now();
  await work();
  return performance.now() - start;
}

/** Only the two thumbnails, as many at once as there are cores. */
async function bareLoop(paths: readonly string[], folder: string): Promise<void> {
  const queue = [...paths];
  const lane = async () => {
    for (let path = queue.shift(); path; path = queue.shift())
      for (const size of THUMBNAIL_SIZES)
        await sharp(path)
          .autoOrient()
          .resize({ width: size, height: size, fit: 'inside', withoutEnlargement: true })
          .webp({ quality: 80, effort: 2 })
          .toFile(join(folder, `bare-${size}.webp.${Math.random()}`));
  };
  await Promise.all(Array.from({ length: availableParallelism() }, lane));
}

/** Three files at a time, as the window sends them, until all are checked. */
async function takeIn(site: OpenedSite, port: number, paths: readonly string[]): Promise<void> {
  const sending = [...paths];
  const lane = async () => {
    for (let path = sending.shift(); path; path = sending.shift()) await send(port, path);
  };
  await Promise.all([lane(), lane(), lane()]);
  await site.checking.settled();
}

const HEADERS = { 'Tus-Resumable': '1.0.0', 'Content-Type': 'application/offset+octet-stream' };

async function send(port: number, path: string): Promise<void> {
  const body = await readFile(path);
  const answer = await fetch(`http://127.0.0.1:${port}/api/uploads`, {
    method: 'POST',
    headers: {
      ...HEADERS,
      Origin: `http://127.0.0.1:${port}`,
      'Upload-Length': String(body.length),
      'Upload-Metadata': `name ${Buffer.from(path.split('/').at(-1)!).toString('base64')}`,
    },
    body,
  });
  if (answer.status !== 201) throw new Error(`${answer.status} ${await answer.text()}`);
}

/** A server of its own, before it has done anything else, looked at from outside while a large file comes in. */
async function benchMemory(say: (text: string) => void, megabytes: number): Promise<void> {
  const root = mkdtempSync(join(tmpdir(), 'iconomos-bench-'));
  writeFileSync(join(root, 'index.html'), '<p>');
  const server = await RunningServer.start(root);
  const resident = () =>
    Number(execFileSync('ps', ['-o', 'rss=', '-p', String(server.pid)], { encoding: 'utf8' })) / 1000;
  await new Promise((done) => setTimeout(done, 2000));
  const idle = resident();
  let most = 0;
  const watch = setInterval(() => (most = Math.max(most, resident())), 100);
  await sendZeros(Number(new URL(server.address).port), megabytes);
  clearInterval(watch);
  say(
    `Memory of the server while ${megabytes} MB come in: at most ${Math.max(0, most - idle).toFixed(0)} MB above idle (${idle.toFixed(0)} MB).`,
  );
  await server.stop();
  rmSync(root, { recursive: true });
}

/** One upload that never ends its file: only receiving is measured. */
async function sendZeros(port: number, megabytes: number): Promise<void> {
  const created = await fetch(`http://127.0.0.1:${port}/api/uploads`, {
    method: 'POST',
    headers: {
      Origin: `http://127.0.0.1:${port}`,
      'Tus-Resumable': '1.0.0',
      'Upload-Length': String(megabytes * 1e6 + 1),
    },
  });
  const chunk = Buffer.alloc(1_000_000);
  await new Promise<void>((done, failed) => {
    const upload = request(
      {
        port,
        method: 'PATCH',
        path: created.headers.get('location')!,
        headers: { ...HEADERS, Origin: `http://127.0.0.1:${port}`, 'Upload-Offset': '0' },
      },
      (answer) => {
        answer.resume();
        answer.on('end', done);
      },
    );
    upload.on('error', failed);
    let sent = 0;
    const more = () => {
      while (sent < megabytes) {
        sent++;
        if (!upload.write(chunk)) return void upload.once('drain', more);
      }
      upload.end();
    };
    more();
  });
}
