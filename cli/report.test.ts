import { spawnSync } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { rm, symlink } from 'node:fs/promises';
import { dirname, join } from 'node:path';
import { afterEach, expect, test } from 'vitest';
import { Report } from '../api/report.ts';
import { builtFile } from '../server/built.ts';
import { applyProposal } from '../server/changes/apply.ts';
import { proposeRecords } from '../server/changes/records.ts';
import { closeSites, openSite, picture, siteFolder, smallSite, treeOf } from '../server/test/site.ts';

const made: string[] = [];
afterEach(async () => {
  for (const root of made.splice(0)) await rm(dirname(root), { recursive: true, force: true });
});

function report(root: string, ...args: string[]) {
  made.push(root);
  const done = spawnSync(process.execPath, [builtFile('report.js'), '--site', root, ...args], {
    encoding: 'utf8',
  });
  return {
    code: done.status,
    said: done.stderr,
    report: done.stdout ? Report.parse(JSON.parse(done.stdout)) : undefined,
  };
}

test('the report of a site, by its schema; nothing in the site is changed', async () => {
  const root = await smallSite();
  const before = await treeOf(root);
  const { code, report: found } = report(root);
  expect(code).toBe(0);
  expect(await treeOf(root)).toEqual(before);
  expect(found!.site).toMatchObject({ pages: 4, items: 6 });
  expect(found!.items.map((item) => [item.path, item.use, item.placements])).toEqual([
    ['img/IMG_1234.png', 'placed', 7],
    ['img/b.png', 'placed', 2],
    ['img/c.png', 'placed', 1],
    ['img/mentioned.png', 'mentioned', 0],
    ['img/unused.png', 'unused', 0],
    ['old/copy-of-b.png', 'unused', 0],
  ]);
  expect(found!.items[0]).toMatchObject({ kind: 'image', mime: 'image/png', width: 24, height: 16 });
  expect(found!.mentioned).toEqual([{ path: 'img/mentioned.png', in: 'js/app.js', line: 1 }]);
  expect(found!.broken).toEqual([{ page: 'sub/page.html', line: 1, url: '../img/none.png' }]);
  expect(found!.copies).toEqual([['img/b.png', 'old/copy-of-b.png']]);
  expect(found!.alt.missing.map((one) => [one.page, one.line, one.path])).toEqual([
    ['index.html', 5, 'img/b.png'],
    ['sub/page.html', 1, 'img/IMG_1234.png'],
  ]);
});

test('--fail-on exits 1 for what was found, 0 for what was not; --out writes the file', async () => {
  const root = await smallSite();
  const out = join(dirname(root), 'report.json');
  expect(report(root, '--fail-on', 'unused,alt', '--out', out).code).toBe(1);
  expect(Report.parse(JSON.parse(readFileSync(out, 'utf8'))).unused).toHaveLength(2);
  const clean = await siteFolder({ 'index.html': '<img src=a.png alt="">', 'a.png': await picture(1) });
  expect(report(clean, '--fail-on', 'unused,copies,broken,alt').code).toBe(0);
});

test('as build pipelines take it: SARIF and the XML of JUnit, with the same findings', async () => {
  const root = await smallSite();
  const found = report(root).report!;
  const out = join(dirname(root), 'report.txt');
  expect(report(root, '--as', 'sarif', '--out', out, '--fail-on', 'broken').code).toBe(1);
  const [run] = (JSON.parse(readFileSync(out, 'utf8')) as { runs: [{ results: { ruleId: string }[] }] }).runs;
  const times = (rule: string) => run.results.filter(({ ruleId }) => ruleId === rule).length;
  expect([times('unused'), times('broken'), times('alt'), times('copies')]).toEqual([
    found.unused.length,
    found.broken.length,
    found.alt.missing.length,
    found.copies.reduce((sum, group) => sum + group.length - 1, 0),
  ]);
  expect(report(root, '--as', 'junit', '--out', out).code).toBe(0);
  expect(readFileSync(out, 'utf8').match(/<failure /g)).toHaveLength(run.results.length);
  expect(report(root, '--as', 'pdf')).toMatchObject({ code: 2, said: expect.stringContaining('--as') });
});

test('a wrong call says what is wrong, in a sentence', () => {
  expect(report('/nowhere/at/all')).toMatchObject({
    code: 2,
    said: expect.stringContaining('There is no folder'),
  });
});

