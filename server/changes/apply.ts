import type { SitePath } from '../../core/address/path.ts';
import { mapOf } from '../../core/paced.ts';
import { isOfFile, readContent } from '../../core/plan/draft-content.ts';
import type { Plan, SettingNamespace } from '../../core/plan/plan.ts';
import { Fault } from '../fault.ts';
import { breathe } from '../workers/breathe.ts';
import { collectBlob } from '../files/collect-blob.ts';
import type { Site } from '../app/site.ts';
import type { EntryAbout } from '../db/ledger.ts';
import type { FileFacts } from '../../core/media/facts.ts';
import type { ApplyOptions } from './apply-options.ts';
import { followRedirects } from './addresses.ts';
import { needReach } from './reach.ts';
import { refuseTargets } from './targets.ts';
import { refuseIfRestsChanged } from './rests.ts';
import { LONG, stopped, type Proposal } from './proposal.ts';

/** What applying a plan needs of a site. */
export type Applying = Pick<
  Site,
  | 'folder'
  | 'data'
  | 'blobs'
  | 'planBytes'
  | 'index'
  | 'scanner'
  | 'ledger'
  | 'db'
  | 'items'
  | 'records'
  | 'itemNames'
  | 'references'
  | 'contents'
  | 'arrivals'
  | 'rows'
  | 'people'
  | 'pool'
  | 'jobs'
  | 'events'
  | 'now'
>;

/**
 * Applies a proposal: its new bytes go to the content store, then the ledger does the rest; then the site is read again.
 * @param about what is to be remembered with it
 */
export async function applyProposal(
  site: Applying,
  proposed: Proposal | Promise<Proposal>,
  personId: number,
  about: EntryAbout = {},
): Promise<number> {
  // What it adds to the plan on the way is kept as well.
  return site.planBytes.during(async () => {
    const proposal = await proposed;
    // Whose decision it is: where somebody approves it, theirs.
    const person = site.people.get(about.approvedBy ?? personId);
    if (person) needReach(site, person, proposal);
    const release = await site.planBytes.hold(proposal.plan);
    try {
      return await applyHeld(site, proposal, personId, about);
    } finally {
      await release();
    }
  });
}

async function applyHeld(
  site: Applying,
  proposal: Proposal,
  personId: number,
  about: EntryAbout,
): Promise<number> {
  const { plan } = proposal;
  await refuseTargets(site, plan);
  if (plan.files.length + plan.records.length <= LONG) return applyNow(site, proposal, personId, about);
  return site.jobs.run('apply', plan.title, async ({ progress, signal }) => {
    try {
      return await applyNow(site, proposal, personId, { ...about, progress, signal });
    } catch (error) {
      if (!signal.aborted) throw error;
      throw stopped();
    }
  });
}

/** Changes of records alone pass between scans; changes of files come one at a time, and each sees the site as it is. */
function applyNow(
  site: Applying,
  proposal: Proposal,
  personId: number,
  following: ApplyOptions,
): Promise<number> {
  const { plan } = proposal;
  const places = plan.records.some(
    ({ after }) => after.path !== undefined || after.state !== undefined || after.content !== undefined,
  );
  const sets = (namespace: SettingNamespace) =>
    plan.settings?.some((step) => step.namespace === namespace) ?? false;
  if (plan.files.length === 0 && !places && !sets('layout')) {
    const families = plan.records.some(({ after }) => after.family !== undefined);
    if (sets('person'))
      return site.ledger.apply(plan, personId, following).finally(() => site.events.emit('people'));
    if (sets('proposer'))
      return site.ledger.apply(plan, personId, following).finally(() => site.events.emit('submissions'));
    if (!families && !sets('folder-rule')) return site.ledger.apply(plan, personId, following);
    return site.scanner.alone(async () => {
      const id = await site.ledger.apply(plan, personId, following);
      if (families) await site.scanner.regroup();
      await site.itemNames.check();
      if (sets('folder-rule')) site.events.emit('rules');
      return id;
    });
  }
  return site.scanner.alone(async (scan) => {
    site.ledger.refuseWhileUnsettled();
    await scan();
    await refuseIfRestsChanged(site, proposal);
    await followRedirects(site, proposal);
    return applyAlone(site, proposal, personId, following, scan);
  });
}

/** New bytes of drafts go to the content store: no file of the site has them. @throws Fault where they aren't kept any more */
async function keepContents(site: Applying, plan: Plan): Promise<void> {
  for (const { after } of plan.records) {
    if (after.content === undefined || isOfFile({ after })) continue;
    const { sha256 } = readContent(after.content);
    const at = site.planBytes.at(sha256);
    if (at) await site.blobs.put('bytes' in at ? at.bytes : { file: at.file, sha256 });
    else if (!site.blobs.has(sha256))
      throw new Fault('not-found', 'What the draft was before isn’t kept any more.', 'Nothing was changed.');
  }
}

