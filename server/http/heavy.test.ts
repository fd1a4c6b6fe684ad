import { writeFile } from 'node:fs/promises';
import { request } from 'node:http';
import { join } from 'node:path';
import { afterEach, beforeEach, expect, test } from 'vitest';
import { serve, type Served } from '../test/served.ts';
import type { OpenedSite } from '../app/opened-site.ts';
import { closeSites, openSite, picture } from '../test/site.ts';
import { LONGEST, longestWait, get, hostileSite } from '../test/waiting.ts';

/** Requests that would keep the server's thread busy, if it did what they ask for itself. */
let site: OpenedSite;

let server: Served;

let app = '';

beforeEach(async () => {
  site = await openSite(await hostileSite());
  server = await serve(site);
  ({ app } = server);
});

afterEach(async () => {
  server.close();
  await closeSites();
});

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
