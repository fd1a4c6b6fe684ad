import { mkdir, writeFile } from 'node:fs/promises';
import { request } from 'node:http';
import { join } from 'node:path';
import { afterEach, beforeEach, expect, test } from 'vitest';
import type { OpenedSite } from '../app/opened-site.ts';
import { proposeAddress } from '../changes/addresses.ts';
import { applyProposal } from '../changes/apply.ts';
import { closeSites, openSite, picture, smallSite } from '../test/site.ts';
import { serve, type Served } from '../test/served.ts';

let site: OpenedSite;
let server: Served;
let app = '';
let served = '';

beforeEach(async () => {
  const root = await smallSite();
  await writeFile(
    join(root, 'drawing.svg'),
    '<svg xmlns="http://www.w3.org/2000/svg"><script>1</script></svg>',
  );
  await mkdir(join(root, '.git'));
  await writeFile(join(root, '.git', 'config'), 'secret');
  site = await openSite(root);
  server = await serve(site);
  ({ app, served } = server);
});
afterEach(async () => {
  server.close();
  await closeSites();
});

const post = (path: string, body: unknown, headers: Record<string, string> = {}) =>
  server.ask('POST', path, body, headers);

test('another origin cannot change anything, and a foreign host name is not answered', async () => {
  const id = site.items.atPath('img/unused.png')!.id;
  const foreign = await post(
    '/api/plans',
    { kind: 'set-aside', itemIds: [id] },
    { Origin: 'http://evil.example' },
  );
  expect([foreign.status, ((await foreign.json()) as { code: string }).code]).toEqual([403, 'forbidden']);
  const status = await new Promise<number | undefined>((done) => {
    request(`${app}/api/site`, { headers: { Host: 'rebound.example' } }, (answer) =>
      done(answer.statusCode),
    ).end();
  });
  expect(status).toBe(403);
});

test('bad input gets a sentence with what to do, never a stack trace', async () => {
  for (const [path, body] of [
    ['/api/plans', { kind: 'erase-everything' }],
    ['/api/plans', { kind: 'set-aside', itemIds: [] }],
    ['/api/plans', { kind: 'set-aside', itemIds: [999999] }],
    ['/api/plans/none/apply', {}],
    ['/api/exports', { itemIds: 'some' }],
    ['/api/sign-in/as', { personId: 77 }],
  ] as const) {
    const answer = await post(path, body);
    const said = (await answer.json()) as { message: string; remedy: string };
    expect(answer.status, path).toBeGreaterThanOrEqual(400);
    expect(answer.status, path).toBeLessThan(500);
    expect(said.message).toMatch(/\.$/);
    expect(said.remedy).toMatch(/\.$/);
    expect(JSON.stringify(said)).not.toContain('node_modules');
  }
  const notJson = await fetch(`${app}/api/plans`, {
    method: 'POST',
    headers: { Origin: app, 'Content-Type': 'application/json' },
    body: '{',
  });
  expect(notJson.status).toBe(400);
});

test('a plan is applied once; a second apply says so', async () => {
  const plan = (await (
    await post('/api/plans', { kind: 'set-aside', itemIds: [site.items.atPath('img/unused.png')!.id] })
  ).json()) as { id: string };
  expect((await post(`/api/plans/${plan.id}/apply`, {})).status).toBe(200);
  expect((await post(`/api/plans/${plan.id}/apply`, {})).status).toBe(404);
});

test('whoever is chosen stands on the changes that follow', async () => {
  const ben = site.people.all()[1]!;
  const cookie = (await post('/api/sign-in/as', { personId: ben.id })).headers
    .get('set-cookie')!
    .split(';')[0]!;
  const item = site.items.atPath('img/b.png')!;
  const saved = await fetch(`${app}/api/items/${item.id}`, {
    method: 'PATCH',
    headers: { Origin: app, 'Content-Type': 'application/json', Cookie: cookie },
    body: JSON.stringify({ rowVersion: item.rowVersion, words: { alt: 'A bee', licenceEnd: '2026-12-31' } }),
  });
  expect(await saved.json()).toMatchObject({ changedBy: 'Ben', rowVersion: 2, words: { alt: 'A bee' } });
  expect(site.rows.list(1)[0]).toMatchObject({ person: 'Ben', kind: 'describe' });
});

test('a plan is applied by who has asked for it, and by nobody else', async () => {
  const plan = (await (
    await post('/api/plans', { kind: 'set-aside', itemIds: [site.items.atPath('img/unused.png')!.id] })
  ).json()) as { id: string };
  const { id } = site.people.all()[1]!;
  const cookie = (await post('/api/sign-in/as', { personId: id })).headers.get('set-cookie')!.split(';')[0]!;
  const apply = (headers: Record<string, string>) =>
    fetch(`${app}/api/plans/${plan.id}/apply`, {
      method: 'POST',
      headers: { Origin: app, 'Content-Type': 'application/json', ...headers },
      body: '{}',
    });
  expect((await apply({ Cookie: cookie })).status).toBe(404);
  expect(site.items.atPath('img/unused.png')).toBeDefined();
  expect((await apply({})).status).toBe(200);
});

