import { cp, mkdtemp, rename, rm, utimes, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, expect, test } from 'vitest';
import { plantedFaults, plantedFindings } from '../../demo/faults.ts';
import { SEED } from '../../demo/make.ts';
import { writeDemoRecords } from '../../demo/records.ts';
import { SMALL_DEMO } from '../../demo/test-setup.ts';
import { CHECKS, ITEM_CHECKS, type ItemCheck } from '../../core/upkeep/checks.ts';
import { applyProposal } from '../changes/apply.ts';
import { proposeRecords, proposeRule } from '../changes/records.ts';
import { proposeAside } from '../changes/files.ts';
import { proposeDismissal } from '../changes/upkeep.ts';
import { proposeUndo } from '../changes/undo.ts';
import type { OpenedSite } from '../app/opened-site.ts';
import { allSaid } from '../test/checks.ts';
import { apply } from '../test/plans.ts';
import { closeSites, openSite, picture, siteFolder } from '../test/site.ts';
import { alikeGroups, copyGroups } from './groups.ts';
import { redirectViews, tagFindings } from './library-wide.ts';

afterEach(closeSites);

async function pathsOf(site: OpenedSite, check: ItemCheck): Promise<string[]> {
  await site.checks.refresh();
  return (await site.findings.ids(check)).map((id) => site.items.need(id).path).sort();
}

test('of the demo every check says what was planted, and nothing else', async () => {
  const root = join(await mkdtemp(join(tmpdir(), 'iconomos-checks-')), 'site');
  await cp(SMALL_DEMO, root, { recursive: true });
  const site = await openSite(root);
  await writeDemoRecords(site, SEED);
  await site.analyser.analyseAll();
  const planted = plantedFindings(SEED);
  for (const check of ITEM_CHECKS) {
    // Painted small, too little is seen of a sky to weigh by.
    const light = check === 'no-sizes';
    const found = await pathsOf(site, check);
    if (light) expect(planted[check], check).toEqual(expect.arrayContaining(found));
    else expect(found, check).toEqual(planted[check] ?? []);
  }
  // The lines of the overview count each item once.
  const {
    care: { troubled },
  } = await site.checks.keepDay('9', '');
  for (const line of ['doubles', 'weight', 'rights', 'files'] as const) {
    const ids: number[] = [];
    for (const check of ITEM_CHECKS)
      if (CHECKS[check].group === line) ids.push(...(await site.findings.ids(check)));
    expect(troubled[line], line).toBe(new Set(ids).size);
    expect(new Set(ids).size, line).toBeGreaterThan(0);
  }
  const tags = await tagFindings(site);
  expect(tags.near.map(({ name, to }) => `${name} = ${to}`)).toEqual(['Domes = dome']);
  expect(tags.lone.map(({ name }) => name).sort()).toEqual(planted['lone-tags']);
  expect(await redirectViews(site)).toEqual([]);
  const sorted = (groups: string[][]) => groups.map((group) => group.sort()).sort();
  const paths = (groups: Awaited<ReturnType<typeof copyGroups>>) =>
    sorted(groups.map((group) => group.map(({ item }) => item.path)));
  const truth = plantedFaults(SEED);
  expect(paths(await copyGroups(site))).toEqual(sorted(truth.copies));
  expect(paths(await alikeGroups(site))).toEqual(sorted(truth.alike));

  // What a person says of families holds here too: joined, two are one item; separated, a size shows the same as its image.
  const [first] = truth.alike;
  const [main, ...others] = first!.map((path) => site.items.atPath(path)!.id);
  await apply(site, { kind: 'family', itemIds: others, of: main! });
  const size = site.items.atPath('images/dome/dome-fog-640.jpg')!;
  expect(size.sizeOf).not.toBeNull();
  await apply(site, { kind: 'family', itemIds: [size.id], of: 'apart' });
  await site.analyser.analyseAll();
  await site.checks.refresh();
  const fog = ['images/dome/dome-fog-640.jpg', 'images/dome/dome-fog.jpg'];
  expect(paths(await alikeGroups(site))).toEqual(sorted([...truth.alike.slice(1), fog]));
}, 300_000);

