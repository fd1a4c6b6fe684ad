import { createHash } from 'node:crypto';
import type { SitePath } from '../../core/address/path.ts';
import type { Plan } from '../../core/plan/plan.ts';
import { Fault } from '../fault.ts';
import type { Site } from '../site/site.ts';
import { movedOn } from './moved-on.ts';
import type { Proposal } from './proposal.ts';

/**
 * What a plan rests on beside its own files: where the files whose address it changes or takes are placed and mentioned, the
 * files that it places, and, where pages move along, every page. A short text for each path; compared again when it is applied.
 */
export type Rests = ReadonlyMap<SitePath, string>;

/** Stands for all pages of the site. */
const ALL_PAGES = '';

/** So often a plan is computed anew when the site changes meanwhile. */
const TRIES = 3;

/**
 * Computes a proposal, and notes what it rests on, as the site is at that moment.
 * @throws Fault 'busy' when the site changes again and again meanwhile
 */
export async function resting(site: Site, compute: () => Promise<Proposal>): Promise<Proposal> {
  for (let tries = 0; tries < TRIES; tries++) {
    // What has changed until now is seen by all parts of the computation.
    await site.scan();
    const { epoch } = site;
    const proposal = await compute();
    proposal.rests = restsOf(site, proposal);
    // Something came in between: its parts may not fit each other.
    if (site.epoch === epoch || proposal.rests.size === 0) return proposal;
  }
  throw new Fault(
    'busy',
    'The site keeps changing while this plan is computed.',
    'Wait until the other program has finished, then try again.',
  );
}

/** @throws Fault 'moved-on' that names what differs */
export function refuseIfRestsChanged(site: Site, proposal: Proposal): void {
  const { rests } = proposal;
  if (!rests) return;
  const now = restsOf(site, proposal);
  const changed = [...rests].filter(([path, text]) => now.get(path) !== text).map(([path]) => path);
  if (changed.length > 0) throw movedOn(changed.map((path) => (path === ALL_PAGES ? 'a page' : path)));
}

function restsOf(site: Site, { plan, reads = [] }: Proposal): Map<SitePath, string> {
  const leaving = leavingPaths(plan);
  const rests = site.references.usesOf(leaving);
  for (const path of reads) rests.set(path, site.factsOf(path)?.sha256 ?? 'not there');
  // Pages that move are linked from anywhere.
  if (plan.files.some((step) => step.do === 'move' && site.factsOf(step.from)?.reading)) {
    const hash = createHash('sha256');
    for (const path of site.paths) {
      const facts = site.factsOf(path)!;
      if (facts.reading) hash.update(`${path}\n${facts.sha256}\n`);
    }
    rests.set(ALL_PAGES, hash.digest('hex'));
  }
  return rests;
}

/** Files that get another address, or none. */
function leavingPaths(plan: Plan): SitePath[] {
  return plan.files.flatMap((step) =>
    step.do === 'move'
      ? [step.from]
      : step.do === 'remove' || (step.do === 'write' && step.after === null)
        ? [step.path]
        : [],
  );
}
