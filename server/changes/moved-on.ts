import { join } from 'node:path';
import { folderOf, joinPath, type SitePath } from '../../core/address/path.ts';
import { map, setOf } from '../../core/paced.ts';
import { placesBefore } from '../../core/plan/inverse.ts';
import type { Plan } from '../../core/plan/plan.ts';
import { Fault } from '../fault.ts';
import type { SiteFolder } from '../files/site-folder.ts';
import type { ActFacts } from '../files/file-writer.ts';
import type { Doing } from './switching.ts';
import { breathe } from '../workers/breathe.ts';
import { inLanes } from '../workers/lanes.ts';

export interface Comparing {
  folder: SiteFolder;
  /** What the last scan found of a file. */
  known: (path: SitePath) => { bytes: number; mtimeMs: number; sha256: string } | undefined;
  /** SHA-256 of a file, off this thread. */
  hash: (file: string) => Promise<string>;
  /** Size, time and mark of files. */
  facts: (acts: readonly Doing[]) => Promise<ActFacts[]>;
  signal?: AbortSignal | undefined;
}

/**
 * Compares every file of a plan with what it was computed from.
 * @returns what stands there now, by path as it is before the plan
 * @throws Fault 'moved-on' that names what differs, 'clash' when something stands at an address that the plan gives away
 */
export async function compareFiles(
  plan: Plan,
  { folder, known, hash, facts, signal }: Comparing,
): Promise<Map<SitePath, NonNullable<ActFacts>>> {
  const moved: SitePath[] = [];
  const standsAt = await placesBefore(plan.files, breathe);
  const leaving = await setOf(plan.files, breathe, (step) =>
    step.do === 'remove' ? step.path : step.do === 'move' ? step.from : undefined,
  );
  const clashes = folder.clashFinder();
  // What comes back was there before, beside a twin of another case if there is one: only the very name stands in its way.
  const returns = plan.kind === 'undo' || plan.kind === 'restore';
  const expected: { path: SitePath; now: SitePath; sha256: string | null }[] = [];
  for (const step of plan.files) {
    signal?.throwIfAborted();
    await breathe();
    if (step.do === 'make-folder' || step.do === 'drop-folder') {
      if ((await folder.stateOf(step.path)) !== (step.do === 'drop-folder' ? 'empty' : 'none'))
        moved.push(step.path);
      continue;
    }
    const path = step.do === 'move' ? step.from : step.path;
    const now = step.do === 'write' ? (standsAt.get(path) ?? path) : path;
    const sha256 = step.do === 'write' ? step.before : step.do === 'create' ? null : step.sha256;
    expected.push({ path, now, sha256 });
    const target = step.do === 'move' ? step.to : step.do === 'create' ? step.path : undefined;
    if (target === undefined) continue;
    const inTheWay = (await clashes(target)).filter(
      (name) =>
        !leaving.has(join(folderOf(target), name)) &&
        (!returns || joinPath(folderOf(target), name) === target),
    );
    if (inTheWay.length > 0) {
      throw new Fault(
        'clash',
        `There is a file “${inTheWay[0]}” in “${folderOf(target) || 'the site’s root'}” already.`,
        'Choose another name.',
      );
    }
  }
  const found = await facts(
    await map(expected, breathe, ({ now }) => ({ name: '', act: { do: 'facts', path: now } })),
  );
  const stand = new Map<SitePath, NonNullable<ActFacts>>();
  const toHash: (typeof expected)[number][] = [];
  for (const [at, one] of expected.entries()) {
    await breathe();
    const facts = found[at]!;
    if (facts) stand.set(one.now, facts);
    const before = known(one.now);
    if (one.sha256 === null || !facts) {
      if ((one.sha256 === null) !== (facts === null)) moved.push(one.path);
    } else if (
      before &&
      before.sha256 !== '' &&
      before.bytes === facts.bytes &&
      before.mtimeMs === facts.mtimeMs
    ) {
      // As the last scan found it: its size and time are still the same.
      if (before.sha256 !== one.sha256) moved.push(one.path);
    } else toHash.push(one);
  }
  await inLanes(toHash, async ({ path, now, sha256 }) => {
    signal?.throwIfAborted();
    if ((await hash(await folder.locate(now))) !== sha256) moved.push(path);
  });
  if (moved.length > 0) throw movedOn(moved);
  return stand;
}

export function movedOn(paths: readonly SitePath[]): Fault {
  const first = paths.slice(0, 3).map((path) => `“${path}”`);
  return new Fault(
    'moved-on',
    `The site has changed in the meantime: ${first.join(', ')}${paths.length > 3 ? ` and ${paths.length - 3} more` : ''}.`,
    'Review the changes again.',
    paths,
  );
}
