import { linkSync, mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import { once } from 'node:events';
import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { monitorEventLoopDelay } from 'node:perf_hooks';
import { Worker } from 'node:worker_threads';
import pino from 'pino';
import sharp from 'sharp';
import { Chance } from '../demo/chance.ts';
import { kindOf } from '../core/address/kinds.ts';
import { createApp } from '../server/http/app.ts';
import type { OpenedSite } from '../server/app/opened-site.ts';
import { openSite } from '../server/app/open-site.ts';
import { benchScrolling } from './scroll.ts';

const WORDS =
  'moon dome night open school star trail comet nebula galaxy cluster winter summer snow fog dawn dusk visitor talk shop print wheel pin chart atlas lens mirror mount tower hill moor'.split(
    ' ',
  );

/**
 * The Library on made-up records: windows of queries with their counts against the bare SQL for the same rows, ten times as
 * many items against one, tagging thousands against a bare transaction that writes the same rows.
 */
export async function benchLibrary(say: (text: string) => void): Promise<void> {
  const times: Record<number, Record<string, number>> = {};
  for (const size of [10_000, 100_000]) {
    const bench = await open(size);
    try {
      times[size] = await windows(say, bench, size);
      await tagging(say, bench, size);
      if (size === 100_000) await benchScrolling(say, bench.address, size);
    } finally {
      await bench.close();
    }
  }
  for (const name of Object.keys(times[10_000]!))
    say(
      `Library, ${name}: 100,000 items take ${(times[100_000]![name]! / times[10_000]![name]!).toFixed(2)} x the time of 10,000.`,
    );
}

export interface Bench {
  site: OpenedSite;
  address: string;
  ids: number[];
  /** Milliseconds that the server took for the latest requests, from the first one's arrival to the last byte of the last. */
  served: () => number;
  close: () => Promise<void>;
}

export async function open(size: number, recounts = false): Promise<Bench> {
  const folder = mkdtempSync(join(tmpdir(), 'iconomos-bench-'));
  mkdirSync(join(folder, 'site'));
  const site = await openSite({
    site: join(folder, 'site'),
    people: [{ name: 'A', role: 'steward' }],
    recounts,
  });
  const dice = new Chance('library');
  const some = () => `${dice.pick(WORDS)} ${dice.pick(WORDS)} ${dice.pick(WORDS)}`;
  const ids: number[] = [];
  site.db.write(() => {
    const tag = 'insert into tag (name) values (?)';
    for (let i = 0; i < 20_000; i++) site.db.run(tag, `${dice.pick(WORDS)} ${i}`);
    const bear = 'insert into item_tag (item_id, tag_id) values (?, ?) on conflict do nothing';
    const say = 'update item set alt = ?, title = ? where id = ?';
    for (let i = 0; i < size; i++) {
      // As many in each folder whatever the size: 100.
      const path = `images/f${Math.floor(i / 100)}/${dice.pick(WORDS)}-${dice.pick(WORDS)}-${i}.${dice.pick(['jpg', 'jpg', 'jpg', 'png', 'pdf', 'mp4'])}`;
      const id = site.records.add({
        path,
        state: 'here',
        facts: {
          bytes: dice.whole(1000, 3_000_000),
          sha256: i.toString(16).padStart(64, '0'),
          ...(kindOf(path) === 'image'
            ? { item: { width: dice.whole(200, 4000), height: dice.whole(200, 4000) } }
            : {}),
        },
        addedAt: new Date(1.6e12 + i * 1e6).toISOString(),
        addedBy: 1,
        originalName: null,
      });
      ids.push(id);
      site.db.run(say, dice.next() < 0.7 ? some() : '', dice.next() < 0.7 ? some() : '', id);
      // A tag is borne by as many, whatever the size.
      site.db.run(bear, id, 1 + ((i * 7) % 20_000));
      if (i % (size / 100) === 0) site.db.run(bear, id, 20_000);
    }
  });
  if (size === 100_000) await thumbnails(site.data.thumbnails, size);
  const hosts: string[] = [];
  const server: Server = createServer();
  await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
  const { port } = server.address() as AddressInfo;
  hosts.push(`127.0.0.1:${port}`);
  const answer = createApp({
    demo: true,
    site,
    log: pino({ level: 'silent' }),
    servedAt: 'http://127.0.0.1:1',
    hosts,
  }).callback();
  /** From the first request that is under way to the last byte of the last answer. */
  const busy = { since: 0, open: 0, took: 0 };
  server.on('request', (request, response) => {
    if (busy.open++ === 0) busy.since = performance.now();
    response.on('finish', () => {
      if (--busy.open === 0) busy.took = performance.now() - busy.since;
    });
    void answer(request, response);
  });
  return {
    site,
    address: `http://127.0.0.1:${port}`,
    ids,
    served: () => busy.took,
    close: async () => {
      server.close();
      server.closeAllConnections();
      await site.close();
      rmSync(folder, { recursive: true });
    },
  };
}

/** A small picture for each item: few different files, under many names. */
async function thumbnails(folder: string, size: number): Promise<void> {
  const kinds = await Promise.all(
    [30, 120, 210, 300].map(async (hue) => {
      const file = join(folder, `kind-${hue}.webp`);
      await sharp({
        create: {
          width: 320,
          height: 213,
          channels: 3,
          background: `hsl(${hue}, 40%, 50%)`,
          noise: { type: 'gaussian', mean: 128, sigma: 40 },
        },
      })
        .webp({ quality: 60 })
        .toFile(file);
      return file;
    }),
  );
  for (let i = 0; i < size; i++)
    linkSync(kinds[i % kinds.length]!, join(folder, `${i.toString(16).padStart(64, '0')}-320.webp`));
}

/** Asks on a thread of its own, so that what a client does is not counted as the server's time. */
class Client {
  private readonly thread: Worker;

  constructor(address: string) {
    this.thread = new Worker(
      // As light as can be: what it costs is not the server's.
      `const { parentPort, workerData } = require('node:worker_threads');
       const { Agent, get } = require('node:http');
       const agent = new Agent({ keepAlive: true });
       const ask = (path) => new Promise((done, failed) => get(workerData + path, { agent }, (answer) => {
         if (answer.statusCode !== 200) failed(new Error(path + ' was refused'));
         answer.resume().on('end', done);
       }).on('error', failed));
       parentPort.on('message', (paths) => Promise.all(paths.map(ask)).then(() => parentPort.postMessage('')));`,
      { eval: true, workerData: address },
    );
    this.thread.unref();
  }

  async get(paths: readonly string[]): Promise<void> {
    this.thread.postMessage(paths);
    await once(this.thread, 'message');
  }
}

async function median(
  rounds: number,
  work: () => Promise<unknown> | void,
  took?: () => number,
): Promise<number> {
  await work();
  const times: number[] = [];
  for (let i = 0; i < rounds; i++) {
    const start = performance.now();
    await work();
    times.push(took ? took() : performance.now() - start);
  }
  return times.sort((a, b) => a - b)[rounds >> 1]!;
}

/** A first window and its counts, as a screen asks for them, and the bare SQL that finds the same rows and counts. */
async function windows(
  say: (text: string) => void,
  { site, address, served }: Bench,
  size: number,
): Promise<Record<string, number>> {
  const client = new Client(address);
  const get = (...paths: string[]) => client.get(paths);
  const queries = {
    'one folder': 'folder=images/f7',
    'one tag': `where=${encodeURIComponent(`tag:${site.db.value<string>('select name from tag where id = 20000')!}`)}`,
  };
  const delay = monitorEventLoopDelay({ resolution: 5 });
  delay.enable();
  const found: Record<string, number> = {};
  for (const [name, query] of Object.entries(queries)) {
    const window = () => get(`/api/items?${query}&limit=100`, `/api/items/facets?${query}`);
    // Both sides are measured warm, as the first requests of a server are slower than all that follow, and in turns, as the
    // machine is faster at one time than at another.
    const times: { ours: number; bare: number }[] = [];
    for (let round = 0; round < 100; round++) {
      await window();
      const ours = served();
      const start = performance.now();
      bareQuery(site, name === 'one folder');
      if (round >= 40) times.push({ ours, bare: performance.now() - start });
    }
    const middle = (pick: (one: (typeof times)[number]) => number) =>
      times.map(pick).sort((a, b) => a - b)[times.length >> 1]!;
    found[name] = middle((one) => one.ours);
    say(
      `Library of ${size}, first window of ${name} with all counts: ${found[name].toFixed(1)} ms of the server, ${middle((one) => one.ours / one.bare).toFixed(2)} x the bare SQL for the same rows (${middle((one) => one.bare).toFixed(1)} ms).`,
    );
  }
  const words = await median(9, () => get('/api/items?q=gal%20dom&sort=rank&limit=100'));
  const all = await median(5, () => get('/api/items/found?sort=name'));
  delay.disable();
  say(
    `Library of ${size}: two words found and ranked in ${words.toFixed(0)} ms; all ids of the whole in order in ${all.toFixed(0)} ms; event loop p99 meanwhile ${(delay.percentile(99) / 1e6).toFixed(0)} ms.`,
  );
  return found;
}

const FIXED = `sum(kind = 'image'), sum(kind = 'video'), sum(kind = 'audio'), sum(kind = 'document'), sum(kind = 'other'),
  sum(use = 'placed'), sum(use = 'mentioned'), sum(use = 'unused'), sum(alt = ''), sum(title = ''), sum(caption = ''),
  sum(description = ''), sum(creator = ''), sum(credit = ''), sum(copyright = ''), sum(source = ''), sum(licence = ''),
  sum(long_description = ''), sum(taken = ''), sum(place = ''), sum(language = ''),
  sum(name_faults = ''), sum(folder <> ''), sum(width > height), sum(width < height), sum(width = height),
  sum(name_faults like '%camera%'), sum(name_faults like '%spaces%'), sum(name_faults like '%upper%'),
  sum(name_faults like '%characters%'), sum(name_faults like '%no-words%'), sum(name_faults like '%low-lines%'),
  sum(name_faults like '%long%'), sum(name_faults like '%stuffed%'), sum(name_faults like '%rule%'),
  sum(not exists (select 1 from item_tag where item_id = item.id)),
  sum(exists (select 1 from item as twin where twin.sha256 = item.sha256 and twin.id <> item.id))`;

/** What a person who knows SQL would ask for the same screen. */
function bareQuery(site: OpenedSite, folder: boolean): void {
  const where = folder
    ? "state = 'here' and (folder = 'images/f7' or (folder >= 'images/f7/' and folder < 'images/f70'))"
    : "state = 'here' and item.id in (select item_id from item_tag where tag_id = 20000)";
  const all = (sql: string) => site.db.all(sql);
  JSON.stringify(
    all(
      `select *, (select json_group_array(name) from item_tag join tag on tag.id = tag_id where item_id = item.id) as tags
       from item where ${where} order by name collate nocase limit 100`,
    ),
  );
  all(`select count(*), sum(bytes) from item where ${where}`);
  all(`select ${FIXED} from item where ${where}`);
  all(
    `select tag.name, count(*) as items from item join item_tag on item_id = item.id join tag on tag.id = tag_id where ${where} group by tag.id order by 2 desc limit 60`,
  );
  all(`select folder, count(*) from item where ${where} group by folder order by 2 desc limit 60`);
  all(`select substr(added_at, 1, 7), count(*) from item where ${where} group by 1 limit 60`);
  all(`select added_by, count(*) from item where ${where} group by 1`);
  all(`select owner_id, count(*) from item where ${where} group by 1`);
  all(
    `select main_colour, count(*) from item join content on content.sha256 = item.sha256 where ${where} group by 1`,
  );
}

/** Ten thousand items tagged: proposed and applied, against the same rows in a bare transaction of the same database. */
async function tagging(
  say: (text: string) => void,
  { site, address, ids }: Bench,
  size: number,
): Promise<void> {
  const post = async (path: string, body: unknown) => {
    const answer = await fetch(address + path, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json', Origin: address },
      body: JSON.stringify(body),
    });
    if (!answer.ok) throw new Error(await answer.text());
    return (await answer.json()) as { id: string };
  };
  const some = ids.slice(0, 10_000);
  const start = performance.now();
  const plan = await post('/api/plans', { kind: 'records', itemIds: some, addTags: ['bench one'] });
  const planned = performance.now();
  await post(`/api/plans/${plan.id}/apply`, {});
  const done = performance.now();
  const bareStart = performance.now();
  site.db.write(() => {
    const entry = site.db.run(
      "insert into ledger (at, person_id, kind, title, state, items, pages, bytes) values ('x', 1, 'describe', 'x', 'taken-back', 0, 0, 0)",
    ).lastInsertRowid;
    const tag = site.db.run("insert into tag (name) values ('bench two')").lastInsertRowid;
    const touch = 'insert into ledger_touch (entry_id, what) values (?, ?)';
    const bear = 'insert into item_tag (item_id, tag_id) values (?, ?)';
    const mark =
      "update item set row_version = row_version + 1, changed_at = 'x', changed_by = 1 where id = ? and row_version = ?";
    const version = 'select row_version from item where id = ?';
    for (const id of some) {
      site.db.run(touch, entry, `record ${id}`);
      site.db.run(bear, id, tag);
      site.db.run(mark, id, site.db.value(version, id));
    }
  });
  const bare = performance.now() - bareStart;
  say(
    `Library of ${size}: tagging 10,000 items, applied as one change with its undo: ${((done - planned) / bare).toFixed(2)} x a bare transaction of the same rows (${(done - planned).toFixed(0)} and ${bare.toFixed(0)} ms); with its plan ${((done - start) / bare).toFixed(2)} x.`,
  );
}
