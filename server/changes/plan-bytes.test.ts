import { mkdtemp, readdir, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, describe, expect, test } from 'vitest';
import { emptyPlan, type Plan } from '../../core/plan/plan.ts';
import { closeSites, openSite, picture, siteFolder, smallSite } from '../test/site.ts';
import { applyProposal } from './apply.ts';
import { PlanBytes, sha256Of } from './plan-bytes.ts';
import { Proposals } from './proposal.ts';
import { proposeReplace } from './replace.ts';
import { fromWorkFile, renderedImage } from './rendered.ts';

const text = (letter: string, bytes: number) => Buffer.from(letter.repeat(bytes));

/** A plan that writes these. */
function planOf(...written: Uint8Array[]): Plan {
  const plan = emptyPlan('describe', 'Write');
  for (const [at, bytes] of written.entries())
    plan.files.push({ do: 'create', path: `${at}.txt`, sha256: sha256Of(bytes) });
  return plan;
}

describe('kept bytes', () => {
  let folder: string;
  let bytes: PlanBytes;
  const [a, b, c] = ['a', 'b', 'c'].map((letter) => text(letter, 400)) as [Buffer, Buffer, Buffer];
  beforeEach(async () => {
    folder = await mkdtemp(join(tmpdir(), 'iconomos-plans-'));
    bytes = new PlanBytes(folder, { memory: 1000, small: 500, total: 2000 });
  });
  afterEach(() => rm(folder, { recursive: true }));

  test('small ones stay in memory while there is room, others are files; all are read as they were', async () => {
    const large = text('L', 600);
    await bytes.during(async () => {
      for (const one of [a, b, c, large]) await bytes.keep(one);
      expect(bytes.size).toEqual({ total: 1800, memory: 800 });
      expect(await readdir(folder)).toHaveLength(2);
      for (const one of [a, b, c, large]) expect(await bytes.read(sha256Of(one))).toEqual(one);
    });
    expect([bytes.size, await readdir(folder)]).toEqual([{ total: 0, memory: 0 }, []]);
  });

  test('the same bytes are kept once, also when they come at the same time and by different ways', async () => {
    const large = text('L', 600);
    const [file, other] = [`${folder}.file`, `${folder}.other`];
    await bytes.during(async () => {
      for (const one of [file, other]) await writeFile(one, large);
      await Promise.all([
        bytes.keep(large),
        bytes.keep(large),
        bytes.copy(other, sha256Of(large)),
        bytes.take(file, { sha256: sha256Of(large), bytes: 600 }),
      ]);
      expect([bytes.size.total, (await readdir(folder)).length]).toEqual([600, 1]);
      expect(await bytes.read(sha256Of(large))).toEqual(large);
      await expect(readFile(file)).rejects.toThrow('ENOENT');
      await rm(other);
    });
  });

  test('what a plan holds stays until it is let go of; what a failed computation kept goes', async () => {
    let release!: () => Promise<void>;
    await bytes.during(async () => {
      for (const one of [a, b]) await bytes.keep(one);
      release = await bytes.hold(planOf(a));
    });
    expect([await bytes.read(sha256Of(a)), await bytes.read(sha256Of(b))]).toEqual([a, undefined]);
    const failing = bytes.during(async () => {
      await bytes.keep(c);
      throw new Error('stopped');
    });
    await expect(failing).rejects.toThrow('stopped');
    expect(bytes.size.total).toBe(400);
    await release();
    expect(bytes.size).toEqual({ total: 0, memory: 0 });
  });

  test('a computation that is going on keeps its bytes while others end, also those that others have kept before', async () => {
    await bytes.during(async () => {
      await bytes.keep(a);
      await bytes.during(() => bytes.keep(b));
      expect(bytes.at(sha256Of(b))).toBeDefined();
      const ended = bytes.during(() => bytes.keep(c));
      await bytes.keep(c);
      await ended;
      for (const one of [a, c]) expect(await bytes.read(sha256Of(one))).toEqual(one);
    });
    expect(bytes.size.total).toBe(0);
  });

  test('two plans that write the same: one lets go of it, the other still has it', async () => {
    const releases: (() => Promise<void>)[] = [];
    for (let time = 0; time < 2; time++)
      await bytes.during(async () => {
        await bytes.keep(a);
        releases.push(await bytes.hold(planOf(a)));
      });
    await releases[0]!();
    expect(await bytes.read(sha256Of(a))).toEqual(a);
    await releases[1]!();
    expect(await bytes.read(sha256Of(a))).toBeUndefined();
  });

  test('without room, the oldest plans at hand go; a plan that is too large by itself is refused', async () => {
    const proposals = new Proposals(bytes);
    const compute = (...parts: Buffer[]) =>
      proposals.compute(1, async () => {
        for (const one of parts) await bytes.keep(one);
        return { plan: planOf(...parts) };
      });
    const first = await compute(text('1', 900));
    const second = await compute(text('2', 900));
    const third = await compute(text('3', 900));
    expect([first, second, third].map(({ id }) => proposals.at(id) !== undefined)).toEqual([
      false,
      true,
      true,
    ]);
    expect(bytes.size.total).toBe(1800);
    await expect(compute(text('4', 1500), text('5', 1500))).rejects.toMatchObject({ code: 'too-large' });
    // Nothing of the refused one is left.
    expect([bytes.size.total, await readdir(folder)]).toEqual([0, []]);
  });
});

