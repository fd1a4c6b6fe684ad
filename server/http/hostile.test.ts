import { request } from 'node:http';
import { afterEach, beforeEach, expect, test } from 'vitest';
import { serve, type Served } from '../test/served.ts';
import type { OpenedSite } from '../app/opened-site.ts';
import { closeSites, openSite } from '../test/site.ts';
import { LONGEST, longestWait, get, hostileSite } from '../test/waiting.ts';

/** Requests that would keep the server's thread busy, if it did what they ask for itself. */
let site: OpenedSite;

let server: Served;

let app = '';

let served = '';

beforeEach(async () => {
  site = await openSite(await hostileSite());
  server = await serve(site);
  ({ app, served } = server);
});

afterEach(async () => {
  server.close();
  await closeSites();
});

/** Status and new place of an address that is sent as it is written. */
const raw = (host: string, path: string, headers: Record<string, string> = {}) =>
  new Promise<[number | undefined, string | undefined]>((done, failed) => {
    const { hostname, port } = new URL(host);
    request({ hostname, port, path, headers }, (answer) => {
      answer.resume();
      answer.on('end', () => done([answer.statusCode, answer.headers.location]));
    })
      .on('error', failed)
      .end();
  });

test('a search takes so many words and conditions at most, and the same word once; a kept one that asks for more is listed all the same', async () => {
  const words = (count: number) => Array.from({ length: count }, (_, i) => `w${i}`).join('+');
  expect(await get(`${app}/api/items?q=${words(30)}`)).toEqual([
    400,
    expect.objectContaining({ message: 'A search takes 20 words at most; this one has 30.' }),
  ]);
  expect(await get(`${app}/api/items?q=${'a'.repeat(600)}`)).toEqual([
    400,
    {
      code: 'bad-request',
      message: 'The search is too long: it may have 500 characters.',
      remedy: 'Make it shorter and try again.',
    },
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
  const { Reader } = await import('../db/reader.ts');
  const reader = new Reader(site.data.database, 1500);
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
      headers: { Origin: app, 'Content-Type': 'application/json' },
      body: JSON.stringify({ text: `id,alt\r\n${`${id},x\r\n`.repeat(rows)}` }),
    });
  const refused = await send(250_000);
  expect([refused.status, ((await refused.json()) as { message: string }).message]).toEqual([
    413,
    'The file has more than 100,000 rows.',
  ]);
  const waited = longestWait();
  const read = (await (await send(60_000)).json()) as { matched: number; faults: { why: string }[] };
  expect(read.matched).toBe(1);
  expect(read.faults).toHaveLength(501);
  expect(read.faults.at(-1)!.why).toBe('59,499 more lines can’t be used either.');
  expect(waited()).toBeLessThan(LONGEST);
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

test('only what names its origin changes anything, and no page of the site reads', async () => {
  const body = JSON.stringify({ kind: 'set-aside', itemIds: [site.items.atPath('a.png')!.id] });
  const plan = (headers: Record<string, string>) =>
    fetch(`${app}/api/plans`, {
      method: 'POST',
      body,
      headers: { 'Content-Type': 'application/json', ...headers },
    });
  expect((await plan({ Origin: app })).status).toBe(200);
  for (const headers of [{}, { Origin: 'null' }, { Origin: served }, { Origin: `${app}0` }] as Record<
    string,
    string
  >[])
    expect([headers, (await plan(headers)).status]).toEqual([headers, 403]);
});

test('cookies that another page has set are cleared with a sentence, and never make a session', async () => {
  const cookie = (text: string, path = '/api/site') => fetch(app + path, { headers: { Cookie: text } });
  const many = Array.from({ length: 40 }, (_, at) => `pad${at}=${'x'.repeat(1000)}`).join('; ');
  for (const text of [many, 'iconomos_session=one; iconomos_session=two']) {
    const answer = await cookie(text);
    expect([answer.status, answer.headers.get('clear-site-data')]).toEqual([400, '"cookies"']);
    expect(answer.headers.getSetCookie().length).toBeGreaterThan(0);
    expect(((await answer.json()) as { message: string }).message).toContain('so they were cleared');
  }
  const page = await cookie(many, '/');
  expect([page.status, await page.text()]).toEqual([400, expect.stringMatching(/cleared\. Reload the page/)]);
  expect((await cookie('a=b')).status).toBe(200);
});

test('the served site answers to its own names only, and leads browsers on to the first', async () => {
  const port = new URL(served).port;
  const host = (name: string, more = {}) => raw(served, '/index.html', { Host: `${name}:${port}`, ...more });
  expect(await host('rebound.example')).toEqual([403, undefined]);
  expect(await host('localhost')).toEqual([200, undefined]);
  const led = await host('localhost', { 'Sec-Fetch-Mode': 'navigate' });
  expect(led).toEqual([302, `${served}/index.html`]);
});

test('hosts and origins that are refused stand in the log, and nothing of what they sent', async () => {
  const port = new URL(app).port;
  await raw(app, '/api/items', { Host: `rebound.example:${port}`, Cookie: 'secret=1' });
  await raw(app, '/library', { Host: `other.example:${port}` });
  await raw(served, '/index.html', { Host: `third.example:${port}` });
  await server.ask('POST', '/api/plans', { kind: 'undo', entryId: 1 }, { Origin: 'http://evil.example' });
  const told = server.logged.filter((one) => one['msg'] === 'refused');
  expect(told.map((one) => String(one['origin'] || one['host']).replace(/:\d+$/, ''))).toEqual([
    'rebound.example',
    'other.example',
    'third.example',
    'http://evil.example',
  ]);
  expect(JSON.stringify(told)).not.toMatch(/secret|entryId/);
});

test('addresses of any length are answered at once', async () => {
  const waited = longestWait();
  for (const path of ['/', 'a/', '%2f', '../', '%2e%2e/'].map((one) => `/${one.repeat(14_000 / one.length)}`))
    for (const host of [app, served])
      expect((await raw(host, path))[0], `${host} ${path.slice(0, 9)}`).toBeLessThan(500);
  expect((await raw(app, `/api/items?q=${'a'.repeat(20_000)}`))[0]).toBe(400);
  expect(waited()).toBeLessThan(LONGEST);
});

test('a page that is looked at asks nothing of other hosts, unless a person wants it; bad percent sequences end nothing', async () => {
  const [, detail] = await get(`${app}/api/pages/detail?path=odd.html`);
  const { look } = detail as { look: string };
  const policy = async (more = '') =>
    (await fetch(`${look}${more}`)).headers.get('content-security-policy') ?? '';
  expect(await policy()).toContain(`default-src 'none'; script-src 'nonce-`);
  expect(await policy()).toContain(`img-src ${served} data:`);
  expect(await policy()).not.toContain('https:');
  expect(await policy('&others=1')).toContain('img-src http: https: data:');
  const [status, text] = await get(look);
  expect([status, String(text).match(/<img[^>]* data-look-at/g)?.length]).toEqual([200, 4]);
});