/** Records of copies that are made between two breaths of the server's thread. */
const COPIED_AT_ONCE = 100;

async function applyAlone(
  site: Applying,
  { plan, readings, copies = [], keeps = [], ends = [] }: Proposal,
  personId: number,
  following: ApplyOptions,
  scan: (after?: Promise<unknown>) => Promise<unknown>,
): Promise<number> {
  for (const one of keeps) await site.blobs.put(one);
  await keepContents(site, plan);
  const originals = copies.flatMap(({ of }) => of ?? []);
  for (const of of originals)
    await site.blobs.put({ file: await site.folder.locate(of.path), sha256: of.sha256 });
  // In slices: what a crash leaves of them is collected at the next start, as nothing has touched it.
  const made: { path: SitePath; id: number; set: { edit?: string; title?: string } }[] = [];
  for (let at = 0; at < copies.length; at += COPIED_AT_ONCE) {
    site.db.write(() => {
      for (const { path, of, ...set } of copies.slice(at, at + COPIED_AT_ONCE)) {
        const id = of
          ? site.records.addCopy(of.id, path, personId, site.now())
          : site.records.addAbsent(path, personId, site.now());
        made.push({ path, id, set });
      }
    });
    await breathe();
  }
  const records = made.map(({ path, id, set: { edit = '', title = '' } }) => ({
    itemId: id,
    rowVersion: 1,
    before: {
      state: 'absent' as const,
      path,
      ...(edit ? { edit: '' } : {}),
      ...(title ? { title: '' } : {}),
    },
    after: { state: 'here' as const, path, ...(edit ? { edit } : {}), ...(title ? { title } : {}) },
  }));
  const wrote = new Map<SitePath, { bytes: number; mtimeMs: number }>();
  let scanned: Promise<unknown> | undefined;
  const applied = site.ledger.apply(
    made.length > 0 ? { ...plan, records: [...plan.records, ...records] } : plan,
    personId,
    {
      ...following,
      wrote: (path, facts) => wrote.set(path, facts),
      // While the records are changed here, the workers look at the site as it now is; it is stored when both are done.
      switched: async () => {
        await site.scanner.applyMoves(plan.files, await pagesWritten(site, plan, wrote, readings));
        if (plan.files.every((step) => step.do !== 'create')) scanned = scan(applied);
      },
    },
  );
  let id: number;
  try {
    id = await applied;
  } catch (error) {
    if (site.ledger.unsettled.length === 0) await site.records.removeAbsent(made.map((one) => one.id));
    // Files may have been put in place and taken back.
    await scanned;
    await scan();
    throw error;
  }
  await scanned;
  await site.itemNames.check();
  const layoutChanges = plan.settings?.some((step) => step.namespace === 'layout');
  // Every address may lead elsewhere now, and other files are pages and items.
  if (layoutChanges) site.index.disconnect();
  if (layoutChanges || (plan.files.length > 0 && !scanned)) await scan();
  if (plan.files.length === 0) await site.scanner.refreshUse();
  for (const of of originals) await collectBlob(site, of.sha256);
  for (const { sha256 } of keeps) await collectBlob(site, sha256);
  for (const arrival of ends) {
    const row = site.arrivals.get(arrival);
    site.arrivals.remove(arrival);
    for (const sha256 of [row?.sha256, row?.ready?.sha256]) if (sha256) await collectBlob(site, sha256);
  }
  if (ends.length > 0) site.events.emit('arrivals');
  if (plan.settings?.some((step) => step.namespace === 'folder-rule')) site.events.emit('rules');
  return id;
}

/** What is known of the pages that were just written, where it is known what they say: as a scan would find them. */
function pagesWritten(
  site: Pick<Site, 'index'>,
  plan: Plan,
  wrote: ReadonlyMap<SitePath, { bytes: number; mtimeMs: number }>,
  readings: Proposal['readings'],
): Promise<Map<SitePath, FileFacts>> {
  return mapOf(plan.files, breathe, (step) => {
    if (step.do !== 'write' || step.after === null) return undefined;
    const [before, facts, reading] = [
      site.index.factsOf(step.path),
      wrote.get(step.path),
      readings?.get(step.path),
    ];
    // A drawing is an item too, whose size may have changed.
    return before && facts && reading && !before.item
      ? [step.path, { ...before, ...facts, sha256: step.after, reading }]
      : undefined;
  });
}
