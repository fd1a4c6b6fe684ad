import { afterEach, expect, test } from 'vitest';
import { seeded } from '../../core/test/chance.ts';
import { ALL_HERE } from '../store/item-query.ts';
import { closeSites, openSite, siteFolder, treeOf } from '../test/site.ts';
import { deadLinks, linkedFiles, randomRequest } from '../test/random-site.ts';
import { plan as planned } from '../test/plans.ts';
import { applyProposal } from './proposal.ts';

afterEach(closeSites);

test.each([11, 29])(
  'random plans of every kind, each undone, redone or kept: no link ever breaks, and all undone the site is as before (seed %i)',
  async (seed) => {
    const chance = seeded(seed);
    const root = await siteFolder(await linkedFiles(chance, 14, 24));
    const site = await openSite(root);
    const start = await treeOf(root);
    const words = new Map<number, string>();
    for (const { id, sha256 } of site.items.list({ ...ALL_HERE, limit: 1000 }).items) words.set(id, sha256);
    expect(await deadLinks(root)).toEqual([]);
    const undo = async (entryId: number) => {
      const proposal = await planned(site, { kind: 'undo', entryId });
      expect(proposal.plan.clashes, proposal.plan.title).toEqual([]);
      return applyProposal(site, proposal, 1);
    };
    const done: number[] = [];
    let applied = 0;
    for (let round = 0; round < 30; round++) {
      const request = randomRequest(site, chance);
      const proposal = await planned(site, request);
      const { plan } = proposal;
      if (plan.clashes.length > 0 || plan.files.length + plan.records.length === 0) continue;
      const before = await treeOf(root);
      const entry = await applyProposal(site, proposal, 1);
      applied++;
      expect(await deadLinks(root), plan.title).toEqual([]);
      const after = await treeOf(root);
      // A scan finds nothing that was not known.
      expect(await site.scan(), plan.title).toMatchObject({ changed: 0, removed: 0 });
      const undone = await undo(entry);
      expect(await treeOf(root), plan.title).toEqual(before);
      if (chance.below(3) === 0) continue;
      await undo(undone);
      expect(await treeOf(root), plan.title).toEqual(after);
      done.push(site.rows.list(1)[0]!.id);
    }
    expect(applied).toBeGreaterThan(12);
    for (const entry of done.reverse()) await undo(entry);
    expect(await treeOf(root)).toEqual(start);
    for (const [id, sha256] of words) expect(site.items.need(id)).toMatchObject({ sha256, state: 'here' });
  },
);
