import { once } from 'node:events';
import { mkdirSync, mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { createServer } from 'node:http';
import type { AddressInfo } from 'node:net';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { monitorEventLoopDelay } from 'node:perf_hooks';
import { Worker } from 'node:worker_threads';
import pino from 'pino';
import { SITE_RULE } from '../core/intake/rules.ts';
import { createApp } from '../server/http/app.ts';
import { openSite } from '../server/app/open-site.ts';

/** Items of a folder, and folders with a page in which some of them are shown. */
const IN_FOLDER = 500;

/**
 * How long the server's own thread is kept from everything else, at most, by the largest things that can be asked of it: a first scan and
 * one after all has changed, plans of every item, bodies at their limits. Measured within the thread; who asks is on another.
 */
export async function benchWaits(say: (text: string) => void, size: number): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), 'iconomos-bench-'));
  const root = join(folder, 'site');
  const paths = makeSite(root, size);
  const site = await openSite({ site: root, people: [{ name: 'A', role: 'steward' }] });
  const server = createServer();
  await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
  const host = `127.0.0.1:${(server.address() as AddressInfo).port}`;
  const answer = createApp({
    demo: true,
    site,
    log: pino({ level: 'silent' }),
    servedAt: 'http://127.0.0.1:1',
    hosts: [host],
  }).callback();
  server.on('request', (request, response) => void answer(request, response));
  const client = new Client(`http://${host}`, folder);
  const delay = monitorEventLoopDelay({ resolution: 2 });
  const worst: [string, number][] = [];
  const during = async <Result>(what: string, work: () => Promise<Result>): Promise<Result> => {
    delay.enable();
    // The first turn after a pause is not counted.
    await new Promise((done) => setTimeout(done, 20));
    delay.reset();
    const start = performance.now();
    const result = await work();
    const longest = delay.max / 1e6;
    delay.disable();
    worst.push([what, longest]);
    say(
      `  ${what}: others waited ${longest.toFixed(0)} ms at most, of ${(performance.now() - start).toFixed(0)} ms`,
    );
    return result;
  };
  try {
    say(`Longest wait of others, on a site of ${size} items:`);
    await during('first scan', () => site.scanner.scan(true));
    await during('scan again', () => site.scanner.scan(true));
    const ids = site.db.values<number>("select id from item where state = 'here' order by id");
    for (const path of [
      '/api/site',
      '/api/items?limit=100',
      '/api/items/found?sort=name',
      '/api/items/facets',
      '/api/items?q=alpha+beta&sort=rank&limit=100',
      '/api/folders',
      '/api/suggestions?q=n1',
      '/api/tags',
      '/api/pages',
      '/api/broken',
      '/api/layout',
      '/api/upkeep',
      '/api/upkeep/ids?check=unused&age=0',
      '/api/upkeep/findings?check=unused&age=0',
      '/api/upkeep/groups?check=copies',
      '/api/upkeep/tags',
      '/api/ledger',
    ])
      await during(`GET ${path}`, () => client.get(path));
    for (const [what, path, body] of hostile(ids)) await during(what, () => client.post(path, body, true));
    const names = ids.map((itemId, at) => ({ itemId, name: `r${at}x.svg` }));
    const cells = ids.map((itemId, at) => ({
      itemId,
      set: {
        alt: `Words ${at} of a picture`,
        title: `Title ${at}`,
        caption: 'Some words',
        tags: ['many', `n${at % 50}`],
      },
    }));
    const plans: [string, object][] = [
      ['names', { kind: 'names', names }],
      ['cells', { kind: 'cells', cells }],
      ['records', { kind: 'records', itemIds: ids, addTags: ['more'], set: { credit: 'A' } }],
      ['edit', { kind: 'edit', itemIds: ids, field: 'alt', edit: { edit: 'set', text: 'New words' } }],
      ['tag', { kind: 'tag', tag: 'more', to: 'other' }],
      ['move', { kind: 'move', itemIds: ids.slice(0, Math.floor(size / 2)), folder: 'moved' }],
      ['folder', { kind: 'folder', folder: 'moved', to: 'again' }],
      ['set aside', { kind: 'set-aside', itemIds: ids, leavePlaced: true }],
    ];
    for (const [what, body] of plans) {
      const planned = await during(`plan of ${what}`, () => client.post('/api/plans', body));
      await during(`${what} applied`, () => client.post(`/api/plans/${planned.id}/apply`, { note: '' }));
    }
    for (const what of ['set aside', 'folder']) {
      const entryId = site.db.value<number>(
        "select max(id) from ledger where state = 'done' and undone_by is null and kind <> 'undo'",
      )!;
      const undo = await during(`plan of undoing ${what}`, () =>
        client.post('/api/plans', { kind: 'undo', entryId }),
      );
      await during(`${what} undone`, () => client.post(`/api/plans/${undo.id}/apply`, { note: '' }));
    }
    await during('sum of all', () => client.post('/api/items/sum', { ids }));
    await during('tags of all', () => client.post('/api/items/tags', { ids }));
    await during('naming facts of all', () => client.post('/api/naming', { ids }));
    await during('table of all', () => client.post('/api/tables/out', { ids }));
    const planned = await during('plan of leaving alone', () =>
      client.post('/api/plans', {
        kind: 'dismiss',
        check: 'unused',
        subjects: ids.map(String),
        reason: 'Kept',
      }),
    );
    await during('leaving alone applied', () => client.post(`/api/plans/${planned.id}/apply`, { note: '' }));
    await during('GET /api/upkeep/dismissed', () => client.get('/api/upkeep/dismissed'));
    await during('rule of the root', async () => {
      const { folder: _, ...none } = SITE_RULE;
      const rule = { kind: 'rule', folder: '', rule: { ...none, largestSide: 2000 } };
      const planned = await client.post('/api/plans', rule);
      await client.post(`/api/plans/${planned.id}/apply`, { note: '' });
    });
    await during('export of all', () => client.post('/api/exports', { itemIds: 'all' }));
    for (const path of paths) writeFileSync(join(root, path), drawing(path, 'changed'));
    await during('scan after all has changed', () => site.scanner.scan());
  } finally {
    delay.disable();
    server.close();
    server.closeAllConnections();
    await client.close();
    await site.close();
    rmSync(folder, { recursive: true, force: true });
  }
  worst.sort((a, b) => b[1] - a[1]);
  const over = worst.filter(([, ms]) => ms > 50);
  say(
    `${worst.length - over.length} of ${worst.length} kept others waiting 50 ms at most; the longest: ${worst
      .slice(0, 12)
      .map(([what, ms]) => `${what} ${ms.toFixed(0)} ms`)
      .join(', ')}.`,
  );
}

