import { afterAll, beforeAll, expect, test } from 'vitest';
import type { EntryView, PlanView } from '../../api/plans.ts';
import type { TokenView } from '../../api/people.ts';
import type { SiteView } from '../../api/site.ts';
import { reportFromServer } from '../../cli/ask-server.ts';
import { lesserRole, tokenRoles } from '../../core/people/rights.ts';
import { changeMember } from '../test/members.ts';
import { json, NAMES, serveRoles, type ServedRoles } from '../test/roles.ts';
import { closeSites, smallSite } from '../test/site.ts';

/** Programs that come in by a token, on behalf of a person. */
let roles: ServedRoles;
beforeAll(async () => {
  roles = await serveRoles(await smallSite());
}, 60_000);
afterAll(async () => {
  roles.served.close();
  await closeSites();
});
const make = async (by: keyof typeof NAMES, role: string, name = 'Nightly report') =>
  (await json<{ token: string }>(roles.askAs(by, 'POST', '/api/account/tokens', { name, role, days: 30 })))
    .token;
/** As a program asks: no cookie, no origin. */
const call = (token: string, method: string, path: string, body?: unknown) =>
  fetch(`${roles.served.app}/api${path}`, {
    method,
    headers: {
      Authorization: `Bearer ${token}`,
      ...(body === undefined ? {} : { 'Content-Type': 'application/json' }),
    },
    ...(body === undefined ? {} : { body: JSON.stringify(body) }),
  });

test('a token may no more than it says, and no more than its person may', async () => {
  const token = await make('editor', 'reader');
  expect((await call(token, 'GET', '/items')).status).toBe(200);
  const { person, rights } = await json<SiteView>(call(token, 'GET', '/site'));
  expect([person.name, person.role, rights.includes('describe')]).toEqual(['Ben', 'reader', false]);
  const id = roles.site.items.atPath('img/b.png')!.id;
  const words = { kind: 'records', itemIds: [id], set: { title: 'x' } };
  expect((await call(token, 'POST', '/plans', words)).status).toBe(403);

  const strong = await make('editor', 'editor', 'Import');
  const ben = roles.site.people.byName(NAMES.editor)!.id;
  await changeMember(roles.site, ben, { role: 'reader' });
  expect((await call(strong, 'POST', '/plans', words)).status).toBe(403);
  await changeMember(roles.site, ben, { role: 'editor' });
  const plan = await json<PlanView>(call(strong, 'POST', '/plans', words));
  expect((await call(strong, 'POST', `/plans/${plan.id}/apply`, {})).status).toBe(200);
  const [entry] = await json<EntryView[]>(call(token, 'GET', '/ledger'));
  expect([entry!.person, entry!.via]).toEqual(['Ben', 'token Import']);
});

test('nobody makes one for more than they may; none is for what only people do; no program makes one', async () => {
  for (const [by, role] of [
    ['contributor', 'editor'],
    ['editor', 'steward'],
    ['steward', 'steward'],
    ['reader', 'contributor'],
  ] as const) {
    const body = { name: 'x', role, days: 1 };
    expect([by, (await roles.askAs(by, 'POST', '/api/account/tokens', body)).status]).toEqual([by, 403]);
  }
  const token = await make('steward', 'editor');
  for (const [method, path, body] of [
    ['POST', '/account/tokens', { name: 'x', role: 'reader', days: 1 }],
    ['GET', '/people', undefined],
    ['POST', '/account/tokens/1/end', {}],
  ] as const)
    expect([path, (await call(token, method, path, body)).status]).toEqual([path, 403]);
  expect(tokenRoles('nobody')).toEqual([]);
  expect(lesserRole('editor', 'reader')).toBe('reader');
});

