import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import { KINDS_OF_PLAN } from '../../core/plan/kinds/index.ts';
import { grantOf, may, ROLES, type Right, type Role } from '../../core/people/rights.ts';
import type { OpenedSite } from '../app/opened-site.ts';
import { A_REQUEST } from '../test/plan-requests.ts';
import { changeMember } from '../test/members.ts';
import { cookieOf, GOOD_PASSWORD, serveRoles } from '../test/roles.ts';
import type { Served } from '../test/served.ts';
import { closeSites, smallSite } from '../test/site.ts';
import { servicesOf } from './app.ts';
import type { Route } from './route.ts';
import { routesOf } from './routes/index.ts';

/** The application as it is outside the demo: nobody is anybody without signing in. */
const GOOD = GOOD_PASSWORD;
let site: OpenedSite;
let served: Served;
let routes: Route[];
let cookies: Record<Role, string>;

const signIn = (name: string, password = GOOD, headers: Record<string, string> = {}) =>
  served.ask('POST', '/api/sign-in', { name, password }, headers);
const as = (role: Role) => ({ Cookie: cookies[role] });
type Said = { code: string; message: string; remedy: string };
const said = async (answer: Response) => (await answer.json()) as Said;

beforeAll(async () => {
  ({ site, served, cookies } = await serveRoles(await smallSite()));
  routes = routesOf(servicesOf({ site, log: served.log, servedAt: served.served, hosts: [] }));
}, 60_000);
afterAll(async () => {
  served.close();
  await closeSites();
});

describe('without a session', () => {
  test('every route but those of the door says that nobody is signed in', async () => {
    let kept = 0;
    for (const route of routes) {
      if (route.right === 'sign-in') continue;
      const method = route.method === 'all' ? 'GET' : route.method.toUpperCase();
      const answer = await served.ask(
        method,
        `/api${route.path.replace(/\{.*\}/, '').replace(/:\w+/g, '1')}`,
        route.body === null ? undefined : {},
      );
      expect([answer.status, await said(answer)], `${method} ${route.path}`).toMatchObject([
        401,
        { code: 'signed-out', message: 'You aren’t signed in.' },
      ]);
      kept++;
    }
    expect(kept).toBeGreaterThan(90);
  });

  test('nothing is sent or fetched back by the protocol of uploads either', async () => {
    for (const [method, path] of [
      ['POST', '/api/uploads'],
      ['HEAD', '/api/uploads/1'],
      ['PATCH', '/api/uploads/1'],
      ['DELETE', '/api/uploads/1'],
    ] as const)
      expect((await served.ask(method, path, undefined, { 'Tus-Resumable': '1.0.0' })).status, method).toBe(
        401,
      );
  });

  test('the window itself comes, as it shows nothing of the site; the door tells no names', async () => {
    expect((await fetch(`${served.app}/sign-in`)).status).toBe(200);
    const door = (await (await served.ask('GET', '/api/door')).json()) as object;
    expect(door).toEqual({ site: 'site', person: null, unset: false, demo: null, provider: null });
  });

  test('nobody becomes somebody by asking for it', async () => {
    const answer = await served.ask('POST', '/api/sign-in/as', { personId: 1 });
    expect([answer.status, (await said(answer)).message]).toEqual([403, 'This is no demo.']);
  });
});