test('the served site: fixed types, nosniff, drawings sandboxed, hidden and outside files never', async () => {
  const drawing = await fetch(`${served}/drawing.svg`);
  expect(drawing.headers.get('content-security-policy')).toContain('sandbox');
  expect(drawing.headers.get('x-content-type-options')).toBe('nosniff');
  expect((await fetch(`${served}/img/b.png`)).headers.get('content-type')).toBe('image/png');
  for (const path of [
    '/.git/config',
    '/.iconomos/iconomos.db',
    '/%2e%2e/%2e%2e/etc/passwd',
    '/..%2f..%2fetc/passwd',
    '/img',
    '/%00',
  ]) {
    expect((await fetch(served + path, { redirect: 'manual' })).status, path).toBe(404);
  }
  const part = await fetch(`${served}/img/b.png`, { headers: { Range: 'bytes=1-3' } });
  expect([part.status, Buffer.from(await part.arrayBuffer()).toString()]).toEqual([206, 'PNG']);
});

test('an old address leads on to the new one', async () => {
  await applyProposal(
    site,
    await proposeAddress(site, site.items.atPath('img/c.png')!.id, 'img', 'see here.png'),
    1,
  );
  const answer = await fetch(`${served}/img/c.png`, { redirect: 'manual' });
  expect([answer.status, answer.headers.get('location')]).toEqual([301, '/img/see%20here.png']);
});

/** Sends bytes as a tus client does: creation with the bytes in the same request. */
async function send(name: string, body: Uint8Array, headers: Record<string, string> = {}): Promise<Response> {
  return fetch(`${app}/api/uploads`, {
    method: 'POST',
    headers: {
      Origin: app,
      'Tus-Resumable': '1.0.0',
      'Upload-Length': String(body.byteLength),
      'Upload-Metadata': `name ${Buffer.from(name).toString('base64')}`,
      'Content-Type': 'application/offset+octet-stream',
      ...headers,
    },
    body: new Uint8Array(body),
  });
}

test('a file that is refused leaves the server well, and the next one is taken', async () => {
  expect((await send('x.png', Buffer.from('text, not what'))).status).toBe(201);
  expect((await send('x.png', await picture(77))).status).toBe(201);
  await site.checking.settled();
  const { changed: list } = (await (await fetch(`${app}/api/arrivals`)).json()) as {
    changed: { state: string; refused: string }[];
  };
  expect(list.map((one) => one.state)).toEqual(['refused', 'ready']);
  expect(list[0]!.refused).toMatch(/text, not what/);
});

test('a file whose length is to follow counts as it comes, and one that says nothing of its length is refused', async () => {
  const tus = (method: string, address: string, headers: Record<string, string>, body?: BodyInit) =>
    fetch(address, {
      method,
      headers: {
        Origin: app,
        'Tus-Resumable': '1.0.0',
        'Content-Type': 'application/offset+octet-stream',
        ...headers,
      },
      ...(body === undefined ? {} : { body, duplex: 'half' }),
    } as RequestInit);
  const made = await tus('POST', `${app}/api/uploads`, { 'Upload-Defer-Length': '1' });
  expect(made.status).toBe(201);
  const at = new URL(made.headers.get('location')!, `${app}/api/uploads`).href;
  const before = site.arrivals.waiting(1).bytes;
  const sent = await tus('PATCH', at, { 'Upload-Offset': '0' }, Buffer.alloc(5000));
  expect([sent.status, site.arrivals.waiting(1).bytes - before]).toEqual([204, 5000]);
  const endless = new ReadableStream({
    pull: (controller) => controller.enqueue(new Uint8Array(1000)),
  });
  const refused = await tus('PATCH', at, { 'Upload-Offset': '5000' }, endless);
  expect([refused.status, await refused.text()]).toEqual([
    411,
    'The request does not say how long it is. Send the file again.',
  ]);
  expect((await tus('DELETE', at, {})).status).toBe(204);
});