test('one that has ended, is over, or belongs to somebody who has ended lets nobody in, also not by a cookie or as the demo', async () => {
  const token = await make('contributor', 'reader', 'Old');
  const [row] = await json<TokenView[]>(roles.askAs('contributor', 'GET', '/api/account/tokens'));
  expect([row!.name, row!.role]).toEqual(['Old', 'reader']);
  expect(JSON.stringify(row)).not.toContain(token);
  // Nobody ends another's.
  await roles.askAs('steward', 'POST', `/api/account/tokens/${row!.id}/end`, {});
  expect((await call(token, 'GET', '/site')).status).toBe(200);
  await roles.askAs('contributor', 'POST', `/api/account/tokens/${row!.id}/end`, {});
  const refused = await fetch(`${roles.served.app}/api/site`, {
    headers: { Authorization: `Bearer ${token}`, Cookie: roles.cookies.steward },
  });
  expect([refused.status, ((await refused.json()) as { message: string }).message]).toEqual([
    401,
    'This token doesn’t work: it has ended, or there never was one.',
  ]);

  const over = await make('contributor', 'reader', 'Over');
  roles.site.db.run('update machine_token set ends_at = ?', Date.now() - 1);
  expect((await call(over, 'GET', '/site')).status).toBe(401);

  const gone = await make('contributor', 'reader', 'Gone');
  const { id } = roles.site.people.byName(NAMES.contributor)!;
  await changeMember(roles.site, id, { ended: true });
  expect((await call(gone, 'GET', '/site')).status).toBe(401);
  await changeMember(roles.site, id, { ended: false });
});

test('a page of another origin gets nowhere with one, nor does what only looks like one', async () => {
  const token = await make('editor', 'editor');
  const body = { method: 'POST', body: '{}' };
  const headers = { 'Content-Type': 'application/json' };
  const ask = (more: Record<string, string>) =>
    fetch(`${roles.served.app}/api/scan`, { ...body, headers: { ...headers, ...more } });
  expect((await ask({ Authorization: `Bearer ${token}` })).status).toBe(200);
  expect((await ask({ Authorization: `Bearer ${token}`, Origin: 'http://elsewhere.example' })).status).toBe(
    403,
  );
  expect((await ask({ Authorization: 'Bearer' })).status).toBe(403);
  expect((await ask({ Authorization: `Basic ${token}` })).status).toBe(403);
  expect((await ask({ Authorization: 'Bearer not-a-token' })).status).toBe(401);
});

test('the report is the folder’s, asked of a running server; what is wrong is told in a sentence', async () => {
  const token = await make('editor', 'reader');
  const report = await reportFromServer(roles.served.app, token, true);
  expect(report.items.map((one) => one.path)).toContain('img/unused.png');
  expect(report.broken.map((one) => one.url)).toContain('../img/none.png');
  await expect(reportFromServer(roles.served.app, 'x', true)).rejects.toThrow('This token doesn’t work');
  await expect(reportFromServer('http://127.0.0.1:9', token, true)).rejects.toThrow('doesn’t answer');
  await expect(reportFromServer(`${roles.served.served}`, token, true)).rejects.toThrow();
});

test('neither the database, the log nor the access log holds a token', async () => {
  const token = await make('steward', 'reader', 'Secret one');
  await call(token, 'GET', '/site');
  await call(`${token}x`, 'GET', '/site');
  const held = roles.site.db.all('select * from machine_token');
  const told = JSON.stringify([held, roles.served.logged, roles.site.access.log.list(300)]);
  expect(told).toContain('Secret one');
  expect(told).not.toContain(token);
});

test('a stream of events that a token opened ends with it', async () => {
  const token = await make('editor', 'reader', 'Watcher');
  const stream = await call(token, 'GET', '/events');
  expect(stream.status).toBe(200);
  const heard = stream.text();
  const tokens = await json<TokenView[]>(roles.askAs('editor', 'GET', '/api/account/tokens'));
  const { id } = tokens.find((one) => one.name === 'Watcher')!;
  await roles.askAs('editor', 'POST', `/api/account/tokens/${id}/end`, {});
  expect(await heard).toContain('event: people');
});