describe('plans of a site', () => {
  afterEach(closeSites);

  test('new images lie on the disk with the plan, and go with it, applied or not', async () => {
    const root = await siteFolder({
      'a.png': await picture(1, 'png', 2000),
      'b.png': await picture(2, 'png', 1500),
    });
    const site = await openSite(root);
    const proposals = new Proposals(site.planBytes);
    const [a, b] = ['a.png', 'b.png'].map((path) => site.items.atPath(path)!);
    const replace = () =>
      proposeReplace(site, { itemId: a!.id, by: { itemId: b!.id }, name: 'keep', dates: 'keep' }, 1);
    const shown = await proposals.compute(1, replace);
    expect(await readdir(site.data.plans)).toHaveLength(1);
    const again = await proposals.compute(1, replace);
    // The other item goes meanwhile: the plan has bytes of its own.
    await rm(join(root, 'b.png'));
    await proposals.use(shown.id, 1, (proposal) => applyProposal(site, proposal, 1));
    expect(sha256Of(await readFile(join(root, 'a.png')))).toBe(b!.sha256);
    expect(await readdir(site.data.plans)).toHaveLength(1);
    await expect(
      proposals.use(again.id, 1, (proposal) => applyProposal(site, proposal, 1)),
    ).rejects.toThrow();
    expect(await readdir(site.data.plans)).toEqual([]);
    expect(site.planBytes.size.total).toBe(0);
  });

  test('a plan whose bytes were damaged on the disk is refused, and nothing changes', async () => {
    const root = await siteFolder({ 'a.png': await picture(1), 'b.png': await picture(2) });
    const site = await openSite(root);
    const before = await readFile(join(root, 'a.png'));
    const [a, b] = ['a.png', 'b.png'].map((path) => site.items.atPath(path)!);
    const proposals = new Proposals(site.planBytes);
    const { id } = await proposals.compute(1, () =>
      proposeReplace(site, { itemId: a!.id, by: { itemId: b!.id }, name: 'keep', dates: 'keep' }, 1),
    );
    const [file] = await readdir(site.data.plans);
    await writeFile(join(site.data.plans, file!), 'damaged');
    const applied = proposals.use(id, 1, (proposal) => applyProposal(site, proposal, 1));
    await expect(applied).rejects.toThrow('The new file for “a.png” is damaged');
    expect(await readFile(join(root, 'a.png'))).toEqual(before);
  });

  test('what a server left when it ended is gone at the next start', async () => {
    const root = await smallSite();
    const site = await openSite(root);
    await writeFile(join(site.data.plans, 'left'), 'x');
    await site.close();
    const again = await openSite(root);
    expect(await readdir(again.data.plans)).toEqual([]);
  });

  test('a work file goes, whether its bytes are taken or not', async () => {
    const site = await openSite(await siteFolder({ 'a.png': await picture(1, 'png', 300) }));
    const file = join(site.folder.root, 'a.png');
    await site.planBytes.during(async () => {
      const made = await renderedImage(site, file, { width: 100, height: 100, mime: 'image/png' });
      expect(made.bytes).toBe((await site.planBytes.read(made.sha256))!.length);
      await fromWorkFile(site, (to) => writeFile(to, 'left'));
      await expect(
        renderedImage(site, join(site.folder.root, 'none.png'), { width: 9, height: 9, mime: 'image/png' }),
      ).rejects.toThrow();
      expect(await readdir(site.data.arrivals)).toEqual([]);
    });
  });
});
