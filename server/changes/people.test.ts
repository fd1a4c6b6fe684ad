import { afterEach, expect, test } from 'vitest';
import { closeSites, openSite, smallSite } from '../test/site.ts';
import { applyProposal } from './apply.ts';
import { proposeHandOn, proposeMember, roleSetter } from './people.ts';
import type { Proposal } from './proposal.ts';
import { proposeRecords } from './records.ts';
import { proposeUndo } from './undo.ts';
import type { Site } from '../app/site.ts';

afterEach(closeSites);
const apply = (site: Site, proposal: Proposal) => applyProposal(site, proposal, 1);
const undo = async (site: Site, entry: number) => apply(site, await proposeUndo(site, entry));
const newest = (site: Site) => site.rows.list(1)[0]!;

test('who a provider lets in for the first time is added by a change of the ledger, and undoing that lets them in no more', async () => {
  const site = await openSite(await smallSite());
  const id = site.people.add('Wren Alder', '', site.now());
  // Nobody yet, as far as plans go.
  expect(site.members.value(String(id))).toBeNull();
  await roleSetter(site, 'Moor accounts')(id, 'editor');
  expect(newest(site)).toMatchObject({
    title: 'Add Wren Alder as an editor',
    person: 'Wren Alder',
    via: 'Moor accounts',
  });
  expect(site.people.get(id)).toMatchObject({ name: 'Wren Alder', role: 'editor' });
  const added = newest(site).id;
  await roleSetter(site, 'Moor accounts')(id, 'contributor');
  expect(newest(site).title).toBe('Make Wren Alder a contributor');
  await undo(site, newest(site).id);
  const ended = await undo(site, added);
  expect(site.people.get(id)).toBeUndefined();
  expect(site.people.rows().find((one) => one.id === id)).toMatchObject({ role: 'editor' });
  // Taken back as well: they may come in again.
  await apply(site, proposeMember(site, id, { ended: false }));
  expect(site.people.get(id)).toMatchObject({ role: 'editor' });
  expect(ended).toBeGreaterThan(added);
});

test('what somebody looks after is handed on in one change, drafts of nobody else too, and undone', async () => {
  const site = await openSite(await smallSite());
  const [ottilie, ben] = site.people.all();
  const ids = ['img/b.png', 'img/c.png'].map((path) => site.items.atPath(path)!.id);
  await apply(site, await proposeRecords(site, [ids[0]!], { owner: 'Ben' }));
  await apply(site, await proposeRecords(site, [ids[1]!], { owner: 'Ottilie' }));
  const proposal = await proposeHandOn(site, ben!.id, ottilie!.id);
  expect([proposal.plan.title, proposal.plan.records.map((step) => step.itemId)]).toEqual([
    'Hand on what Ben had to Ottilie',
    [ids[0]],
  ]);
  const entry = await apply(site, proposal);
  expect(site.items.some(ids).map((one) => one.owner)).toEqual(['Ottilie', 'Ottilie']);
  await undo(site, entry);
  expect(site.items.some(ids).map((one) => one.owner)).toEqual(['Ben', 'Ottilie']);
  // Somebody with nothing leaves nothing; nobody hands on to themselves or to who isn't there.
  await apply(site, await proposeHandOn(site, ben!.id, ottilie!.id));
  expect((await proposeHandOn(site, ben!.id, ottilie!.id)).plan).toMatchObject({ records: [], settings: [] });
  await expect(proposeHandOn(site, ben!.id, ben!.id)).rejects.toThrow('no such person');
  await expect(proposeHandOn(site, 99, ben!.id)).rejects.toThrow('no such person');
  await expect(proposeHandOn(site, ben!.id, 99)).rejects.toThrow('Nobody of that name');
});
