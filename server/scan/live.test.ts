import { createServer, type IncomingMessage, type Server } from 'node:http';
import type { AddressInfo } from 'node:net';
import { afterEach, expect, test } from 'vitest';
import { applyProposal } from '../changes/apply.ts';
import { proposeNames } from '../changes/addresses.ts';
import { proposeAside } from '../changes/files.ts';
import { closeSites, openSite, picture, siteFolder } from '../test/site.ts';
import { serve } from '../test/served.ts';
import { LIVE_LIMITS, LiveReader } from './live.ts';

const servers: Server[] = [];
afterEach(async () => {
  for (const server of servers.splice(0)) {
    server.closeAllConnections();
    await new Promise((done) => server.close(done));
  }
  await closeSites();
});

interface Asked {
  path: string;
  at: number;
}
/** A stand-in for a site whose pages come from elsewhere: answers by path; everything else is not found. */
async function standIn(
  told: (
    origin: string,
  ) => Record<string, string | { status?: number; type?: string; to?: string; body?: string }>,
): Promise<{ host: string; origin: string; asked: Asked[] }> {
  const asked: Asked[] = [];
  let answers: ReturnType<typeof told> = {};
  const server = createServer((request: IncomingMessage, response) => {
    asked.push({ path: request.url!, at: performance.now() });
    const found = answers[request.url!];
    const {
      status = 200,
      type = 'text/html',
      to,
      body = '',
    } = typeof found === 'string' ? { body: found } : (found ?? { status: 404 });
    response.writeHead(to ? 301 : status, { 'Content-Type': type, ...(to ? { Location: to } : {}) });
    response.end(body);
  });
  servers.push(server);
  await new Promise<void>((done) => server.listen(0, '127.0.0.1', done));
  const { port } = server.address() as AddressInfo;
  answers = told(`http://127.0.0.1:${port}`);
  return { host: `127.0.0.1:${port}`, origin: `http://127.0.0.1:${port}`, asked };
}
const quick = { ...LIVE_LIMITS, pause: 1 };
const allow = (host: string) => ({ allowed: false, hosts: [host] });

async function mediaOnly() {
  return openSite(
    await siteFolder({
      'media/a.png': await picture(1),
      'media/b c.png': await picture(2),
      'media/hidden.png': await picture(3),
      'media/style.png': await picture(4),
      'media/idle.png': await picture(5),
    }),
  );
}

test('sitemap, links, style sheets and redirects: what visitors see is placed, what robots.txt closes is left alone', async () => {
  const site = await mediaOnly();
  const live = await standIn(() => ({
    '/robots.txt': 'User-agent: *\nDisallow: /private/\nSitemap: /none.xml\n',
    '/': '<title>Start</title><link rel=stylesheet href=/s.css><img src="media/a.png" alt="A"><a href="about?x=1#y">x</a><a href="/private/p">p</a><a href="http://elsewhere.example/">e</a>',
    '/about?x=1':
      '<title>About</title><a href="/moved">m</a><a href="/gone">g</a><a href="media/b%20c.png">file</a>',
    '/moved': { to: '/new/place' },
    '/new/place': '<title>Moved</title><base href="/media/"><img src="b%20c.png">',
    '/private/p': '<img src="/media/hidden.png">',
    '/s.css': { type: 'text/css', body: 'a{background:url(media/style.png)}' },
  }));
  expect(site.finder.counts()).toMatchObject({ unused: 5 });
  const view = await new LiveReader(site, quick).read(`${live.origin}/`, allow(live.host));
  expect(view.items).toEqual({ seen: 3, only: 3 });
  expect(
    view.pages.map((page) => [page.url.slice(live.origin.length), page.status, page.placements]),
  ).toEqual([
    ['/gone', 404, 0],
    ['/', 200, 1],
    ['/about?x=1', 200, 1],
    ['/moved', 200, 1],
    ['/s.css', 200, 1],
  ]);
  expect(live.asked.map((one) => one.path)).not.toContain('/private/p');
  expect(live.asked.filter((one) => one.path === '/')).toHaveLength(1);
  const a = site.items.atPath('media/a.png')!;
  expect(a.use).toBe('placed');
  expect(site.live.placementsOf(a.path)).toMatchObject([{ title: 'Start', place: 'img src', alt: 'A' }]);
  expect(['media/hidden.png', 'media/idle.png'].map((path) => site.items.atPath(path)!.use)).toEqual([
    'unused',
    'unused',
  ]);
  // Nobody sets aside what a visitor sees.
  expect((await proposeAside(site, [a.id])).plan.clashes).toHaveLength(1);
  // Read anew, the last reading gives way; forgotten, nothing is placed any more.
  await new LiveReader(site, quick).read(`${live.origin}/new/place`, allow(live.host));
  expect(site.items.atPath('media/a.png')!.use).toBe('unused');
  site.live.forget();
  await site.scanner.refreshUse();
  expect(site.finder.counts()).toMatchObject({ unused: 5 });
});