const drawing = (path: string, word: string) =>
  `<svg xmlns="http://www.w3.org/2000/svg" width="10" height="10"><title>${path} ${word}</title></svg>`;

function makeSite(root: string, size: number): string[] {
  const paths: string[] = [];
  for (let first = 0; first < size; first += IN_FOLDER) {
    const folder = `f${first / IN_FOLDER}`;
    mkdirSync(join(root, folder), { recursive: true });
    const here: string[] = [];
    for (let i = first; i < Math.min(size, first + IN_FOLDER); i++) here.push(`${folder}/n${i}x.svg`);
    // Every fifth is a copy of the one before it.
    for (const [at, path] of here.entries())
      writeFileSync(join(root, path), drawing(at % 5 === 4 ? here[at - 1]! : path, 'first'));
    const shown = here.slice(0, 40).map((path) => `<p><img src="../${path}" alt="">`);
    // What is broken is called nearly as something that is there.
    for (let i = 0; i < 4; i++) shown.push(`<p><img src="gone/na${first + i}xx.svg" alt="">`);
    writeFileSync(
      join(root, folder, 'index.html'),
      `<!doctype html><title>${folder}</title>${shown.join('')}`,
    );
    paths.push(...here);
  }
  writeFileSync(join(root, 'index.html'), '<!doctype html><title>x</title>');
  return paths;
}