test('hostile and odd sites: names, links, encodings; nothing in use is called unused', async () => {
  const root = await siteFolder({
    'index.html': [
      '<img src="gr%C3%B6%C3%9Fe.png" alt=""><img src="a%20b.png" alt=""><img src="100%25.png" alt="">',
      '<img src="Upper.PNG" alt=""><img src="../../climb.png" alt=""><img src="{{ logo }}.png" alt="">',
      '<img src="/linked/in.png" alt=""><img src="q?v=1" alt=""><a href="c%23d.pdf">x</a><img src="https://cdn.example/far.png" alt="">',
    ].join('\n'),
    'utf16.html': Buffer.concat([Buffer.from([0xff, 0xfe]), Buffer.from('<img src="wide.png">', 'utf16le')]),
    Makefile: 'all:\n\tcp made.png out/\n',
    'größe.png': await picture(1),
    'a b.png': await picture(2),
    '100%.png': await picture(3),
    'upper.png': await picture(4),
    'wide.png': await picture(5),
    'made.png': await picture(6),
    'real/in.png': await picture(7),
    'c#d.pdf': '%PDF-1.4',
    'far.png': await picture(8),
    'empty.png': '',
    'favicon.ico': 'x',
  });
  await symlink('real', join(root, 'linked'));
  await symlink('/etc/passwd', join(root, 'passwd.txt'));
  await symlink('..', join(root, 'real/loop'));
  const { report: found } = report(root);
  expect(Object.fromEntries(found!.items.map((item) => [item.path, item.use]))).toEqual({
    '100%.png': 'placed',
    'a b.png': 'placed',
    'c#d.pdf': 'placed',
    'empty.png': 'unused',
    'far.png': 'mentioned',
    'favicon.ico': 'placed',
    'größe.png': 'placed',
    'made.png': 'mentioned',
    'real/in.png': 'placed',
    'upper.png': 'mentioned',
    'wide.png': 'mentioned',
  });
  expect(found!.broken.map((one) => one.url)).toEqual(['Upper.PNG', '../../climb.png']);
});

test('a manual whose addresses have repeated slashes: its images are in use, and nothing is broken', async () => {
  const root = await siteFolder({
    'index.html': '<img src="images//left.png"><img src="/images///right.png">',
    'part/one.html':
      '<img src="..//images/./left.png"><a href=".././/images//plan.pdf">p</a><img src="images//none.png">',
    'images/left.png': await picture(1),
    'images/right.png': await picture(2),
    'images/plan.pdf': '%PDF-1.4',
  });
  const { report: found } = report(root);
  expect(found!.items.map((item) => [item.path, item.use, item.placements])).toEqual([
    ['images/left.png', 'placed', 2],
    ['images/plan.pdf', 'placed', 1],
    ['images/right.png', 'placed', 1],
  ]);
  expect(found!.broken.map((one) => one.url)).toEqual(['images//none.png']);
});

test('--checks says what every check says, with the records of the data folder; neither it nor the site is changed', async () => {
  const root = await smallSite();
  made.push(root);
  const site = await openSite(root);
  const { id } = site.items.atPath('img/unused.png')!;
  await applyProposal(
    site,
    proposeRecords(site, [id], {
      set: { alt: 'A hill', licence: 'CC BY', licenceEnd: '2020-01-01' },
      addTags: ['hill', 'Hills'],
    }),
    1,
  );
  const before = await treeOf(root);
  const { report: found, code } = report(root, '--checks', '--quick');
  expect(code).toBe(0);
  const paths = (check: 'unused' | 'licence-over' | 'copies' | 'no-alt') =>
    found!.checks![check]!.map((one) => one.path);
  expect(paths('unused')).toEqual(['img/unused.png', 'old/copy-of-b.png']);
  expect(paths('licence-over')).toEqual(['img/unused.png']);
  expect(paths('copies')).toEqual(['img/b.png', 'old/copy-of-b.png']);
  expect(paths('no-alt')).not.toContain('img/unused.png');
  expect(found!.checks!['licence-over']![0]!.why).toBe('Its licence expired on 2020-01-01.');
  expect(found!.checks!['near-tags']!.map((one) => one.tag)).toEqual(['hill']);
  expect(found!.checks!['idle-redirects']).toEqual([]);
  expect(await treeOf(root)).toEqual(before);
  // A check that must not find anything is made, and decides the exit code.
  expect(report(root, '--quick', '--fail-on', 'licence-over').code).toBe(1);
  expect(report(root, '--quick', '--fail-on', 'licence-ending').code).toBe(0);
  expect(site.items.need(id).words.alt).toBe('A hill');
  await closeSites();
});
