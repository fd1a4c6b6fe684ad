import { chmod, chown } from 'node:fs/promises';
import { join } from 'node:path';
import { afterEach, expect, test } from 'vitest';
import type { PlanRequest } from '../../api/plans.ts';
import { seeded } from '../../core/test/chance.ts';
import { closeSites, openSite, siteFolder, treeOf } from '../test/site.ts';
import { deadLinks, linkedFiles, recordsOf, rightsOf } from '../test/random-site.ts';
import { applied, KINDS_OF_PLANS, randomRequest } from '../test/random-plans.ts';
import { plan as planned } from '../test/plans.ts';
import { applyProposal } from './apply.ts';

afterEach(closeSites);

/** So often is a plan of a kind tried until one can be applied. */
const TRIES = 12;

test.each([12, 64])(
  'plans of every kind in random order, each undone, redone or kept: no link breaks, and all undone the site is as before (seed %i)',
  async (seed) => {
    const chance = seeded(seed);
    const root = await siteFolder(await linkedFiles(chance, 14, 24));
    for (const [at, path] of Object.keys(await rightsOf(root)).entries()) {
      await chmod(join(root, path), at % 3 === 0 ? 0o640 : 0o644);
      // Only who may do everything can give files away.
      if (process.getuid?.() === 0) await chown(join(root, path), 1000 + (at % 2), 1000);
    }
    const site = await openSite(root);
    await site.analyser.analyseAll();
    await site.checks.refresh();
    expect(await deadLinks(root)).toEqual([]);
    const now = async () => {
      // A scan finds nothing that was not known.
      expect(await site.scanner.scan()).toMatchObject({ changed: 0, removed: 0 });
      return { tree: await treeOf(root), rights: await rightsOf(root), records: await recordsOf(site) };
    };
    const start = await now();
    const undo = async (entryId: number) => {
      const proposal = await planned(site, { kind: 'undo', entryId });
      expect(proposal.plan.clashes, proposal.plan.title).toEqual([]);
      return applyProposal(site, proposal, 1);
    };
    const done: number[] = [];
    const kinds = KINDS_OF_PLANS();
    const made = new Set<string>();
    for (const kind of [...kinds].sort(() => chance.below(3) - 1)) {
      let entry: number | undefined;
      let before = await now();
      const backs: (() => Promise<void>)[] = [];
      for (let attempt = 0; attempt < TRIES && entry === undefined; attempt++) {
        const request = await randomRequest(kind, {
          site,
          chance,
          first: async (one: PlanRequest) => {
            const id = await applied(site, one);
            if (id !== undefined) done.push(id);
            return id;
          },
          others: async (_item, act, back) => {
            backs.unshift(back);
            await act();
            await site.scanner.scan();
          },
        });
        before = await now();
        if (request) entry = await applied(site, request);
        const { title } = entry === undefined ? { title: kind } : (await site.rows.read(entry))!.plan;
        if (entry === undefined)
          for (const back of backs.splice(0)) await back().then(() => site.scanner.scan());
        else if (backs.length === 0 || kind === 'follow-moves')
          expect(await deadLinks(root), title).toEqual([]);
      }
      if (entry === undefined) continue;
      made.add(kind);
      const { title } = (await site.rows.read(entry))!.plan;
      const after = await now();
      const undone = await undo(entry);
      expect(await now(), title).toEqual(before);
      const kept = backs.length === 0 && chance.below(3) > 0;
      if (!kept && backs.length === 0) continue;
      await undo(undone);
      expect(await now(), title).toEqual(after);
      const last = site.rows.list(1)[0]!.id;
      if (kept) done.push(last);
      else {
        await undo(last);
        for (const back of backs) await back();
        await site.scanner.scan();
      }
    }
    expect([...kinds].filter((kind) => !made.has(kind))).toEqual([]);
    for (const entry of done.reverse()) await undo(entry);
    // What others did is remembered: that they moved a file away and back, and files of theirs that are gone again.
    const end = await now();
    for (const [id, item] of Object.entries(end.records.items)) {
      item.movedFrom = null;
      if (item.outside && item.path.startsWith('img/found-')) delete end.records.items[id];
    }
    expect(end).toEqual(start);
  },
);
