import { readFile, rm, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { afterEach, expect, test, vi } from 'vitest';
import { propose } from '../changes/kinds/index.ts';
import { ALL_HERE } from '../db/item-query.ts';
import { closeSites, openSite, picture, siteFolder } from '../test/site.ts';
import { Unended } from '../workers/pool.ts';
import type { OpenedSite } from '../app/opened-site.ts';

afterEach(async () => {
  vi.restoreAllMocks();
  await closeSites();
});

type Each = OpenedSite['pool']['each'];

/** Reading the page does not come to its end; `raw`: nor does searching it for names. */
async function siteWithBadPage(raw: boolean) {
  const root = await siteFolder({
    'good.html': '<title>Good</title><img src="a.png">',
    'a.png': await picture(1),
    'b.png': await picture(2),
    'c.png': await picture(3),
  });
  const site = await openSite(root);
  const { each, run } = site.pool;
  const late = new Unended('took longer than 120 s');
  vi.spyOn(site.pool, 'each').mockImplementation(((
    task: never,
    inputs: never,
    onOutcome: never,
    how: never,
  ) => {
    const heard = onOutcome as unknown as (key: { path: string }, outcome: object) => unknown;
    return (each as (...args: unknown[]) => Promise<void>).call(
      site.pool,
      task,
      inputs,
      (key: { path: string }, outcome: object) =>
        heard(key, (task as string) === 'read' && key.path === 'bad.md' ? { error: late } : outcome),
      how,
    );
  }) as unknown as Each);
  vi.spyOn(site.pool, 'run').mockImplementation(((task: string, input: { path?: string }, how: object) =>
    raw && task === 'read' && input.path === 'bad.md'
      ? Promise.reject(late)
      : (run as (...args: unknown[]) => Promise<unknown>).call(site.pool, task, input, how)) as never);
  await writeFile(join(root, 'bad.md'), '![b](b.png) and much more');
  await site.scanner.scan();
  return { root, site };
}
const unused = (site: OpenedSite) =>
  site.finder.ids({
    ...ALL_HERE,
    where: { join: 'all', not: false, of: [{ test: 'use', value: 'unused', not: false }] },
  });
const aside = (site: OpenedSite, path: string) =>
  propose(
    site,
    { kind: 'set-aside', itemIds: [site.items.atPath(path)!.id], leavePlaced: false },
    { personId: 1 },
  );

test('a page that takes the parser too long is searched for names: what it names is mentioned, not unused', async () => {
  const { site } = await siteWithBadPage(false);
  expect(site.items.atPath('b.png')).toMatchObject({ use: 'mentioned' });
  expect(site.items.atPath('c.png')).toMatchObject({ use: 'unused' });
  expect(site.index.unreadable.map((one) => one.path)).toEqual(['bad.md']);
  expect((await aside(site, 'b.png')).plan.warnings.join()).toContain('mentioned in “bad.md”');
});

test('while a page can neither be parsed nor searched, nothing is offered for cleaning; read again, it is', async () => {
  const { root, site } = await siteWithBadPage(true);
  expect([site.index.useUnknown, site.index.unsearched]).toEqual(['unread', ['bad.md']]);
  expect(unused(site)).toEqual([]);
  expect(site.finder.counts()).toMatchObject({ unused: 0, mentioned: 0 });
  expect((await site.checks.keepDay('', '')).freeable).toBe(0);
  expect(site.items.atPath('b.png')!.use).toBe('unknown');
  expect(site.items.atPath('a.png')!.use).toBe('placed');
  const { plan } = await aside(site, 'b.png');
  expect(plan.clashes[0]!.why).toContain('so it may be in use');
  await site.checks.refresh();
  expect(await site.findings.ids('unused')).toEqual([]);
  vi.restoreAllMocks();
  // A scan that a person asks for tries again.
  await site.scanner.scan(true);
  expect(site.index.useUnknown).toBeUndefined();
  expect(site.items.atPath('b.png')!.use).toBe('placed');
  await site.checks.refresh();
  expect(await site.findings.ids('unused')).toEqual([site.items.atPath('c.png')!.id]);
  expect(await readFile(join(root, 'c.png'))).toEqual(await picture(3));
  await rm(join(root, 'bad.md'));
});
