import { randomUUID } from 'node:crypto';
import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { folderOf, type SitePath } from '../../core/address/path.ts';
import { each } from '../../core/paced.ts';
import type { KindName, RequestOf } from '../../core/plan/kinds/index.ts';
import type { ItemState, Plan } from '../../core/plan/plan.ts';
import type { PageReading } from '../../core/reference/model.ts';
import { Fault } from '../fault.ts';
import { breathe } from '../workers/breathe.ts';
import type { Site } from '../app/site.ts';
import type { Item } from '../db/item-rows.ts';
import type { PlanBytes } from './plan-bytes.ts';

/** Tells how far a computation is; throws when it has been stopped. */
export interface Progress {
  (done: number, total: number, what: string): void;
  signal: AbortSignal;
}

/** Runs a computation as work that is shown and can be stopped. @throws Fault 'cancelled' */
export function runAsJob<Result>(
  site: Pick<Site, 'jobs'>,
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

export const stopped = () =>
  new Fault('cancelled', 'Stopped. Nothing was changed.', 'Start again when you want to.');

/**
 * What a plan rests on beside its own files: where the files whose address it changes or takes are placed and mentioned, and the files that
 * it places, as a short text for each path; where pages move along, which are linked from anywhere, every page as it was read. Compared
 * again when the plan is applied.
 */
export interface Rests {
  uses: ReadonlyMap<SitePath, string>;
  /** Hash of each page; undefined: no page moves. */
  pages: ReadonlyMap<SitePath, string> | undefined;
}

/** A computed plan. The new bytes that it writes are kept in PlanBytes. */
export interface Proposal {
  /** What was asked for; it is of the person who asked. */
  kind?: KindName;
  request?: RequestOf<KindName>;
  /** Somebody else has proposed it: then it is theirs, and who applies it approves it. */
  submission?: number;
  plan: Plan;
  /** What pages that it writes will say, by path, where that is known: they need not be read again. */
  readings?: Map<SitePath, PageReading>;
  /**
   * Items that the plan makes: copies of others, with their records, or (`of` null) ones of their own. They get their rows when it is applied.
   */
  copies?: { path: SitePath; of: Item | null; edit?: string; title?: string }[];
  /** Files whose bytes are kept for as long as a record names them. */
  keeps?: { file: string; sha256: string }[];
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

/** So many plans are at hand at most. */
const MOST_KEPT = 50;
/** A plan with more steps is shown as running work, and can be stopped. */
export const LONG = 250;

/** Items of the site by their ids, in that order. @throws Fault when one of them is not there */
export async function needAllHere(site: Pick<Site, 'items'>, ids: readonly number[]): Promise<Item[]> {
  const items = await site.items.many(ids);
  if (items.length !== ids.length) await each(ids, breathe, (id) => site.items.need(id));
  await each(items, breathe, checkHere);
  return items;
}

/** The same, of the site as it is at this moment. */
export async function itemsNow(
  site: Pick<Site, 'scanner' | 'items'>,
  ids: readonly number[],
): Promise<Item[]> {
  await site.scanner.scan();
  return needAllHere(site, ids);
}

export function needHere(site: Pick<Site, 'items'>, id: number): Item {
  return checkHere(site.items.need(id));
}

const NOT_HERE = {
  here: '',
  draft: 'It is a draft. Publish it first.',
  aside: 'Restore it first.',
  absent: 'Its file is missing.',
} satisfies Record<ItemState, string>;

function checkHere(item: Item): Item {
  if (item.state !== 'here') {
    throw new Fault('bad-request', `“${item.name}” is not on the site.`, NOT_HERE[item.state]);
  }
  return item;
}

export async function newFolders(site: Pick<Site, 'folder'>, plan: Plan): Promise<SitePath[]> {
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
export async function currentHash(
  site: Pick<Site, 'folder' | 'index' | 'pool'>,
  path: SitePath,
): Promise<string | null> {
  const facts = await site.folder.facts(path);
  if (!facts) return null;
  const known = site.index.factsOf(path);
  if (known && known.sha256 !== '' && known.bytes === facts.bytes && known.mtimeMs === facts.mtimeMs)
    return known.sha256;
  return site.pool.run('hash', { file: await site.folder.locate(path) }, { limit: 600_000 });
}

/** Plans that were shown and may be applied, by id. They live in memory: after a restart a plan is computed anew. */
export class Proposals {
  private readonly kept = new Map<
    string,
    { proposal: Proposal; personId: number; release: () => Promise<void> }
  >();

  constructor(private readonly planBytes: PlanBytes) {
    planBytes.makeRoom = () => this.dropOldest();
  }

  /** Computes a plan and keeps it. @param personId who has asked for it, and may apply it */
  compute(personId: number, compute: () => Promise<Proposal>): Promise<{ id: string; proposal: Proposal }> {
    return this.planBytes.during(async () => {
      const proposal = await compute();
      const id = randomUUID();
      this.kept.set(id, { proposal, personId, release: await this.planBytes.hold(proposal.plan) });
      if (this.kept.size > MOST_KEPT) await this.dropOldest();
      return { id, proposal };
    });
  }

  /** A plan as it is at hand, to be looked at. */
  at(id: string): Proposal | undefined {
    return this.kept.get(id)?.proposal;
  }

  /** Takes a plan out, and applies it once. @throws Fault 'not-found', also for a plan of somebody else */
  async use<Result>(
    id: string,
    personId: number,
    apply: (proposal: Proposal) => Promise<Result>,
  ): Promise<Result> {
    const one = this.kept.get(id);
    if (one?.personId !== personId)
      throw new Fault('not-found', 'These changes are no longer available.', 'Start again.');
    this.kept.delete(id);
    try {
      return await apply(one.proposal);
    } finally {
      await one.release();
    }
  }

  private async dropOldest(): Promise<boolean> {
    const [oldest] = this.kept;
    if (!oldest) return false;
    this.kept.delete(oldest[0]);
    await oldest[1].release();
    return true;
  }
}