/** A small site in which things can be at fault in many ways. */
async function mixed(): Promise<string> {
  return siteFolder({
    'index.html':
      '<title>Home</title><img src="img/IMG_1.png" alt="A hill" width="10"><img src="img/b.png"><script>var a = "mentioned.png"</script>',
    'two.html': '<title>Two</title><img src="img/b.png" alt="Said otherwise">',
    'img/IMG_1.png': await picture(1),
    'img/b.png': await picture(2),
    'img/b-copy.png': await picture(2),
    'img/mentioned.png': await picture(3),
    'img/idle.png': await picture(4),
    'root.png': await picture(5),
    'img/wrong.jpg': await picture(6),
    'media/talk.pdf': 'no pdf at all',
  });
}

test('what has changed is checked again, and all that depends on it: it is always what checking everything says', async () => {
  const root = await mixed();
  const site = await openSite(root);
  await site.analyser.analyseAll();
  const whole = async () => {
    const said = await allSaid(site);
    await site.findings.uncheck('1');
    expect(await allSaid(site)).toEqual(said);
    return said;
  };
  const id = (path: string) => site.items.atPath(path)!.id;
  const first = await whole();
  for (const one of [
    'no-alt img/b.png',
    'copies img/b.png',
    'copies img/b-copy.png',
    'unused img/idle.png',
    'mentioned img/mentioned.png',
    'no-folder root.png',
    'names img/IMG_1.png',
    'other-type img/wrong.jpg',
    'no-title media/talk.pdf',
  ])
    expect(
      first.some((said) => said.startsWith(`${one} `)),
      one,
    ).toBe(true);

  const describe = (path: string, set: object) =>
    applyProposal(site, proposeRecords(site, [id(path)], { set }), 1);
  await describe('img/b.png', { alt: 'A field' });
  expect(await whole()).toContain('page-words img/b.png One page differs from the record.');
  await describe('img/idle.png', {
    alt: 'A field',
    licence: 'CC BY',
    licenceEnd: '2020-01-01',
    language: 'en',
  });
  const described = await whole();
  expect(described).toContain('same-alt img/b.png Another image has the alt text “A field”.');
  expect(described).toContain('licence-over img/idle.png Its licence expired on 2020-01-01.');
  await describe('img/b.png', { licence: 'CC BY', licenceEnd: '2020-01-01' });
  expect((await whole()).filter((said) => said.startsWith('licence-over img/b.png'))).toEqual([
    'licence-over img/b.png Its licence expired on 2020-01-01. It is still on “index.html” and “two.html”.',
  ]);
  expect(described).toContain('no-language img/b.png No language is set.');
  await describe('img/idle.png', { alt: 'A hill in fog', language: '' });
  expect((await whole()).filter((said) => /^(?:same-alt|no-language)/.test(said))).toEqual([]);

  const rule = {
    purpose: '',
    leastWidth: 5000,
    leastHeight: null,
    largestSide: null,
    shape: null,
    largestBytes: null,
  };
  const more = { keepOriginal: true, kinds: null, pattern: null, tags: [], licence: '' };
  const entry = await applyProposal(site, proposeRule(site, 'img', { ...rule, ...more }), 1);
  expect((await whole()).filter((said) => said.startsWith('rules img/'))).toHaveLength(6);
  await applyProposal(site, await proposeUndo(site, entry), 1);
  expect((await whole()).filter((said) => said.startsWith('rules '))).toEqual([]);

  // Others change a file, take one away, and bring it back.
  await writeFile(join(root, 'img/idle.png'), await picture(44));
  await utimes(join(root, 'img/idle.png'), 1, 1);
  await rename(join(root, 'img/b-copy.png'), join(root, 'away.tmp'));
  await site.scanner.scan();
  const changed = await whole();
  expect(changed).toContain('outside img/idle.png The file was changed outside Iconomos.');
  expect(changed.filter((said) => said.startsWith('copies '))).toEqual([]);
  await rename(join(root, 'away.tmp'), join(root, 'img/b-copy.png'));
  await rm(join(root, 'img/IMG_1.png'));
  await site.scanner.scan();
  await whole();
  // What Iconomos does itself is no change by others.
  await applyProposal(site, await proposeAside(site, [id('img/idle.png')]), 1);
  expect((await whole()).filter((said) => said.includes('img/idle.png'))).toEqual([]);
});