test('sitemaps of sitemaps; no more pages than the limit; a pause between requests, as long as the site asks for', async () => {
  const site = await mediaOnly();
  const paths = Array.from({ length: 30 }, (_, i) => `/p${i}`);
  const live = await standIn((origin) => ({
    '/robots.txt': 'User-agent: Iconomos\nCrawl-delay: 0.05\n',
    '/sitemap.xml': {
      type: 'application/xml',
      body: `<sitemapindex><sitemap><loc>${origin}/maps/one.xml</loc></sitemap></sitemapindex>`,
    },
    '/maps/one.xml': {
      type: 'application/xml',
      body: `<urlset>${paths.map((path) => `<url><loc>${origin}${path}</loc></url>`).join('')}</urlset>`,
    },
    '/': '<title>Start</title>',
    ...Object.fromEntries(paths.map((path) => [path, `<title>${path}</title>`])),
  }));
  const view = await new LiveReader(site, { ...quick, pages: 8 }).read(live.origin, allow(live.host));
  expect(view.pages.map((page) => page.title).sort()).toEqual([
    '/p0',
    '/p1',
    '/p2',
    '/p3',
    '/p4',
    '/p5',
    '/p6',
    'Start',
  ]);
  // The start page and robots.txt are asked for before the wish of the site is known.
  // A busy machine takes note of one late, so they are looked at together.
  const after = live.asked.slice(2).map((one) => one.at);
  expect((after.at(-1)! - after[0]!) / (after.length - 1)).toBeGreaterThan(40);
});

test('an address that leads to another site is not asked there, and no start page leads where reading is not allowed', async () => {
  const site = await mediaOnly();
  const other = await standIn(() => ({ '/x': '<img src=/media/a.png>', '/': '<title>O</title>' }));
  const live = await standIn(() => ({
    '/': '<title>T</title><a href=/away>a</a>',
    '/away': { to: `${other.origin}/x` },
  }));
  await new LiveReader(site, quick).read(live.origin, {
    allowed: true,
    hosts: [live.host, other.host],
  });
  expect(live.asked.map((one) => one.path)).toContain('/away');
  expect(other.asked).toEqual([]);
  // A start page may name the site's own host name, if that may be asked at all.
  const start = await standIn(() => ({ '/': { to: `${other.origin}/` } }));
  await expect(new LiveReader(site, quick).read(start.origin, allow(start.host))).rejects.toMatchObject({
    code: 'forbidden',
  });
  expect(other.asked).toEqual([]);
});

test('the private network is not read unless it is named; a site that is shut or not there is told; stopping keeps what was known', async () => {
  const site = await mediaOnly();
  const live = await standIn(() => ({
    '/': '<img src=/media/a.png><a href=/b>b</a>',
    '/b': 'b',
    '/robots.txt': { status: 503 },
  }));
  const reader = new LiveReader(site, quick);
  await expect(reader.read(live.origin, { allowed: true, hosts: [] })).rejects.toMatchObject({
    code: 'forbidden',
  });
  await expect(reader.read('ftp://x.example/', allow(live.host))).rejects.toMatchObject({
    code: 'bad-request',
  });
  await expect(reader.read(live.origin, allow(live.host))).rejects.toThrow('503');
  const open = await standIn(() => ({ '/': '<title>T</title><img src=/media/a.png>' }));
  await reader.read(open.origin, allow(open.host));
  expect(site.live.view().items.seen).toBe(1);
  const slow = new LiveReader(site, { ...LIVE_LIMITS, pause: 60_000 });
  const reading = slow.read(open.origin, allow(open.host));
  const job = await new Promise<string>((done) => {
    const stop = site.jobs.onProgress((one) => {
      stop();
      done(one.id);
    });
    const there = site.jobs.list().find((one) => one.kind === 'live' && one.state === 'running');
    if (there) done(there.id);
  });
  site.jobs.cancel(job);
  await expect(reading).rejects.toThrow();
  expect(site.live.view().items.seen).toBe(1);
});

test('the site’s own stand-in server: served with its redirects, read as visitors see it', async () => {
  const root = await siteFolder({
    'index.html': '<title>Home</title><img src="img/IMG_1.png"><a href="sub/">s</a>',
    'sub/index.html': '<title>Sub</title><a href="../img/IMG_1.png">old</a>',
    'img/IMG_1.png': await picture(1),
    'img/idle.png': await picture(2),
  });
  const site = await openSite(root);
  const item = site.items.atPath('img/IMG_1.png')!;
  await applyProposal(site, await proposeNames(site, [{ itemId: item.id, name: 'hill.png' }]), 1);
  const server = await serve(site);
  const host = new URL(server.served).host;
  const old = await fetch(`http://${host}/img/IMG_1.png`, { redirect: 'manual' });
  expect([old.status, old.headers.get('location')]).toEqual([301, '/img/hill.png']);
  const view = await new LiveReader(site, quick).read(`http://${host}/`, allow(host));
  expect(view.pages.map((page) => page.title)).toEqual(['Home', 'Sub']);
  expect(view.items).toEqual({ seen: 1, only: 0 });
  server.close();
});