test('sending goes on where it stopped, also after the server was started anew; only for its own person', async () => {
  const bytes = await picture(78, 'png', 400);
  const created = await send('slow.png', new Uint8Array(), { 'Upload-Length': String(bytes.length) });
  const at = new URL(created.headers.get('location')!, app).href;
  const patch = (offset: number, part: Uint8Array, cookie = '') =>
    fetch(at, {
      method: 'PATCH',
      headers: {
        Origin: app,
        'Tus-Resumable': '1.0.0',
        'Upload-Offset': String(offset),
        'Content-Type': 'application/offset+octet-stream',
        ...(cookie ? { Cookie: cookie } : {}),
      },
      body: new Uint8Array(part),
    });
  expect((await patch(0, bytes.subarray(0, 50))).headers.get('upload-offset')).toBe('50');
  expect((await patch(0, bytes)).status, 'a wrong place').toBe(409);
  const ben = await fetch(`${app}/api/sign-in/as`, {
    method: 'POST',
    headers: { Origin: app, 'Content-Type': 'application/json' },
    body: JSON.stringify({ personId: 2 }),
  });
  const cookie = ben.headers.get('set-cookie')!.split(';')[0]!;
  expect((await patch(50, bytes.subarray(50), cookie)).status, 'someone else').toBe(404);
  expect(site.arrivals.inState('sending')).toHaveLength(1);
  const head = await fetch(at, { method: 'HEAD', headers: { 'Tus-Resumable': '1.0.0' } });
  expect(head.headers.get('upload-offset')).toBe('50');
  expect((await patch(50, bytes.subarray(50))).status).toBe(204);
  await site.checking.settled();
  expect(site.arrivals.of(1).map((one) => [one.state, one.bytes])).toEqual([['ready', bytes.length]]);
});

test('more than the limit, and what names no length, is refused before a byte is stored', async () => {
  const huge = await send('film.mp4', new Uint8Array(), { 'Upload-Length': String(20 * 1024 ** 3) });
  expect(huge.status).toBe(413);
  expect(site.arrivals.of(1)).toEqual([]);
});

test('fetching from other servers is off unless the setting allows it', async () => {
  const answer = await fetch(`${app}/api/arrivals/fetch`, {
    method: 'POST',
    headers: { Origin: app, 'Content-Type': 'application/json' },
    body: JSON.stringify({ address: 'http://example.com/a.png', folder: '' }),
  });
  expect(answer.status).toBe(403);
});

test('for names, a page gives the title people wrote; a style sheet or data file gives none', async () => {
  const ids = ['img/c.png', 'img/IMG_1234.png'].map((path) => site.items.atPath(path)!.id);
  expect(site.references.pageTitles(ids).get(ids[0]!)).toEqual(['s.css']);
  const answer = await post('/api/naming', { ids });
  const { items } = (await answer.json()) as { items: { pages: string[] }[] };
  expect(items.map(({ pages }) => pages)).toEqual([[], ['Home é', 'Sub']]);
});

test('events begin with the state of the library they go on from; answers tell of theirs', async () => {
  const revision = async () => (await fetch(`${app}/api/site`)).headers.get('library-revision');
  const before = await revision();
  const stopping = new AbortController();
  const answer = await fetch(`${app}/api/events`, { signal: stopping.signal });
  const reader = answer.body!.pipeThrough(new TextDecoderStream()).getReader();
  let told = '';
  const until = async (event: string) => {
    while (!told.includes(event)) told += (await reader.read()).value ?? '';
  };
  await until(`event: following\ndata: "${before}"\n\n`);
  expect(await revision()).toBe(before);
  await writeFile(join(site.folder.root, 'img/later.png'), await picture(9));
  await site.scanner.scan();
  const after = await revision();
  expect(after).not.toBe(before);
  await until(`event: changed\ndata: "${after}"\n\n`);
  stopping.abort();
});

test('a part of a file is sent where only that is wanted', async () => {
  const { id } = site.items.atPath('img/unused.png')!;
  const ask = (range?: string) =>
    server.ask('GET', `/api/items/${id}/file`, undefined, range === undefined ? {} : { Range: range });
  const whole = await ask();
  const bytes = new Uint8Array(await whole.arrayBuffer());
  expect([
    whole.status,
    whole.headers.get('accept-ranges'),
    Number(whole.headers.get('content-length')),
  ]).toEqual([200, 'bytes', bytes.length]);
  const last = bytes.length - 1;
  for (const [range, from, to] of [
    ['bytes=0-9', 0, 9],
    ['bytes=20-', 20, last],
    ['bytes=-5', last - 4, last],
    [`bytes=30-${last + 1000}`, 30, last],
  ] as const) {
    const part = await ask(range);
    expect([part.status, part.headers.get('content-range')], range).toEqual([
      206,
      `bytes ${from}-${to}/${bytes.length}`,
    ]);
    expect(new Uint8Array(await part.arrayBuffer()), range).toEqual(bytes.slice(from, to + 1));
  }
  const beyond = await ask(`bytes=${bytes.length}-`);
  expect([beyond.status, beyond.headers.get('content-range')]).toEqual([416, `bytes */${bytes.length}`]);
  // What makes no sense, or asks for several parts, gets the whole.
  for (const range of ['nonsense', 'bytes=0-1,5-6']) expect((await ask(range)).status, range).toBe(200);
});