describe('the cookie', () => {
  test('is for no script, no other site, and behind TLS for nothing else; and is new each time', async () => {
    const first = await signIn('Ottilie');
    const header = first.headers.get('set-cookie')!;
    expect(header).toMatch(/; httponly/i);
    expect(header).toMatch(/; samesite=strict/i);
    expect(header).not.toMatch(/; secure/i);
    expect(cookieOf(first)).toMatch(/=[\w-]{43}$/);
    expect(cookieOf(await signIn('Ottilie'))).not.toBe(cookieOf(first));
  });

  test('of somebody else’s making is never taken over', async () => {
    const planted = `iconomos_session=${'x'.repeat(43)}`;
    const answer = await signIn('Ottilie', GOOD, { Cookie: planted });
    expect(cookieOf(answer)).not.toBe(planted);
    expect((await served.ask('GET', '/api/site', undefined, { Cookie: planted })).status).toBe(401);
  });

  test('is worth nothing once its person has signed out, or somebody else has signed in with it', async () => {
    const cookie = cookieOf(await signIn('Ben'));
    const mine = { Cookie: cookie };
    const other = cookieOf(await signIn('Piet', GOOD, mine));
    expect((await served.ask('GET', '/api/site', undefined, mine)).status).toBe(401);
    expect((await served.ask('POST', '/api/sign-out', {}, { Cookie: other })).status).toBe(200);
    expect((await served.ask('GET', '/api/site', undefined, { Cookie: other })).status).toBe(401);
  });

  test('does not let in from a page of another origin', async () => {
    const answer = await served.ask(
      'POST',
      '/api/sign-in',
      { name: 'Ottilie', password: GOOD },
      { Origin: served.served },
    );
    expect(answer.status).toBe(403);
  });
});

describe('what each role may', () => {
  const bodyOf = (route: Route) => (route.body === null ? undefined : { 'nobody-knows': 1 });
  test.each(ROLES)('as %s: every route answers as the table of rights says', async (role) => {
    for (const route of routes) {
      if (route.answer === 'own' || route.right === 'sign-in') continue;
      const answer = await served.ask(
        route.method.toUpperCase(),
        `/api${route.path.replace(/:\w+/g, 'x')}?nobody-knows=1`,
        bodyOf(route),
        as(role),
      );
      const name = `${route.method} ${route.path} (${route.right})`;
      // What may be asked for fails later: its number is none, its query and its body hold what nobody knows.
      if (may(role, route.right)) expect([400, 404], name).toContain(answer.status);
      else {
        const { code, message, remedy } = await said(answer);
        expect([answer.status, code], name).toEqual([403, 'forbidden']);
        expect(message, name).toMatch(/^As an? \w+ you can’t do this: [a-z].*\.$/);
        expect(remedy, name).toMatch(/^Ask an? /);
      }
    }
  });

  test.each(ROLES)('as %s: every kind of plan is refused or looked at as the table says', async (role) => {
    for (const { name, right, request } of Object.values(KINDS_OF_PLAN)) {
      const asked = A_REQUEST[name];
      expect(request.safeParse(asked).error, name).toBeUndefined();
      const answer = await served.ask('POST', '/api/plans', asked, as(role));
      if (grantOf(role, right) !== 'no') expect([200, 400, 404, 409], name).toContain(answer.status);
      else expect([answer.status, (await said(answer)).code], name).toEqual([403, 'forbidden']);
    }
  });

  test('looking is all that a reader gets of an undo', async () => {
    const item = site.items.atPath('img/b.png')!;
    const edit = { kind: 'set-aside', itemIds: [site.items.atPath('img/unused.png')!.id] };
    const plan = (await (await served.ask('POST', '/api/plans', edit, as('editor'))).json()) as {
      id: string;
    };
    const applied = (await (
      await served.ask('POST', `/api/plans/${plan.id}/apply`, {}, as('editor'))
    ).json()) as { entryId: number };
    const undo = { kind: 'undo', entryId: applied.entryId };
    for (const role of ['reader', 'contributor'] as const)
      expect((await served.ask('POST', '/api/plans', undo, as(role))).status, role).toBe(403);
    expect((await served.ask('POST', '/api/plans', undo, as('editor'))).status).toBe(200);
    expect(item.state).toBe('here');
  });

  test('a plan is refused when its person has lost the right since', async () => {
    const item = site.items.atPath('img/b.png')!;
    const request = { kind: 'move', itemIds: [item.id], folder: 'moved' };
    const plan = (await (await served.ask('POST', '/api/plans', request, as('editor'))).json()) as {
      id: string;
    };
    const { id } = site.people.byName('Ben')!;
    await changeMember(site, id, { role: 'contributor' });
    const answer = await served.ask('POST', `/api/plans/${plan.id}/apply`, {}, as('editor'));
    expect([answer.status, (await said(answer)).code]).toEqual([403, 'forbidden']);
    expect(site.items.atPath('img/b.png')).toBeDefined();
    await changeMember(site, id, { role: 'editor' });
    cookies.editor = cookieOf(await signIn('Ben'));
  });
});

