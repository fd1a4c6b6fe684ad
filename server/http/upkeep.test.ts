import { rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { afterEach, beforeEach, expect, test } from 'vitest';
import { z } from 'zod';
import { ItemView } from '../../api/items.ts';
import { SiteView } from '../../api/site.ts';
import { DoubleGroups, FindingList, Overview, ToMeasure } from '../../api/upkeep.ts';
import { PlanView } from '../../api/plans.ts';
import type { OpenedSite } from '../app/opened-site.ts';
import { closeSites, openSite, smallSite, treeOf } from '../test/site.ts';
import { serve, type Served } from '../test/served.ts';

let site: OpenedSite;
let root: string;
let server: Served;
let app = '';

beforeEach(async () => {
  root = await smallSite();
  site = await openSite(root);
  server = await serve(site);
  ({ app } = server);
});
afterEach(async () => {
  server.close();
  await closeSites();
});

async function get<Schema extends z.ZodType>(schema: Schema, path: string): Promise<z.output<Schema>> {
  const answer = await fetch(app + path);
  expect(answer.status, path).toBe(200);
  return schema.parse(await answer.json());
}
const post = (path: string, body: unknown) => server.ask('POST', path, body);
const idOf = (path: string) => site.items.atPath(path)!.id;

test('the overview says what is found, what is new since the person looked, and how it stood', async () => {
  const first = await get(Overview, '/api/upkeep');
  const found = (overview: Overview, name: string) =>
    overview.checks.find((one) => one.name === name) ?? expect.fail(name);
  expect(first.care).toMatchObject({ items: 6, placed: 3, troubled: { doubles: 2, weight: 0 } });
  expect(found(first, 'copies')).toMatchObject({ found: 2, fresh: 0 });
  expect(found(first, 'unused').found).toBe(2);
  expect(first.history).toHaveLength(1);
  expect([first.lastLook, first.unchecked, first.entriesSince]).toEqual([null, 0, 0]);
  // What could be freed: the unused, one of them a copy.
  const bytes = (path: string) => site.items.atPath(path)!.bytes;
  expect(first.freeable).toBe(bytes('img/unused.png') + bytes('old/copy-of-b.png'));

  expect((await post('/api/upkeep/looked', {})).status).toBe(200);
  await writeFile(join(root, 'new.svg'), '<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"/>');
  await site.scanner.scan();
  const second = await get(Overview, '/api/upkeep');
  expect(second.lastLook).not.toBeNull();
  expect(found(second, 'unused')).toMatchObject({ found: 3, fresh: 1 });
  expect(second.care.items).toBe(7);
});

test('findings come a part at a time, the total is of all; what is no check is refused', async () => {
  const all = await get(FindingList, '/api/upkeep/findings?check=no-alt');
  expect(all.total).toBe(6);
  const part = await get(FindingList, '/api/upkeep/findings?check=no-alt&limit=2&offset=3');
  expect(part.total).toBe(6);
  expect(part.findings.map(({ item }) => item.path)).toEqual(
    all.findings.slice(3, 5).map(({ item }) => item.path),
  );
  const placed = all.findings.find(({ item }) => item.path === 'img/IMG_1234.png')!;
  expect(placed.pages).toEqual(expect.arrayContaining(['Home é', 'Sub']));
  for (const query of ['check=broken', 'check=none', 'check=no-alt&limit=0', 'check=no-alt&offset=-1'])
    expect((await fetch(`${app}/api/upkeep/findings?${query}`)).status, query).toBe(400);
});

test('unused items that were added lately are left out unless they are asked for; it is said what depends on the others', async () => {
  const day = 86_400_000;
  const lately = new Date(Date.now() - 10 * day);
  const before = await get(FindingList, '/api/upkeep/findings?check=unused&age=0');
  const [first] = before.findings.filter(({ item }) => item.path.startsWith('img/'));
  const { path } = first!.item;
  for (const { item } of before.findings)
    site.db.run(
      'update item set added_at = ? where id = ?',
      (item.path === path ? lately : new Date(Date.now() - 50 * day)).toISOString(),
      item.id,
    );
  const left = await get(FindingList, '/api/upkeep/findings?check=unused');
  expect(left).toMatchObject({ total: before.total - 1, younger: 1 });
  expect(left.findings.map(({ item }) => item.path)).not.toContain(path);
  const ids = await (await fetch(`${app}/api/upkeep/ids?check=unused`)).json();
  expect(ids).toEqual(left.findings.map(({ item }) => item.id).sort((a, b) => a - b));
  expect((await get(FindingList, '/api/upkeep/findings?check=unused&age=5')).younger).toBe(0);
  // A file beside it that is called the same may belong to it.
  await writeFile(join(site.folder.root, `${path.replace(/\.[^.]+$/, '')}.vtt`), 'WEBVTT\n');
  await site.scanner.scan();
  const all = await get(FindingList, '/api/upkeep/findings?check=unused&age=0');
  expect(all.findings.find(({ item }) => item.path === path)!.depends).toEqual([
    `Same name: ${path
      .split('/')
      .at(-1)!
      .replace(/\.[^.]+$/, '')}.vtt.`,
  ]);
});

test('the library is asked for what upkeep finds, and for what it does not', async () => {
  await site.checks.refresh();
  const paths = async (where: string) => {
    const answer = await fetch(`${app}/api/items?where=${encodeURIComponent(where)}&limit=50`);
    const { items } = (await answer.json()) as { items: { path: string }[] };
    return items.map((one) => one.path).sort();
  };
  expect(await paths('found:doubles')).toEqual(['img/b.png', 'old/copy-of-b.png']);
  expect(await paths('found:unused')).toEqual(['img/unused.png', 'old/copy-of-b.png']);
  expect(await paths('!found:doubles,!found:unused')).toEqual([
    'img/IMG_1234.png',
    'img/c.png',
    'img/mentioned.png',
  ]);
  // What is left alone is found no more.
  const plan = PlanView.parse(
    await (
      await post('/api/plans', {
        kind: 'dismiss',
        check: 'unused',
        subjects: [String(idOf('img/unused.png'))],
        reason: 'for May',
      })
    ).json(),
  );
  expect((await post(`/api/plans/${plan.id}/apply`, {})).status).toBe(200);
  expect(await paths('found:unused')).toEqual(['old/copy-of-b.png']);
});

test('pages are measured once, by numbers alone; what is told of no page is refused', async () => {
  const before = await get(ToMeasure, '/api/upkeep/to-measure');
  expect(before.measured).toBe(0);
  expect(before.pages.map(({ path, title }) => [path, title])).toEqual([
    ['index.html', 'Home é'],
    ['sub/page.html', 'Sub'],
  ]);
  expect(before.pages[0]!.look).toMatch(
    /^http:\/\/127\.0\.0\.1:\d+\/index\.html\?iconomos-preview=[0-9a-f]{32}&page=/,
  );
  const [place] = site.references
    .placementsOf('img/IMG_1234.png')
    .filter((one) => one.page === 'sub/page.html');
  const shown = [
    { start: place!.start, wide: 300 },
    { start: 1, wide: 5 },
  ];
  expect((await post('/api/upkeep/measured', { page: 'sub/page.html', shown })).status).toBe(200);
  expect(site.db.all('select * from shown_width')).toEqual([
    { page: 'sub/page.html', path: 'img/IMG_1234.png', wide: 300 },
  ]);
  const after = await get(ToMeasure, '/api/upkeep/to-measure');
  expect([after.measured, after.pages.map((one) => one.path)]).toEqual([1, ['index.html']]);

  const status = async (body: unknown) => (await post('/api/upkeep/measured', body)).status;
  expect(await status({ page: 'none.html', shown: [] })).toBe(404);
  expect(await status({ page: '../x', shown: [] })).toBe(404);
  for (const wide of [0, -4, 1.5, 1e9, '300'])
    expect(await status({ page: 'index.html', shown: [{ start: 1, wide }] }), String(wide)).toBe(400);
});

test('remedies that encode are bounded, and say what they leave; nothing is written by looking', async () => {
  const before = await treeOf(root);
  const ids = [idOf('img/b.png'), idOf('img/unused.png')];
  for (const kind of ['offer', 'lighten', 'convert', 'kept', 'without-place']) {
    const answer = await post('/api/plans', { kind, itemIds: ids });
    expect(answer.status, kind).toBe(200);
    const { empty, warnings } = PlanView.parse(await answer.json());
    expect(empty, kind).toBe(true);
    expect(warnings, kind).toHaveLength(2);
    expect((await post('/api/plans', { kind, itemIds: [] })).status, kind).toBe(400);
    const many = Array.from({ length: 501 }, (_, at) => at + 1);
    expect((await post('/api/plans', { kind, itemIds: many })).status, kind).toBe(400);
  }
  expect(await treeOf(root)).toEqual(before);
});

test('emptying needs the number typed, and what is here is never emptied', async () => {
  const id = idOf('img/unused.png');
  const refused = await post('/api/upkeep/empty', { itemIds: [id], typed: '1' });
  expect(refused.status).toBeGreaterThanOrEqual(400);
  expect(site.items.need(id).state).toBe('here');
  const plan = PlanView.parse(await (await post('/api/plans', { kind: 'set-aside', itemIds: [id] })).json());
  await post(`/api/plans/${plan.id}/apply`, {});
  expect((await post('/api/upkeep/empty', { itemIds: [id], typed: '2' })).status).toBe(400);
  expect(site.items.need(id).state).toBe('aside');
  expect((await post('/api/upkeep/empty', { itemIds: [id], typed: '1' })).status).toBe(200);
  expect(site.items.need(id).state).toBe('absent');
});

test('every number is that of its list, also where a copy has the bytes of a size of another image', async () => {
  const plan = PlanView.parse(
    await (
      await post('/api/plans', { kind: 'family', itemIds: [idOf('img/b.png')], of: idOf('img/c.png') })
    ).json(),
  );
  expect((await post(`/api/plans/${plan.id}/apply`, {})).status).toBe(200);
  expect(site.items.atPath('img/b.png')!.sizeOf).toBe(idOf('img/c.png'));
  await site.checks.refresh();
  const { checks } = await get(Overview, '/api/upkeep');
  const found = (name: string) => checks.find((one) => one.name === name)!.found;
  const groups = await get(DoubleGroups, '/api/upkeep/groups?check=copies&rule=words&folder=');
  expect(groups.map(({ members }) => members.map(({ item }) => item.path).sort())).toEqual([
    ['img/b.png', 'old/copy-of-b.png'],
  ]);
  expect(found('copies')).toBe(2);
  const { counts } = await get(SiteView, '/api/site');
  expect(counts.cleanable).toBe(found('copies') + found('unused'));
});

test('what is set aside is listed by how long it has been kept, whatever it is called', async () => {
  const paths = ['old/copy-of-b.png', 'img/unused.png'];
  for (const path of paths) {
    const plan = PlanView.parse(
      await (await post('/api/plans', { kind: 'set-aside', itemIds: [idOf(path)] })).json(),
    );
    expect((await post(`/api/plans/${plan.id}/apply`, {})).status).toBe(200);
  }
  const listed = await get(z.array(ItemView), '/api/upkeep/aside');
  expect(listed.map((item) => item.path)).toEqual(paths);
  expect((await site.finder.aside(1)).map((item) => item.path)).toEqual(paths.slice(0, 1));
});

test('a record whose file is gone is deleted only when one says so, and comes back by undo', async () => {
  const id = idOf('img/c.png');
  const apply = async (request: object) => {
    const plan = PlanView.parse(await (await post('/api/plans', request)).json());
    const answer = await post(`/api/plans/${plan.id}/apply`, {});
    expect(answer.status).toBe(200);
    return ((await answer.json()) as { entryId: number }).entryId;
  };
  const words = { alt: 'A ridge', title: 'Ridge', tags: ['hill'] };
  await apply({ kind: 'cells', cells: [{ itemId: id, set: words }] });
  await rm(join(root, 'img/c.png'));
  await site.scanner.scan();
  await site.checks.refresh();
  expect(await site.findings.ids('missing')).toEqual([id]);
  const entry = await apply({ kind: 'forget', itemIds: [id] });
  await site.checks.refresh();
  expect(await site.findings.ids('missing')).toEqual([]);
  expect(site.items.need(id).words).toMatchObject({ alt: '', title: '', tags: [] });
  await apply({ kind: 'undo', entryId: entry });
  expect(site.items.need(id).words).toMatchObject(words);
  await site.checks.refresh();
  expect(await site.findings.ids('missing')).toEqual([id]);
});
