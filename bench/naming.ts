import {
  cpSync,
  fsyncSync,
  mkdirSync,
  mkdtempSync,
  openSync,
  closeSync,
  readFileSync,
  renameSync,
  rmSync,
  writeFileSync,
  writeSync,
} from 'node:fs';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { monitorEventLoopDelay } from 'node:perf_hooks';
import { parse } from 'parse5';
import sharp from 'sharp';
import { compose, Counting, type NamingFacts } from '../core/naming/compose.ts';
import { newNames } from '../core/naming/names.ts';
import { newPiece, PLAIN_PATTERN } from '../core/naming/pattern.ts';
import { proposeNames } from '../server/changes/addresses.ts';
import { applyProposal } from '../server/changes/apply.ts';
import { proposeUndo } from '../server/changes/undo.ts';
import { openSite } from '../server/app/open-site.ts';
import { ALL_HERE } from '../server/db/item-query.ts';
import { time } from './time.ts';

const ITEMS = 10_000;
const PAGES = 5000;
const ON_PAGE = 6;

/**
 * Ten thousand pictures that five thousand pages show get new names: the plan against a bare parse of the pages, applying
 * it against bare reading, writing and syncing of the pages and renaming of the pictures.
 */
export async function benchNaming(say: (text: string) => void): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), 'iconomos-bench-'));
  const root = join(folder, 'site');
  const picture = await sharp({ create: { width: 24, height: 16, channels: 3, background: '#246' } })
    .png()
    .toBuffer();
  const pathOf = (i: number) => `img/f${i % 50}/IMG_${i}.png`;
  const pages: string[] = [];
  for (let i = 0; i < 50; i++) mkdirSync(join(root, `img/f${i}`), { recursive: true });
  for (let i = 0; i < 50; i++) mkdirSync(join(root, `p${i}`), { recursive: true });
  for (let i = 0; i < ITEMS; i++)
    writeFileSync(join(root, pathOf(i)), Buffer.concat([picture, Buffer.from(`x${i}`)]));
  const filler =
    '<p class="text">The programme follows the weather, and the dome follows the programme.</p>\n'.repeat(40);
  for (let i = 0; i < PAGES; i++) {
    const shown = Array.from(
      { length: ON_PAGE },
      (_, n) => `<img src="../${pathOf((i * 7 + n * 1601) % ITEMS)}" alt="">`,
    );
    const path = `p${i % 50}/page-${i}.html`;
    pages.push(path);
    writeFileSync(
      join(root, path),
      `<!doctype html><title>Page ${i}</title>${filler}${shown.join(filler.slice(0, 200))}`,
    );
  }
  // The bare run has its own files, so that the site is not changed behind its plan.
  const copy = join(folder, 'copy');
  cpSync(root, copy, { recursive: true });
  const site = await openSite({ site: root, people: [{ name: 'A', role: 'steward' }] });
  try {
    await site.scanner.scan();
    const texts = pages.map((path) => readFileSync(join(root, path), 'utf8'));
    const parsed = await time(() => texts.forEach((text) => void parse(text)));

    const items = site.items.some(site.finder.ids({ ...ALL_HERE }));
    const facts: NamingFacts[] = items.map((item) => ({
      id: item.id,
      path: item.path,
      kind: item.kind,
      title: 'The dome in the first light of the morning',
      alt: '',
      caption: '',
      tags: [],
      takenAt: null,
      addedAt: item.addedAt,
      width: item.width,
      height: item.height,
      pages: [],
      own: {},
    }));
    const pattern = { ...PLAIN_PATTERN, pieces: [newPiece('title'), newPiece('counter')] };
    const visible = facts.slice(0, 14);
    compose(pattern, facts[0]!, new Counting(pattern));
    const frame = await time(() => visible.forEach((one) => compose(pattern, one, new Counting(pattern))));
    let names = newNames(facts, pattern, new Map());
    const all = await time(() => (names = newNames(facts, pattern, new Map())));
    say(
      `New names of ${ITEMS}: the ${visible.length} in sight take ${frame.toFixed(2)} ms for a keystroke (a frame has 16.7); all with their clashes, on a worker, ${all.toFixed(0)} ms.`,
    );

    const delay = monitorEventLoopDelay({ resolution: 5 });
    delay.enable();
    let proposal!: Awaited<ReturnType<typeof proposeNames>>;
    const planned = await time(async () => {
      proposal = await proposeNames(
        site,
        names.map((one) => ({ itemId: one.id, name: one.to.slice(one.to.lastIndexOf('/') + 1) })),
      );
    });
    say(
      `Renaming ${ITEMS} items on ${PAGES} pages, the plan: ${(planned / parsed).toFixed(2)} x a bare parse of the pages (${planned.toFixed(0)} and ${parsed.toFixed(0)} ms); ${proposal.plan.totals.spans} addresses.`,
    );
    const planHold = delay.max / 1e6;
    delay.disable();
    // The same bare run takes from half to twice its usual time, as the disk will: the middle one of three counts.
    const bares: number[] = [];
    for (let run = 0; run < 3; run++) bares.push(await time(() => bareRun(copy, pages, pathOf)));
    const bare = bares.sort((a, b) => a - b)[1]!;
    const applying = monitorEventLoopDelay({ resolution: 5 });
    applying.enable();
    const applied = await time(() => applyProposal(site, proposal, 1));
    applying.disable();
    say(
      `Applied, all or nothing, with its undo: ${(applied / bare).toFixed(2)} x bare reading, writing and syncing of the pages and renaming of the items (${(applied / 1000).toFixed(1)} and ${bares.map((one) => (one / 1000).toFixed(1)).join(', ')} s); event loop p99 ${(applying.percentile(99) / 1e6).toFixed(0)} ms, at most ${(applying.max / 1e6).toFixed(0)} ms, and ${planHold.toFixed(0)} ms while planning.`,
    );
    const undo = await time(async () => applyProposal(site, await proposeUndo(site, 1), 1));
    say(`Undone in ${(undo / 1000).toFixed(1)} s.`);
  } finally {
    await site.close();
    rmSync(folder, { recursive: true, force: true });
  }
}

/** What a script without plan, ledger and undo would do, file after file; the items go back to their names. */
function bareRun(root: string, pages: readonly string[], pathOf: (i: number) => string): void {
  const sync = (path: string) => {
    const file = openSync(path, 'r');
    fsyncSync(file);
    closeSync(file);
  };
  for (const path of pages) {
    const text = readFileSync(join(root, path));
    const to = join(root, `${path}.new`);
    const file = openSync(to, 'w');
    writeSync(file, text);
    fsyncSync(file);
    closeSync(file);
    renameSync(to, join(root, path));
  }
  const folders = new Set<string>();
  for (let i = 0; i < ITEMS; i++) {
    const from = join(root, pathOf(i));
    renameSync(from, `${from}.moved`);
    folders.add(dirname(from));
  }
  for (const one of folders) sync(one);
  for (let i = 0; i < ITEMS; i++) {
    const from = join(root, pathOf(i));
    renameSync(`${from}.moved`, from);
  }
  for (const one of folders) sync(one);
}
