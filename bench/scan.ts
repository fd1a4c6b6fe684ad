import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { Worker } from 'node:worker_threads';
import { Chance } from '../demo/chance.ts';
import { besideSite } from '../server/files/data-folder.ts';
import { scanSite, type Survey } from '../server/scan/scan.ts';
import { walkSite } from '../server/files/walk.ts';
import { Pool } from '../server/workers/pool.ts';
import { time } from './time.ts';

const PAGES = 5000;
const PICTURES = 200;
/** On each page, beside the links of its navigation. */
const SHOWN = 4;

/**
 * Reading and connecting a site of pages of real size, against a bare parse of the same pages by the same parser on as many
 * threads; and reading it again after one page has changed, against walking its folders.
 */
export async function benchScan(say: (text: string) => void): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), 'iconomos-bench-'));
  const root = join(folder, 'site');
  const dice = new Chance('scan');
  for (let i = 0; i < 50; i++) {
    mkdirSync(join(root, `img/f${i}`), { recursive: true });
    mkdirSync(join(root, `p${i}`), { recursive: true });
  }
  const pathOf = (i: number) => `img/f${i % 50}/picture-${i}.svg`;
  for (let i = 0; i < PICTURES; i++)
    writeFileSync(join(root, pathOf(i)), `<svg xmlns="http://www.w3.org/2000/svg"><title>${i}</title></svg>`);
  const paragraph =
    '<p class="text">The programme follows the <em>weather</em>, and the dome follows the programme: see <a href="../p1/page-1.html">the first page</a>.</p>\n';
  const head = `<meta charset="utf-8"><link rel="stylesheet" href="../style.css"><nav>${'<a class="to" href="../p2/page-2.html">Tonight</a>\n'.repeat(20)}</nav>`;
  writeFileSync(join(root, 'style.css'), 'p { margin: 0 }');
  const pages: string[] = [];
  let bytes = 0;
  for (let i = 0; i < PAGES; i++) {
    const shown = Array.from(
      { length: SHOWN },
      () =>
        `<figure><img src="../${pathOf(dice.whole(0, PICTURES - 1))}" alt="A view" width="640" height="480" loading="lazy"><figcaption>A view</figcaption></figure>`,
    );
    const text = `<!doctype html><html lang="en"><title>Page ${i}</title>${head}${shown.join(paragraph.repeat(20))}${paragraph.repeat(40)}</html>`;
    bytes += text.length;
    pages.push(join(root, `p${i % 50}/page-${i}.html`));
    writeFileSync(pages.at(-1)!, text);
  }
  const pool = new Pool();
  const options = { root, dataFolder: besideSite(root), pool };
  try {
    // Both sides start cold, each with threads of its own; in turns, three times, the middle ratio counts.
    let survey!: Survey;
    const rounds: { bare: number; scan: number }[] = [];
    for (let round = 0; round < 3; round++) {
      const bare = await time(() => bareParse(pages, pool.size));
      const fresh = new Pool();
      const scan = await time(async () => (survey = await scanSite({ ...options, pool: fresh })));
      await fresh.close();
      rounds.push({ bare, scan });
    }
    rounds.sort((a, b) => a.bare / a.scan - b.bare / b.scan);
    const { bare, scan } = rounds[1]!;
    const references = [...survey.placements.values()].reduce((sum, one) => sum + one.length, 0);
    say(
      `Reading ${PAGES} pages of ${(bytes / PAGES / 1000).toFixed(0)} kB with ${references} references and ${PICTURES} drawings, connected and searched for names: ${(bare / scan).toFixed(2)} of the rate of a bare parse of the pages on ${pool.size} threads (${(scan / 1000).toFixed(1)} and ${(bare / 1000).toFixed(1)} s; of three runs ${rounds.map((one) => (one.bare / one.scan).toFixed(2)).join(', ')}).`,
    );
    writeFileSync(pages[7]!, '<!doctype html><title>Other</title><img src="../img/f0/picture-0.svg">');
    // In turns, so that a busy moment of the machine meets both; the best of each counts.
    const [walks, agains]: [number[], number[]] = [[], []];
    for (let run = 0; run < 12; run++) {
      walks.push(await time(() => walkSite(root, options.dataFolder)));
      agains.push(await time(() => scanSite({ ...options, known: survey.files, site: survey.site })));
    }
    const [walk, again] = [Math.min(...walks), Math.min(...agains)];
    say(
      `Read again after one page has changed: ${again.toFixed(0)} ms, of which walking the folders takes ${walk.toFixed(0)} ms; the rest is 1/${Math.round(scan / Math.max(1, again - walk))} of the first.`,
    );
  } finally {
    await pool.close();
    rmSync(folder, { recursive: true });
  }
}

async function bareParse(pages: readonly string[], threads: number): Promise<void> {
  await Promise.all(
    Array.from({ length: threads }, (_, at) => {
      const thread = new Worker(
        `const { workerData } = require('node:worker_threads');
         const { readFileSync } = require('node:fs');
         import('parse5').then(({ parse }) => { for (const page of workerData) parse(readFileSync(page, 'utf8')); });`,
        { eval: true, workerData: pages.filter((_, index) => index % threads === at) },
      );
      return new Promise<void>((done, failed) => thread.on('exit', () => done()).on('error', failed));
    }),
  );
}
