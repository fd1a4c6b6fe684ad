import { writeFile } from 'node:fs/promises';
import { request } from 'node:http';
import { join } from 'node:path';
import { monitorEventLoopDelay } from 'node:perf_hooks';
import { afterEach, beforeEach, expect, test } from 'vitest';
import { serve, type Served } from '../test/served.ts';
import type { OpenedSite } from '../app/opened-site.ts';
import { closeSites, openSite, picture, siteFolder } from '../test/site.ts';

/** Requests that would keep the server's thread busy, if it did what they ask for itself. */
let site: OpenedSite;
let server: Served;
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
      'odd.html':
        '<title>x</title><img src="a.png"><img src="%zz/a.png"><img src="a.png?%"><img src="https://other.example/a.png">',
      'quotes.md': `![A](a.png)\n${'> '.repeat(15_000)}`,
      'a.png': await picture(1),
      'config.php': '<?php $password = "moon";',
      'dump.sql': 'insert into person',
      '.env': 'KEY=moon',
    }),
  );
  server = await serve(site);
  ({ app, served } = server);
});
afterEach(async () => {
  server.close();
  await closeSites();
});

/** Answers, once the work is done, for how many milliseconds this thread did nothing else at most. */
function longestWait(): () => number {
  const delay = monitorEventLoopDelay({ resolution: 5 });
  delay.enable();
  return () => {
    delay.disable();
    return delay.max / 1e6;
  };
}

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

const get = async (address: string): Promise<[number, unknown]> => {
  const answer = await fetch(address);
  const text = await answer.text();
  return [answer.status, answer.headers.get('content-type')?.includes('json') ? JSON.parse(text) : text];
};

test.each(['index.html', 'rows.html', 'quotes.md'])(
  'a page that takes a parser long (%s) is looked at and drawn while others go on',
  async (page) => {
    const waited = longestWait();
    const [status, detail] = await get(`${app}/api/pages/detail?path=${page}`);
    expect(status).toBe(200);
    // One that is nested too deep for the parser is not drawn at all.
    const { look } = detail as { look: string | null };
    expect(look === null).toBe(page === 'quotes.md');
    const [drawn] = look === null ? [200] : await get(look);
    expect([200, 503]).toContain(drawn);
    expect(waited()).toBeLessThan(LONGEST);
  },
);

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
    'The table has more than 100,000 rows.',
  ]);
  const waited = longestWait();
  const read = (await (await send(60_000)).json()) as { matched: number; faults: { why: string }[] };
  expect(read.matched).toBe(1);
  expect(read.faults).toHaveLength(501);
  expect(read.faults.at(-1)!.why).toBe('59,499 more lines cannot be used either.');
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

test('bodies that are too large are not read, those that do not end are not waited for, and what they held is free again', async () => {
  const { port } = new URL(app);
  const open = (headers: Record<string, string | number>) => {
    const sent = request({
      hostname: '127.0.0.1',
      port,
      method: 'POST',
      path: '/api/plans',
      headers: { Origin: app, 'Content-Type': 'application/json', ...headers },
    });
    const answer = new Promise<[number | undefined, string]>((done, failed) => {
      sent.on('response', (response) => {
        let text = '';
        response.on('data', (chunk: Buffer) => (text += chunk.toString()));
        response.on('end', () => done([response.statusCode, text]));
      });
      sent.on('error', failed);
    });
    sent.flushHeaders();
    return { sent, answer };
  };
  const huge = open({ 'Content-Length': 900_000_000 });
  expect(await huge.answer).toEqual([413, expect.stringContaining('too large')]);
  const chunk = Buffer.alloc(1_000_000, ' ');
  const growing = open({ 'Transfer-Encoding': 'chunked' });
  const feed = setInterval(() => growing.sent.write(chunk), 5);
  expect(await growing.answer).toEqual([413, expect.stringContaining('too large')]);
  clearInterval(feed);
  growing.sent.destroy();
  // Many at once: some are told to come again, none is held for ever, and then there is room again.
  const many = Array.from({ length: 12 }, () => open({ 'Transfer-Encoding': 'chunked' }));
  for (let round = 0; round < 14; round++) for (const { sent } of many) sent.write(chunk);
  const first = await Promise.race(many.map((one) => one.answer));
  expect(first).toEqual([503, expect.stringContaining('Try again in a moment')]);
  for (const { sent } of many) sent.destroy();
  await expect
    .poll(async () => (await server.ask('POST', '/api/plans', { kind: 'undo', entryId: 99 })).status)
    .toBe(404);
});

