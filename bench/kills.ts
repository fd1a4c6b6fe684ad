import { spawn } from 'node:child_process';
import { createHash } from 'node:crypto';
import { existsSync } from 'node:fs';
import { mkdir, mkdtemp, readdir, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { dirname, join } from 'node:path';
import { fileURLToPath } from 'node:url';
import { seeded } from '../core/test/chance.ts';
import type { Site } from '../server/app/site.ts';
import { openSite } from '../server/app/open-site.ts';
import { ALL_HERE } from '../server/db/item-query.ts';
import { applied, KINDS_OF_PLANS, randomRequest } from '../server/test/random-plans.ts';
import { deadLinks, linkedFiles } from '../server/test/random-site.ts';
import { Pool } from '../server/workers/pool.ts';

/**
 * Kills a server that applies random plans, at random times and under load, and looks after each kill whether the next start is good:
 * no link leads nowhere, no byte is lost, every record stands at its file and is used as a fresh reading says, and the next plan goes
 * through. `npm run bench -- kills 50 2000`: so many kills, on a site of so many pages.
 */
export async function benchKills(say: (text: string) => void, kills: number, pages: number): Promise<void> {
  const parent = await mkdtemp(join(tmpdir(), 'iconomos-kills-'));
  const root = join(parent, 'site');
  const chance = seeded(Date.now() % 100_000);
  for (const [path, content] of Object.entries(await linkedFiles(chance, pages, Math.max(24, pages / 8)))) {
    await mkdir(dirname(join(root, path)), { recursive: true });
    await writeFile(join(root, path), content);
  }
  const pool = new Pool();
  const first = await openSite({ site: root, pool });
  await first.scanner.scan();
  const bytes = new Set(
    first.finder.list({ ...ALL_HERE, sizes: true, limit: 100_000 }).items.map((item) => item.sha256),
  );
  await first.close();
  const faults: string[] = [];
  const during = new Map<string, number>();
  const away: Away = { paths: new Set(), bytes: new Set() };
  for (let kill = 1; kill <= kills; kill++) {
    const cut = await driveAndKill(root, chance.below(100_000), chance.whole(5, 2500), away);
    during.set(cut, (during.get(cut) ?? 0) + 1);
    const site = await openSite({ site: root, pool });
    const wrong = (what: string) => faults.push(`kill ${kill} (${cut}): ${what}`);
    await site.scanner.settle();
    await site.scanner.scan();
    if (site.ledger.unsettled.length > 0) wrong('a change is not settled');
    const dead = (await deadLinks(root)).filter(
      (link) => ![...away.paths].some((path) => link.includes(path)),
    );
    if (dead.length > 0) wrong(`${dead.length} links lead nowhere, ${dead[0]}`);
    const left = (await readdir(root, { recursive: true })).filter((name) => name.includes('iconomos-stage'));
    if (left.length > 0) wrong(`${left[0]} is left of the work`);
    const here = site.finder.list({ ...ALL_HERE, sizes: true, limit: 100_000 }).items;
    for (const item of here) {
      const file = await readFile(join(root, item.path)).catch(() => undefined);
      if (!file || createHash('sha256').update(file).digest('hex') !== item.sha256)
        wrong(`“${item.path}” is not the file of its record`);
    }
    const known = new Set(here.map((item) => item.sha256));
    for (const sha256 of bytes)
      if (!known.has(sha256) && !site.blobs.has(sha256) && !away.bytes.has(sha256))
        wrong(`bytes are lost: ${sha256}`);
    const uses = (one: Site) =>
      JSON.stringify(
        one.finder
          .list({ ...ALL_HERE, sizes: true, limit: 100_000 })
          .items.map((item) => [item.path, item.use, item.placements])
          .sort(),
      );
    const fresh = await openSite({
      site: root,
      data: join(parent, `fresh-${kill}`),
      pool,
    });
    await fresh.scanner.scan();
    if (uses(fresh) !== uses(site)) wrong('the use of items is not what a fresh reading says');
    await fresh.close();
    await rm(join(parent, `fresh-${kill}`), { recursive: true });
    await site.close();
    if (kill % 10 === 0) say(`  ${kill} of ${kills} kills, ${faults.length} faults`);
  }
  const site = await openSite({ site: root, pool });
  await site.scanner.scan();
  const never = () => Promise.resolve(undefined);
  for (const kind of KINDS_OF_PLANS()) {
    const next = await randomRequest(kind, { site, chance, first: never, others: never });
    if (next) await applied(site, next);
  }
  await site.close();
  await pool.close();
  await rm(parent, { recursive: true });
  const when = [...during].map(([what, number]) => `${number} ${what}`).join(', ');
  say(`Kills: ${kills} on a site of ${pages} pages (${when}): ${faults.length} bad starts.`);
  for (const fault of faults) say(`  ${fault}`);
  if (faults.length > 0) process.exitCode = 1;
}

/** What others took away, so that nobody else is to blame. */
interface Away {
  paths: Set<string>;
  bytes: Set<string>;
}

/** Answers what was under way: the kind of plan, or between two. */
function driveAndKill(root: string, seed: number, after: number, away: Away): Promise<string> {
  const driver = join(dirname(fileURLToPath(import.meta.url)), 'kills-driver.js');
  const file = existsSync(driver) ? driver : join(dirname(driver), '..', 'kills-driver.js');
  return new Promise((done, failed) => {
    const child = spawn(process.execPath, [file, root, String(seed)]);
    let [said, wrong] = ['', ''];
    child.stdout.on('data', (text: Buffer) => {
      if (said === '') setTimeout(() => child.kill('SIGKILL'), after);
      said += text.toString();
    });
    child.stderr.on('data', (text: Buffer) => (wrong += text.toString()));
    child.on('close', (_code, signal) => {
      if (signal !== 'SIGKILL') return failed(new Error(`the driver failed: ${wrong}`));
      for (const [, json] of said.matchAll(/^others (.*)$/gm)) {
        const { path, sha256 } = JSON.parse(json!) as { path: string; sha256: string };
        away.paths.add(encodeURI(path));
        away.bytes.add(sha256);
      }
      const last = said.trimEnd().split('\n').at(-1) ?? '';
      done(last.startsWith('begin ') ? `during ${last.slice(6)}` : 'between two');
    });
  });
}
