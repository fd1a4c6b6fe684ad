import { relative, sep } from 'node:path';
import { isWithin, type SitePath } from '../../core/address/path.ts';
import { targetFault } from '../../core/address/target.ts';
import type { Clash, FileStep, Plan } from '../../core/plan/plan.ts';
import { Fault } from '../fault.ts';
import type { Site } from '../app/site.ts';
import { breathe } from '../workers/breathe.ts';

/** Where a step puts something that was not there, and where it comes from; undefined: nowhere. */
function targetOf(step: FileStep): { to: SitePath; from: SitePath } | undefined {
  if (step.do === 'move') return { to: step.to, from: step.from };
  if (step.do === 'create' || step.do === 'make-folder') return { to: step.path, from: '' };
  return step.do === 'write' && step.before === null ? { to: step.path, from: '' } : undefined;
}

/** Every path that a plan would write to and may not, with the reason. */
export async function targetClashes(
  site: Pick<Site, 'folder' | 'data' | 'index' | 'items'>,
  plan: Plan,
): Promise<Clash[]> {
  const own = relative(site.folder.root, site.data.root).split(sep).join('/');
  const { roots } = site.index.map;
  const isPublic = (path: SitePath) => roots.some((root) => isWithin(root, path));
  const clashes = new Map<SitePath, string>();
  for (const step of plan.files) {
    await breathe();
    const target = targetOf(step);
    if (!target) continue;
    const { to, from } = target;
    // What goes back to where it was has been there.
    const goesBack = plan.kind === 'undo' || plan.kind === 'restore';
    const why =
      (goesBack ? undefined : targetFault(to, new Set(from.split('/')))) ??
      (isWithin(own, to) ? 'Iconomos keeps its data in this folder.' : undefined) ??
      (from !== '' && isPublic(from) && !isPublic(to) && site.items.atPath(from)?.use === 'placed'
        ? 'It is in use, and visitors couldn’t load it there, outside the public folders.'
        : undefined);
    if (why !== undefined && !clashes.has(to)) clashes.set(to, why);
  }
  return Array.from(clashes, ([path, why]) => ({ path, why }));
}

/** @throws Fault 'clash' when a plan would write where nothing may be written */
export async function refuseTargets(
  site: Pick<Site, 'folder' | 'data' | 'index' | 'items'>,
  plan: Plan,
): Promise<void> {
  const clashes = await targetClashes(site, plan);
  if (clashes.length > 0)
    throw new Fault(
      'clash',
      `“${clashes[0]!.path}”: ${clashes[0]!.why}`,
      'Choose another folder or name.',
      clashes,
    );
}