test('whose access has ended is out at once, also of the stream of events', async () => {
  const { id } = site.people.byName('Piet')!;
  const cookie = { Cookie: cookieOf(await signIn('Piet')) };
  const stream = await served.ask('GET', '/api/events', undefined, cookie);
  expect(stream.status).toBe(200);
  const heard = stream.text();
  await changeMember(site, id, { ended: true });
  expect(await heard).toContain('event: people');
  expect((await served.ask('GET', '/api/site', undefined, cookie)).status).toBe(401);
  await changeMember(site, id, { ended: false });
});

test('a stream of events tells a window that its person may do other things now', async () => {
  const cookie = { Cookie: cookieOf(await signIn('Ben')) };
  const rights = async () =>
    ((await (await served.ask('GET', '/api/site', undefined, cookie)).json()) as { rights: Right[] }).rights;
  expect(await rights()).toContain('clean');
  const { id } = site.people.byName('Ben')!;
  await changeMember(site, id, { role: 'reader' });
  expect(await rights()).toEqual(['sign-in', 'look', 'download']);
  await changeMember(site, id, { role: 'editor' });
});

test('the log of the server holds no password, no token and no link', async () => {
  const { token } = site.access.linkFor(site.people.byName('Ines')!.id, site.people.byName('Ottilie')!, {
    address: '',
    agent: '',
  });
  await signIn('Ottilie', 'my very secret words');
  await served.ask('POST', '/api/invitation/look', { token });
  await served.ask('POST', '/api/invitation/use', { token, name: 'Ines', password: 'too short' });
  const log = JSON.stringify(served.logged) + JSON.stringify(site.access.log.list(300));
  for (const secret of ['my very secret words', token, 'too short', cookies.steward.split('=')[1]!])
    expect(log).not.toContain(secret);
});

test('the log holds no text of an item, whether it is kept or refused', async () => {
  const SECRET = 'The duchess, unretouched';
  const item = site.items.atPath('img/b.png')!;
  const reader = { Cookie: cookieOf(await signIn('Piet')) };
  const from = served.logged.length;
  const write = (cookie: { Cookie: string }, alt: unknown) =>
    served.ask('PATCH', `/api/items/${item.id}`, { rowVersion: item.rowVersion, words: { alt } }, cookie);
  const answers = [
    await write(as('editor'), SECRET),
    await write(reader, SECRET),
    await write(as('editor'), { [SECRET]: SECRET }),
    await write(as('editor'), SECRET.repeat(10_000)),
    await fetch(`${served.app}/api/items/${item.id}`, {
      method: 'PATCH',
      headers: { ...as('editor'), Origin: served.app, 'Content-Type': 'application/json' },
      body: `{"words": {"alt": ${SECRET}}}`,
    }),
    await served.ask(
      'GET',
      `/api/items?query=${encodeURIComponent(`alt:"${SECRET}`)}`,
      undefined,
      as('editor'),
    ),
  ];
  expect(answers.map(({ status }) => status)).toEqual([200, 403, 400, 400, 400, 400]);
  expect(site.items.atPath('img/b.png')!.words.alt).toBe(SECRET);
  expect(served.logged.length - from).toBeGreaterThan(answers.length);
  expect(JSON.stringify([served.logged, site.access.log.list(300)])).not.toContain('duchess');
});
