import { cpSync, mkdirSync, mkdtempSync, readFileSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { monitorEventLoopDelay } from 'node:perf_hooks';
import { parse } from 'parse5';
import { NameIndex } from '../core/reference/mention.ts';
import { readPage } from '../core/reference/read.ts';
import { readSource } from '../core/reference/source.ts';
import { SMALL_DEMO } from '../demo/test-setup.ts';
import { besideSite } from '../server/files/data-folder.ts';
import { openSite } from '../server/app/open-site.ts';
import { scanSite } from '../server/scan/scan.ts';
import { Pool } from '../server/workers/pool.ts';
import { time } from './time.ts';

/** Reading a page against parsing it, looking for names, and how long a scan holds the main thread. */
export async function benchReading(say: (text: string) => void): Promise<void> {
  const page = readFileSync(join(SMALL_DEMO, 'gallery/deep-sky.html'));
  const large = new Uint8Array(Buffer.concat(Array.from({ length: 40 }, () => page)));
  const text = Buffer.from(large).toString('utf8');
  const source = readSource(large);
  if ('unread' in source) throw new Error(source.unread);
  await time(() => parse(text));
  const bare = await time(() => parse(text));
  const ours = await time(() => readPage('gallery/x.html', source));
  say(
    `Reading references of a ${(large.length / 1e6).toFixed(1)} MB page: ${(ours / bare).toFixed(2)} x the time of a bare parse5 parse.`,
  );

  const few = new NameIndex(['a/alpha.jpg']);
  const many = new NameIndex(Array.from({ length: 20_000 }, (_, i) => `a/name-${i}.jpg`));
  await time(() => few.search(text));
  await time(() => many.search(text));
  const rounds = [1, 2, 3, 4, 5];
  const one = await time(() => rounds.forEach(() => few.search(text)));
  const all = await time(() => rounds.forEach(() => many.search(text)));
  say(`Searching a text for 20,000 names: ${(all / one).toFixed(2)} x the time for one name.`);

  const root = mkdtempSync(join(tmpdir(), 'iconomos-bench-'));
  for (let i = 0; i < 1500; i++) {
    mkdirSync(join(root, `d${i % 30}`), { recursive: true });
    writeFileSync(join(root, `d${i % 30}`, `p${i}.html`), page);
  }
  const pool = new Pool();
  const options = { root, dataFolder: besideSite(root), pool };
  const delay = monitorEventLoopDelay({ resolution: 5 });
  delay.enable();
  let survey: Awaited<ReturnType<typeof scanSite>> | undefined;
  const first = await time(async () => (survey = await scanSite(options)));
  delay.disable();
  const second = await time(async () => scanSite({ ...options, known: survey!.files }));
  say(`A second scan of 1,500 unchanged pages: ${(second / first).toFixed(3)} x the time of the first.`);
  say(
    `Longest hold of the main thread in the first scan: ${(delay.max / 1e6).toFixed(0)} ms of ${Math.round(first)} ms.`,
  );
  await pool.close();
  rmSync(root, { recursive: true });

  // The whole of a first start on the demo: reading, connecting, and writing to the database.
  const demo = join(mkdtempSync(join(tmpdir(), 'iconomos-bench-')), 'site');
  cpSync(SMALL_DEMO, demo, { recursive: true });
  const site = await openSite({ site: demo });
  const hold = monitorEventLoopDelay({ resolution: 5 });
  hold.enable();
  const scan = await time(() => site.scanner.scan());
  hold.disable();
  say(
    `Longest hold of the main thread in the first scan of the demo: ${(hold.max / 1e6).toFixed(0)} ms of ${Math.round(scan)} ms.`,
  );
  await site.close();
  rmSync(dirname(demo), { recursive: true });
}
