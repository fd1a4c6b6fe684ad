import type { SitePath } from '../../core/address/path.ts';
import { each, filter, flatMap, mapOf, setOf } from '../../core/paced.ts';
import type { Plan } from '../../core/plan/plan.ts';
import { Fault } from '../fault.ts';
import type { Site } from '../app/site.ts';
import { breathe } from '../workers/breathe.ts';
import { pagesLeadingTo } from './addresses.ts';
import { movedOn } from './moved-on.ts';
import type { Proposal, Rests } from './proposal.ts';

/** So often a plan is computed anew when the site changes meanwhile. */
const TRIES = 3;
/** So many files are asked about between two breaths of the server's thread. */
const SLICE = 100;

/**
 * Computes a proposal, and notes what it rests on, as the site is at that moment.
 * @throws Fault 'busy' when the site changes again and again meanwhile
 */
export async function resting(
  site: Pick<Site, 'index' | 'scanner' | 'references'>,
  compute: () => Promise<Proposal>,
): Promise<Proposal> {
  for (let tries = 0; tries < TRIES; tries++) {
    // What has changed until now is seen by all parts of the computation.
    await site.scanner.scan();
    const { epoch } = site.index;
    const proposal = await compute();
    proposal.rests = await restsOf(site, proposal);
    // Something came in between: its parts may not fit each other.
    if (site.index.epoch === epoch || (proposal.rests.uses.size === 0 && !proposal.rests.pages))
      return proposal;
  }
  throw new Fault(
    'busy',
    'The site keeps changing.',
    'Wait until the other program has finished, then try again.',
  );
}

/** @throws Fault 'moved-on' that names what differs */
export async function refuseIfRestsChanged(
  site: Pick<Site, 'folder' | 'index' | 'references' | 'pool'>,
  proposal: Proposal,
): Promise<void> {
  const { rests, plan } = proposal;
  if (!rests) return;
  const now = await restsOf(site, proposal);
  const changed = await filter(rests.uses, breathe, ([path, text]) => now.uses.get(path) !== text);
  if (changed.length > 0) throw movedOn(changed.map(([path]) => path));
  if (!rests.pages) return;
  // Another page stands in the way only when it leads to something that moves. What the plan writes itself is compared with it.
  const written = await setOf(plan.files, breathe, (step) => (step.do === 'write' ? step.path : undefined));
  const others = await filter(
    now.pages!,
    breathe,
    ([path, sha256]) => rests.pages!.get(path) !== sha256 && !written.has(path),
  );
  const moving = await setOf(plan.files, breathe, (step) => (step.do === 'move' ? step.from : undefined));
  const leading = await pagesLeadingTo(
    site,
    moving,
    others.map(([path]) => path),
  );
  if (leading.size > 0) throw movedOn([...leading]);
}

async function restsOf(
  site: Pick<Site, 'index' | 'references'>,
  { plan, reads = [] }: Proposal,
): Promise<Rests> {
  const uses = new Map<SitePath, string>();
  const leaving = await leavingPaths(plan);
  for (let at = 0; at < leaving.length; at += SLICE) {
    await breathe();
    for (const [path, text] of site.references.usesOf(leaving.slice(at, at + SLICE))) uses.set(path, text);
  }
  await each(reads, breathe, (path) => uses.set(path, site.index.factsOf(path)?.sha256 ?? 'not there'));
  let movesPages = false;
  await each(plan.files, breathe, (step) => {
    movesPages ||= step.do === 'move' && site.index.factsOf(step.from)?.reading !== undefined;
  });
  if (!movesPages) return { uses, pages: undefined };
  const pages = await mapOf(site.index.paths, breathe, (path) => {
    const facts = site.index.factsOf(path);
    return facts?.reading ? [path, facts.sha256] : undefined;
  });
  return { uses, pages };
}

/** Files that get another address, or none. */
function leavingPaths(plan: Plan): Promise<SitePath[]> {
  return flatMap(plan.files, breathe, (step) =>
    step.do === 'move'
      ? [step.from]
      : step.do === 'remove' || (step.do === 'write' && step.after === null)
        ? [step.path]
        : [],
  );
}