test('what changes while it is checked is checked once more', async () => {
  const site = await openSite(await mixed());
  await site.analyser.analyseAll();
  await site.checks.refresh();
  const { id } = site.items.atPath('img/idle.png')!;
  const { findings } = site;
  const ask = findings.checkInputs.bind(findings);
  let asked = 0;
  findings.checkInputs = (ids) => {
    const inputs = ask(ids);
    asked++;
    // As soon as somebody else has a turn.
    if (asked === 1) queueMicrotask(() => site.records.setPlace(id, 'img/idle.png', 'absent'));
    return inputs;
  };
  await findings.uncheck();
  await site.checks.refresh();
  expect(asked).toBeGreaterThan(1);
  const told = (await findings.ids('unused')).includes(id);
  expect({ told, unchecked: findings.uncheckedCount() }).toEqual({ told: false, unchecked: 0 });
});

test('a scan that begins while items are checked takes nothing away from what is said of them', async () => {
  const site = await openSite(await mixed());
  await site.analyser.analyseAll();
  await site.checks.refresh();
  expect(await pathsOf(site, 'unused')).toContain('img/idle.png');
  const { findings, rules, index } = site;
  await site.checks.keepDay('', '');
  const day = site.care.history(1);
  await findings.uncheck();
  const waiting = findings.uncheckedCount();
  const all = rules.all.bind(rules);
  // The last thing that is asked before the items are.
  rules.all = () => {
    index.disconnect();
    return all();
  };
  await site.checks.refresh();
  expect(findings.uncheckedCount()).toBe(waiting);
  await site.checks.keepDay('', '');
  expect(site.care.history(1)).toEqual(day);
  rules.all = all;
  await site.scanner.scan();
  expect(index.connected).toBe(true);
  expect(await pathsOf(site, 'unused')).toContain('img/idle.png');
});

test('what was being checked when a check broke off is checked the next time', async () => {
  const site = await openSite(await mixed());
  await site.analyser.analyseAll();
  const { findings } = site;
  const save = findings.save.bind(findings);
  findings.save = () => {
    throw new Error('broken off');
  };
  const before = findings.uncheckedCount();
  expect(before).toBeGreaterThan(0);
  await expect(site.checks.refresh()).rejects.toThrow('broken off');
  expect(findings.uncheckedCount()).toBe(before);
  findings.save = save;
  expect(await pathsOf(site, 'unused')).toContain('img/idle.png');
  expect(findings.uncheckedCount()).toBe(0);
});

test('what is left alone stays so until it changes; it can be told again, and undone', async () => {
  const site = await openSite(await mixed());
  const { id } = site.items.atPath('img/idle.png')!;
  expect(await pathsOf(site, 'unused')).toContain('img/idle.png');
  const entry = await applyProposal(
    site,
    proposeDismissal(site, 'unused', [String(id)], 'For the anniversary in May', 2),
    2,
  );
  expect(await pathsOf(site, 'unused')).not.toContain('img/idle.png');
  expect(await site.findings.dismissals()).toMatchObject([
    { name: 'unused', reason: 'For the anniversary in May', person: 'Ben', past: false },
  ]);
  // It is checked again and still left alone; its new words change nothing in what was found.
  await applyProposal(site, proposeRecords(site, [id], { set: { title: 'Idle' } }), 1);
  expect(await pathsOf(site, 'unused')).not.toContain('img/idle.png');
  // Its bytes change: it is told again.
  await writeFile(join(site.folder.root, 'img/idle.png'), await picture(77));
  await utimes(join(site.folder.root, 'img/idle.png'), 1, 1);
  await site.scanner.scan();
  expect(await pathsOf(site, 'unused')).toContain('img/idle.png');
  expect(await site.findings.dismissals()).toMatchObject([{ past: true }]);
  await applyProposal(site, await proposeUndo(site, entry), 1);
  expect(await site.findings.dismissals()).toEqual([]);
});