test('a plan of thousands of records is computed and applied while others go on', async () => {
  const size = 12_000;
  site.db.write(() => {
    for (let at = 0; at < size; at++)
      site.records.add({
        path: `many/${at}.png`,
        state: 'here',
        facts: { bytes: 1, sha256: at.toString(16).padStart(64, '0') },
        addedAt: site.now(),
        addedBy: 1,
        originalName: null,
      });
  });
  const ids = site.db.values<number>("select id from item where folder = 'many'");
  expect(ids).toHaveLength(size);
  const cells = ids.map((itemId, at) => ({ itemId, set: { alt: `Words ${at}`, tags: ['many'] } }));
  for (const body of [
    { kind: 'cells', cells },
    { kind: 'records', itemIds: ids, addTags: ['more'] },
  ]) {
    const waited = longestWait();
    const planned = await server.ask('POST', '/api/plans', body);
    const { id } = (await planned.json()) as { id: string };
    expect((await server.ask('POST', `/api/plans/${id}/apply`, { note: '' })).status).toBe(200);
    expect(waited(), body.kind).toBeLessThan(LONGEST);
  }
  expect(site.items.need(ids.at(-1)!).words).toMatchObject({
    alt: `Words ${size - 1}`,
    tags: ['many', 'more'],
  });
});

test('large bodies are read while others go on: whole, or refused with a sentence', async () => {
  const { id } = site.items.atPath('a.png')!;
  const send = async (path: string, body: string): Promise<[number, unknown]> => {
    const waited = longestWait();
    const answer = await fetch(app + path, {
      method: 'POST',
      headers: { Origin: app, 'Content-Type': 'application/json' },
      body,
    });
    const told = [answer.status, await answer.json()] as [number, unknown];
    expect(waited(), body.slice(0, 40)).toBeLessThan(LONGEST / 2);
    return told;
  };
  const refused = (message: string) => [400, expect.objectContaining({ message })];
  expect(await send('/api/items/sum', '['.repeat(7_900_000))).toEqual(
    refused('The request is not valid JSON.'),
  );
  expect(await send('/api/items/sum', `{"ids":[${'1,'.repeat(3_900_000)}1]}`)).toEqual(
    refused('That is too many at once: 200,000 at most.'),
  );
  const keys = Array.from({ length: 1_000_000 }, (_, at) => `"k${at}":1`).join(',');
  expect(await send('/api/plans', `{"kind":"names",${keys}}`)).toEqual(
    refused(expect.stringContaining('The request is not understood: names') as never),
  );
  // Those that have come and wait to be read are held too: when they are many, the next is told to come again.
  const long = Buffer.from(`{"kind":"names","names":[${'{"itemId":1,"name":"a"},'.repeat(1_300_000)}{}]}`);
  const { port } = new URL(app);
  const answers: Promise<number | undefined>[] = [];
  for (let at = 0; at < 8; at++) {
    const headers = { Origin: app, 'Content-Type': 'application/json', 'Content-Length': long.length };
    const sent = request({ hostname: '127.0.0.1', port, method: 'POST', path: '/api/plans', headers });
    answers.push(
      new Promise((done, failed) => {
        sent.on('response', (answer) => done(answer.resume().statusCode)).on('error', failed);
      }),
    );
    // The next one comes when this one has.
    await new Promise((done) => sent.end(long, () => done(null)));
  }
  expect(new Set(await Promise.all(answers))).toEqual(new Set([400, 503]));
  // All of it comes over, and in its order: the same is answered for few and for many.
  const several = [...Array(40_000).keys()].map((at) => at + 1_000_000).toSpliced(12_345, 0, id);
  expect(await send('/api/items/sum', JSON.stringify({ ids: several }))).toEqual(
    await send('/api/items/sum', JSON.stringify({ ids: [id] })),
  );
  const table = `id,alt\r\n${Array.from({ length: 20_000 }, (_, at) => `${at + 1_000_000},word\r\n`).join('')}${id},The last`;
  expect(await send('/api/tables/in', JSON.stringify({ text: table }))).toEqual([
    200,
    expect.objectContaining({ matched: 1 }),
  ]);
});

test('a page that takes a parser seconds is looked at, edited and rewritten while others go on', async () => {
  await writeFile(join(site.folder.root, 'slow.md'), `![A](a.png)\n\n${'/*'.repeat(4000)}\n`);
  await writeFile(join(site.folder.root, 'b.png'), await picture(2));
  await site.scanner.scan();
  const { start } = site.references.placementsOf('a.png').find((one) => one.page === 'slow.md')!;
  const slowly = async (asked: () => Promise<Response>) => {
    const waited = longestWait();
    const began = performance.now();
    const answer = await asked();
    // It does take long; only not here.
    expect(performance.now() - began).toBeGreaterThan(waited());
    expect(waited()).toBeLessThan(LONGEST);
    return [answer.status, await answer.json()] as [
      number,
      { pages: { page: string }[]; clashes: unknown[] },
    ];
  };
  expect((await slowly(() => fetch(`${app}/api/pages/placement?page=slow.md&start=${start}`)))[0]).toBe(200);
  for (const body of [
    { kind: 'placement', page: 'slow.md', start, alt: 'The hill at dusk' },
    { kind: 'repair', places: [{ page: 'slow.md', start, path: 'b.png' }] },
    { kind: 'address', itemId: site.items.atPath('a.png')!.id, folder: 'elsewhere', name: 'a.png' },
  ]) {
    const [status, plan] = await slowly(() => server.ask('POST', '/api/plans', body));
    expect([status, plan.clashes], body.kind).toEqual([200, []]);
    expect(plan.pages.map((one) => one.page)).toContain('slow.md');
  }
}, 120_000);
