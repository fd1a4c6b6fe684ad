import { createHash, randomUUID } from 'node:crypto';
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { folderOf, type SitePath } from '../../core/address/path.ts';
import { each, mapOf } from '../../core/paced.ts';
import type { Plan, SettingRoom } from '../../core/plan/plan.ts';
import type { PageReading } from '../../core/reference/model.ts';
import { Fault } from '../fault.ts';
import { breathe } from '../work/breathe.ts';
import { dropIdle } from '../site/idle.ts';
import type { Site } from '../site/site.ts';
import { type FileFacts } from '../site/survey.ts';
import type { Item } from '../store/item-rows.ts';
import type { Following } from './ledger.ts';
import { followRedirects } from './addresses.ts';
import { refuseTargets } from './targets.ts';
import { refuseIfRestsChanged, type Rests } from './rests.ts';

/** Tells how far a computation is; throws when it has been stopped. */
export interface Progress {
  (done: number, total: number, what: string): void;
  signal: AbortSignal;
}

/** Runs a computation as work that is shown and can be stopped. @throws Fault 'cancelled' */
export function computed<Result>(
  site: Site,
  title: string,
  work: (progress: Progress) => Promise<Result>,
): Promise<Result> {
  return site.jobs.run('plan', title, async ({ progress, signal }) => {
    const tell = (done: number, total: number, what: string) => {
      signal.throwIfAborted();
      progress(done, total, what);
    };
    try {
      const result = await work(Object.assign(tell, { signal }));
      signal.throwIfAborted();
      return result;
    } catch (error) {
      throw signal.aborted ? stopped() : error;
    }
  });
}

const stopped = () =>
  new Fault('cancelled', 'It was stopped: nothing was changed.', 'Plan it again when you want it.');

/** A computed plan with the new bytes that it would write, by hash. */
export interface Proposal {
  plan: Plan;
  contents: Map<string, Uint8Array>;
  /** What pages that it writes will say, by path, where that is known: they need not be read again. */
  readings?: Map<SitePath, PageReading>;
  /** Items that the plan makes: copies of others, with their records. They get their rows when it is applied. */
  copies?: { path: SitePath; of: Item }[];
  /** Files at the door that it brings in: they leave the list when it is applied. */
  ends?: number[];
  /** What it was computed from beside its own files (see rests.ts). */
  rests?: Rests;
  /** Other files that it was computed from, and that must be as they were: what it places on pages. */
  reads?: SitePath[];
  /** Which addresses its redirects lead on from: where other plans have added theirs meanwhile, these are added to them. */
  redirected?: ReadonlyMap<SitePath, SitePath>;
  /** Redirects that it takes out again, in so far as they still stand. */
  unredirected?: Plan['redirects'];
}

/** A plan with more steps is shown as running work, and can be stopped. */
export const LONG = 250;

/**
 * Applies a proposal: its new bytes go to the content store, then the ledger does the rest; then the site is read again.
 * @param note what the person wants to be remembered with it
 */
export async function applyProposal(
  site: Site,
  proposed: Proposal | Promise<Proposal>,
  personId: number,
  note = '',
): Promise<number> {
  const proposal = await proposed;
  const { plan } = proposal;
  await refuseTargets(site, plan);
  if (plan.files.length + plan.records.length <= LONG) return applyNow(site, proposal, personId, { note });
  return site.jobs.run('apply', plan.title, async ({ progress, signal }) => {
    try {
      return await applyNow(site, proposal, personId, { note, progress, signal });
    } catch (error) {
      if (!signal.aborted) throw error;
      throw stopped();
    }
  });
}

/** Changes of records alone pass between scans; changes of files come one at a time, and each sees the site as it is. */
function applyNow(site: Site, proposal: Proposal, personId: number, following: Following): Promise<number> {
  const { plan } = proposal;
  const places = plan.records.some(({ after }) => after.path !== undefined || after.state !== undefined);
  const sets = (room: SettingRoom) => plan.settings?.some((step) => step.room === room) ?? false;
  if (plan.files.length === 0 && !places && !sets('layout')) {
    const families = plan.records.some(({ after }) => after.family !== undefined);
    if (!families && !sets('folder-rule')) return site.ledger.apply(plan, personId, following);
    return site.alone(async () => {
      const id = await site.ledger.apply(plan, personId, following);
      if (families) await site.regroup();
      await site.items.checkNames();
      return id;
    });
  }
  return site.alone(async (scan) => {
    site.ledger.refuseWhileUnsettled();
    await scan();
    await refuseIfRestsChanged(site, proposal);
    await followRedirects(site, proposal);
    return applyAlone(site, proposal, personId, following, scan);
  });
}

/** Records of copies that are made between two breaths of the server's thread. */
const COPIED_AT_ONCE = 100;

