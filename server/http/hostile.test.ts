import { createServer, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { monitorEventLoopDelay } from 'node:perf_hooks';
import pino from 'pino';
import { afterEach, beforeEach, expect, test } from 'vitest';
import { newLooking } from './look.ts';
import { createApp } from './app.ts';
import { createServedSite } from './served-site.ts';
import { Proposals } from '../ledger/proposal.ts';
import type { Site } from '../site/site.ts';
import { closeSites, openSite, picture, siteFolder } from '../test/site.ts';

/** Requests that would keep the server's thread busy, if it did what they ask for itself. */
let site: Site;
let servers: Server[] = [];
let app = '';
let served = '';
/** Milliseconds for which nothing else may be kept waiting; the aim is 50, a busy machine takes more. */
const LONGEST = 1000;

beforeEach(async () => {
  site = await openSite(
    await siteFolder({
      'index.html': '<title>x</title><link rel=stylesheet href=deep.css><img src="a.png">',
      'deep.css': '.a'.repeat(100_000),
      'rows.html': `<title>x</title><img src="a.png">${'<p>'.repeat(30_000)}`,
      'quotes.md': `![A](a.png)\n${'> '.repeat(15_000)}`,
      'a.png': await picture(1),
      'config.php': '<?php $password = "moon";',
      'dump.sql': 'insert into person',
      '.env': 'KEY=moon',
    }),
  );
  const log = pino({ level: 'silent' });
  const listening = async (server: Server) => {
    servers.push(server);
    await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
    return (server.address() as AddressInfo).port;
  };
  const looking = newLooking(new Proposals());
  const port = await listening(createServer((req, res) => handle(req, res)));
  app = `http://127.0.0.1:${port}`;
  served = `http://127.0.0.1:${await listening(createServer(createServedSite(site, log, [app], looking).callback()))}`;
  const handle = createApp({ site, log, servedAt: served, hosts: [`127.0.0.1:${port}`], looking }).callback();
});
afterEach(async () => {
  for (const server of servers.splice(0)) {
    server.closeAllConnections();
    server.close();
  }
  await closeSites();
  servers = [];
});

const get = async (address: string): Promise<[number, unknown]> => {
  const answer = await fetch(address);
  const text = await answer.text();
  return [answer.status, answer.headers.get('content-type')?.includes('json') ? JSON.parse(text) : text];
};

test.each(['index.html', 'rows.html', 'quotes.md'])(
  'a page that takes a parser long (%s) is looked at and drawn while others go on',
  async (page) => {
    const delay = monitorEventLoopDelay({ resolution: 5 });
    delay.enable();
    const [status, detail] = await get(`${app}/api/pages/detail?path=${page}`);
    expect(status).toBe(200);
    // One that is nested too deep for the parser is not drawn at all.
    const { look } = detail as { look: string | null };
    expect(look === null).toBe(page === 'quotes.md');
    const [drawn] = look === null ? [200] : await get(look);
    delay.disable();
    expect([200, 503]).toContain(drawn);
    expect(delay.max / 1e6).toBeLessThan(LONGEST);
  },
);

test('a search takes so many words and conditions at most, and the same word once; a kept one that asks for more is listed all the same', async () => {
  const words = (count: number) => Array.from({ length: count }, (_, i) => `w${i}`).join('+');
  expect(await get(`${app}/api/items?q=${words(30)}`)).toEqual([
    400,
    expect.objectContaining({ message: 'A search takes 20 words at most; this one has 30.' }),
  ]);
  expect((await get(`${app}/api/items?q=${'a+A+'.repeat(100)}`))[0]).toBe(200);
  site.savedQueries.setValue('all', { name: 'all', query: '', person: 'Ottilie' }, 1, site.now());
  site.savedQueries.setValue(
    'long',
    { name: 'long', query: `q=${words(40)}`, person: 'Ottilie' },
    1,
    site.now(),
  );
  const [status, kept] = await get(`${app}/api/saved-queries`);
  expect(status).toBe(200);
  expect((kept as { name: string; items: number | null }[]).map(({ name, items }) => [name, items])).toEqual([
    ['all', 1],
    ['long', null],
  ]);
});

test('a question that takes too long ends with a sentence, and the questions behind it are answered', async () => {
  const { Reader } = await import('../store/reader.ts');
  const reader = new Reader(`${site.dataFolder}/iconomos.db`, 1500);
  const endless =
    'with recursive n(i) as (select 1 union all select i + 1 from n where i < 60000000) select count(*) as n from n';
  const questions = [
    reader.rows(endless, {}),
    reader.rows(endless, {}),
    reader.rows('select 7 as n', {}),
    reader.rows('select 8 as n', {}),
  ];
  const answers = await Promise.allSettled(questions);
  expect(
    answers.map((one) => (one.status === 'fulfilled' ? one.value : (one.reason as Error).message)),
  ).toEqual(['This search takes too long.', 'This search takes too long.', [{ n: 7 }], [{ n: 8 }]]);
  await reader.close();
});

test('a table of very many rows is refused, and one that names an item again and again is read while others go on', async () => {
  const { id } = site.items.atPath('a.png')!;
  const send = (rows: number) =>
    fetch(`${app}/api/tables/in`, {
      method: 'POST',
      headers: { 'Content-Type': 'application/json' },
      body: JSON.stringify({ text: `id,alt\r\n${`${id},x\r\n`.repeat(rows)}` }),
    });
  const refused = await send(250_000);
  expect([refused.status, ((await refused.json()) as { message: string }).message]).toEqual([
    413,
    'The table has more than 100,000 rows.',
  ]);
  const delay = monitorEventLoopDelay({ resolution: 5 });
  delay.enable();
  const read = (await (await send(60_000)).json()) as { matched: number; faults: { why: string }[] };
  delay.disable();
  expect(read.matched).toBe(1);
  expect(read.faults).toHaveLength(501);
  expect(read.faults.at(-1)!.why).toBe('59,499 more lines cannot be used either.');
  expect(delay.max / 1e6).toBeLessThan(LONGEST);
});

test('a page of the site itself cannot ask the application, though it has the same host', async () => {
  const from = (site: string) => fetch(`${app}/api/site`, { headers: { 'Sec-Fetch-Site': site } });
  expect(
    (await Promise.all(['same-origin', 'none', 'same-site', 'cross-site'].map(from))).map(
      (one) => one.status,
    ),
  ).toEqual([200, 200, 403, 403]);
  expect((await from('same-origin')).headers.get('cache-control')).toBe('no-store');
});

test('what no address and no text can be is answered with a sentence, never as a defect', async () => {
  for (const address of [
    `${app}/api/items/%zz`,
    `${app}/%zz`,
    `${app}/api/items?q=%00a`,
    `${app}/api/items?q=%zz`,
    `${app}/api/items?where=%00`,
    `${app}/api/pages/detail?path=%00`,
    `${app}/${'/'.repeat(15_000)}`,
    `${served}/%zz`,
    `${served}/%00.png`,
    `${served}/${'/'.repeat(15_000)}a.png`,
  ]) {
    const [status, body] = await get(address);
    expect(status, `${address.slice(0, 60)} ${JSON.stringify(body).slice(0, 200)}`).toBeLessThan(500);
  }
});

test('sources, data and keys that a web server keeps to itself are never handed out', async () => {
  for (const path of ['config.php', 'dump.sql', '.env', 'config.php/', 'CONFIG.PHP'])
    expect((await get(`${served}/${path}`))[0], path).toBe(404);
  expect((await get(`${served}/a.png`))[0]).toBe(200);
});