/** What nobody means, at the limits of what is taken. */
function hostile(ids: readonly number[]): [string, string, unknown][] {
  const many = (text: string, bytes: number) => text.repeat(Math.floor(bytes / text.length));
  return [
    ['8 MB of brackets', '/api/items/sum', many('[', 7_900_000)],
    ['8 MB of numbers', '/api/items/sum', `{"ids":[${many('1,', 7_800_000)}1]}`],
    [
      '32 MB of objects',
      '/api/plans',
      `{"kind":"names","names":[${many('{"itemId":1,"name":"a"},', 31_000_000)}{}]}`,
    ],
    [
      '32 MB of keys',
      '/api/plans',
      `{"kind":"names",${Array.from({ length: 2_000_000 }, (_, i) => `"k${i}":1`).join(',')}}`,
    ],
    ['32 MB of one text', '/api/plans', { kind: 'tag', tag: many('a', 31_000_000), to: null }],
    [
      'cells that all fail',
      '/api/plans',
      { kind: 'cells', cells: ids.map((itemId) => ({ itemId, set: { alt: 7 } })) },
    ],
    [
      'a table of 100,000 rows',
      '/api/tables/in',
      { text: `id,alt,title\r\n${many(`${ids[0]},some words,other words\r\n`, 3_600_000)}` },
    ],
    [
      'a table of 30 MB',
      '/api/tables/in',
      { text: `id,alt\r\n${many(`${ids[0]},"${'words '.repeat(100)}"\r\n`, 30_000_000)}` },
    ],
  ];
}

/** Asks on a thread of its own. */
class Client {
  private readonly thread: Worker;
  private number = 0;

  constructor(
    address: string,
    private readonly folder: string,
  ) {
    this.thread = new Worker(
      `const { parentPort, workerData } = require('node:worker_threads');
       const { Agent, request } = require('node:http');
       const { readFileSync } = require('node:fs');
       const agent = new Agent({ keepAlive: true });
       parentPort.on('message', ([method, path, file]) => {
         const body = file === null ? null : readFileSync(file);
         const sent = request(workerData + path, { agent, method, headers: body === null ? {} : { Origin: workerData, 'Content-Type': 'application/json', 'Content-Length': body.length } }, (answer) => {
           let start = ''; let bytes = 0;
           answer.on('data', (chunk) => { bytes += chunk.length; if (start.length < 300) start += chunk.toString(); });
           answer.on('end', () => parentPort.postMessage([answer.statusCode, start.slice(0, 300), bytes]));
         });
         sent.on('error', (error) => parentPort.postMessage([0, String(error), 0]));
         sent.end(body ?? undefined);
       });`,
      { eval: true, workerData: address },
    );
  }

  private async ask(method: string, path: string, file: string | null): Promise<[number, string, number]> {
    this.thread.postMessage([method, path, file]);
    const [answer] = (await once(this.thread, 'message')) as [[number, string, number]];
    return answer;
  }

  get = async (path: string) => {
    const [status, start] = await this.ask('GET', path, null);
    if (status !== 200) throw new Error(`${path}: ${status} ${start}`);
  };

  /** Answers what begins the answer: an id, where there is one. */
  post = async (path: string, body: unknown, refused = false): Promise<{ id: string }> => {
    const file = join(this.folder, `body-${this.number++}`);
    writeFileSync(file, typeof body === 'string' ? body : JSON.stringify(body));
    const [status, start] = await this.ask('POST', path, file);
    if (refused ? status >= 500 || status === 0 : status !== 200)
      throw new Error(`${path}: ${status} ${start}`);
    return { id: /"id":"([^"]+)"/.exec(start)?.[1] ?? '' };
  };

  close = () => this.thread.terminate();
}