async function applyAlone(
  site: Site,
  { plan, contents, readings, copies = [], ends = [] }: Proposal,
  personId: number,
  following: Following,
  scan: (after?: Promise<unknown>) => Promise<unknown>,
): Promise<number> {
  for (const { of } of copies) await site.blobs.putCopy(await site.folder.locate(of.path), of.sha256);
  // In slices: what a crash leaves of them is collected at the next start, as nothing has touched it.
  const made: { path: SitePath; id: number }[] = [];
  for (let at = 0; at < copies.length; at += COPIED_AT_ONCE) {
    site.db.transaction(() => {
      for (const { path, of } of copies.slice(at, at + COPIED_AT_ONCE))
        made.push({ path, id: site.items.addCopy(of.id, path, personId, site.now()) });
    })();
    await breathe();
  }
  const records = made.map(({ path, id }) => ({
    itemId: id,
    rowVersion: 1,
    before: { state: 'absent' as const, path },
    after: { state: 'here' as const, path },
  }));
  const wrote = new Map<SitePath, { bytes: number; mtimeMs: number }>();
  let scanned: Promise<unknown> | undefined;
  const applied = site.ledger.apply(
    made.length > 0 ? { ...plan, records: [...plan.records, ...records] } : plan,
    personId,
    {
      ...following,
      contents,
      wrote: (path, facts) => wrote.set(path, facts),
      // While the records are changed here, the workers look at the site as it now is; it is stored when both are done.
      switched: async () => {
        await site.follow(plan.files, await pagesWritten(site, plan, wrote, readings));
        if (plan.files.every((step) => step.do !== 'create')) scanned = scan(applied);
      },
    },
  );
  let id: number;
  try {
    id = await applied;
  } catch (error) {
    if (site.ledger.unsettled.length === 0) await site.items.removeAbsent(made.map((one) => one.id));
    // Files may have been put in place and taken back.
    await scanned;
    await scan();
    throw error;
  }
  await scanned;
  await site.items.checkNames();
  const relaid = plan.settings?.some((step) => step.room === 'layout');
  // Every address may lead elsewhere now, and other files are pages and items.
  if (relaid) site.disconnect();
  if (relaid || (plan.files.length > 0 && !scanned)) await scan();
  if (plan.files.length === 0) await site.refreshUse();
  for (const { of } of copies) await dropIdle(site, of.sha256);
  for (const arrival of ends) {
    const row = site.arrivals.get(arrival);
    site.arrivals.remove(arrival);
    for (const sha256 of [row?.sha256, row?.ready?.sha256]) if (sha256) await dropIdle(site, sha256);
  }
  if (ends.length > 0) site.checking.changed();
  return id;
}

/** What is known of the pages that were just written, where it is known what they say: as a scan would find them. */
function pagesWritten(
  site: Site,
  plan: Plan,
  wrote: ReadonlyMap<SitePath, { bytes: number; mtimeMs: number }>,
  readings: Proposal['readings'],
): Promise<Map<SitePath, FileFacts>> {
  return mapOf(plan.files, breathe, (step) => {
    if (step.do !== 'write' || step.after === null) return undefined;
    const [before, facts, reading] = [
      site.factsOf(step.path),
      wrote.get(step.path),
      readings?.get(step.path),
    ];
    // A drawing is an item too, whose size may have changed.
    return before && facts && reading && !before.item
      ? [step.path, { ...before, ...facts, sha256: step.after, reading }]
      : undefined;
  });
}

/** Items of the site by their ids, in that order. @throws Fault when one of them is not there */
export async function needAllHere(site: Site, ids: readonly number[]): Promise<Item[]> {
  const items = await site.items.many(ids);
  if (items.length !== ids.length) await each(ids, breathe, (id) => site.items.need(id));
  await each(items, breathe, checkHere);
  return items;
}

/** The same, of the site as it is at this moment. */
export async function itemsNow(site: Site, ids: readonly number[]): Promise<Item[]> {
  await site.scan();
  return needAllHere(site, ids);
}

export function needHere(site: Site, id: number): Item {
  return checkHere(site.items.need(id));
}

function checkHere(item: Item): Item {
  if (item.state !== 'here') {
    throw new Fault(
      'bad-request',
      `“${item.name}” is not on the site.`,
      item.state === 'aside' ? 'Restore it first.' : 'Its file was taken away.',
    );
  }
  return item;
}

export async function newFolders(site: Site, plan: Plan): Promise<SitePath[]> {
  const made = new Set<SitePath>();
  const there = new Set<SitePath>();
  await each(plan.files, breathe, (step) => {
    if (step.do === 'drop-folder') return;
    for (
      let folder = step.do === 'make-folder' ? step.path : folderOf(step.do === 'move' ? step.to : step.path);
      folder !== '';
      folder = folderOf(folder)
    ) {
      if (made.has(folder) || there.has(folder)) break;
      (existsSync(join(site.folder.root, folder)) ? there : made).add(folder);
    }
  });
  return [...made].sort((a, b) => a.length - b.length);
}

/** Hash of a file as it is; as the last scan found it when its size and time are still the same. Null: it is not there. */
export async function currentHash(site: Site, path: SitePath): Promise<string | null> {
  const facts = await site.folder.facts(path);
  if (!facts) return null;
  const known = site.factsOf(path);
  if (known && known.sha256 !== '' && known.bytes === facts.bytes && known.mtimeMs === facts.mtimeMs)
    return known.sha256;
  return site.pool.run('hash', { file: await site.folder.locate(path) }, { limit: 600_000 });
}

export function keep(proposal: Proposal, bytes: Uint8Array, sha256 = sha256Of(bytes)): string {
  proposal.contents.set(sha256, bytes);
  return sha256;
}

export function sha256Of(bytes: Uint8Array): string {
  return createHash('sha256').update(bytes).digest('hex');
}

/** Plans that were shown and may be applied, by id. They live in memory: after a restart a plan is computed anew. */
export class Proposals {
  private readonly kept = new Map<string, Proposal>();

  keep(proposal: Proposal): string {
    const id = randomUUID();
    this.kept.set(id, proposal);
    if (this.kept.size > 50) this.kept.delete(this.kept.keys().next().value!);
    return id;
  }

  /** A plan as it is at hand, to be looked at. */
  at(id: string): Proposal | undefined {
    return this.kept.get(id);
  }

  /** Takes a plan out, to apply it once. @throws Fault 'not-found' */
  take(id: string): Proposal {
    const proposal = this.kept.get(id);
    if (!proposal)
      throw new Fault('not-found', 'This plan is no longer at hand.', 'Open it again; it is computed anew.');
    this.kept.delete(id);
    return proposal;
  }
}
