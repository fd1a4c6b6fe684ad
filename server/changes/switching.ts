import { clashKey, folderOf, type SitePath } from '../../core/address/path.ts';
import { placesBefore } from '../../core/plan/inverse.ts';
import type { FileStep, Plan } from '../../core/plan/plan.ts';
import { BACK_PREFIX, STAGE_PREFIX } from '../files/site-folder.ts';
import type { Act } from '../files/file-writer.ts';
import { each, flatMap, map, setOf } from '../../core/paced.ts';
import type { BytesAt } from './plan-bytes.ts';
import { breathe } from '../workers/breathe.ts';

/**
 * What an entry does to the disk, as acts: forward and back. Each may be done again after a crash; each looks at the file
 * that it is about and refuses one that is not as expected.
 */

/** What to do: an act on a file, or on a folder. */
export type Doing =
  { name: string; act: Act } | { name: string; make: SitePath } | { name: string; drop: SitePath };

/** Marks of files as they were compared with the plan, by path. */
export type Marks = ReadonlyMap<SitePath, string>;

/** Name of what the n-th step of an entry stages beside its place: on the same file system, so that the rename is atomic. */
export function stageName(id: number, index: number): string {
  return `${STAGE_PREFIX}${id}-${index}`;
}
function backName(id: number, index: number): string {
  return `${BACK_PREFIX}${id}-${index}`;
}

/** Folders that must be there before the steps can be staged: those of every target. */
export async function foldersNeeded({ files }: Plan): Promise<SitePath[]> {
  const made = await setOf(files, breathe, (step) => (step.do === 'make-folder' ? step.path : undefined));
  const folders = await setOf(files, breathe, (step) => {
    if (step.do === 'drop-folder') return undefined;
    const folder = folderOf(targetOf(step));
    // One that a step makes is that step's, unless files are to be made ready in it before.
    return folder === '' || (step.do === 'make-folder' && made.has(folder)) ? undefined : folder;
  });
  return [...folders];
}
function targetOf(step: FileStep): SitePath {
  return step.do === 'move' ? step.to : step.path;
}

/** Keeps what is replaced and writes what is new beside its place. */
export async function stagingActs(
  id: number,
  { files }: Plan,
  newBytes: (sha256: string) => BytesAt | undefined,
): Promise<Doing[]> {
  const standsAt = await placesBefore(files, breathe);
  return flatMap(files, breathe, (step, index): Doing[] => {
    const name = stageName(id, index);
    if (step.do === 'create')
      return [
        {
          name: `stage ${step.path}`,
          act: {
            do: 'stage',
            path: step.path,
            name,
            sha256: step.sha256,
            new: newBytes(step.sha256),
            mode: step.mode,
            owner: step.owner,
          },
        },
      ];
    if (step.do !== 'write') return [];
    const now = standsAt.get(step.path) ?? step.path;
    const { before, after } = step;
    return [
      ...(before === null
        ? []
        : [{ name: `keep ${step.path}`, act: { do: 'keep', path: now, sha256: before } as const }]),
      ...(after === null
        ? []
        : [
            {
              name: `stage ${step.path}`,
              act: {
                do: 'stage',
                path: step.path,
                name,
                sha256: after,
                new: newBytes(after),
                ...(before === null ? {} : { like: now }),
              } as const,
            },
          ]),
    ];
  });
}

/** Takes away what was staged. */
export function unstagingActs(id: number, { files }: Plan): Promise<Doing[]> {
  return flatMap(files, breathe, (step, index): Doing[] =>
    step.do === 'write' || step.do === 'create'
      ? [{ name: '', act: { do: 'unstage', path: step.path, name: stageName(id, index) } }]
      : [],
  );
}

/**
 * Moves that stand in each other's way (a to b, b to c; or a and b exchanged): they go aside first, all of them, before any
 * is put in place.
 * @returns the indexes of those steps
 */
export async function crowdedMoves({ files }: Plan): Promise<Set<number>> {
  const moves = await flatMap(files, breathe, (step, index) =>
    step.do === 'move' ? [{ index, from: clashKey(step.from), to: clashKey(step.to) }] : [],
  );
  const from = await setOf(moves, breathe, (step) => step.from);
  const to = await setOf(moves, breathe, (step) => step.to);
  return setOf(moves, breathe, (step) => (from.has(step.to) || to.has(step.from) ? step.index : undefined));
}

/** Moves those out of the way. */
export function clearingActs(
  id: number,
  { files }: Plan,
  crowded: ReadonlySet<number>,
  marks: Marks,
): Promise<Doing[]> {
  return flatMap(files, breathe, (step, index): Doing[] =>
    step.do === 'move' && crowded.has(index)
      ? [
          {
            name: `aside ${step.from}`,
            act: {
              do: 'aside',
              from: step.from,
              path: step.to,
              name: stageName(id, index),
              sha256: step.sha256,
              mark: marks.get(step.from),
            },
          },
        ]
      : [],
  );
}

/** Puts everything in place. */
export async function switchingActs(
  id: number,
  { files }: Plan,
  crowded: ReadonlySet<number>,
  marks: Marks,
): Promise<Doing[]> {
  const standsAt = await placesBefore(files, breathe);
  return map(files, breathe, (step, index): Doing => {
    const staged = stageName(id, index);
    const name = `switch ${index}`;
    switch (step.do) {
      case 'move':
        return crowded.has(index)
          ? {
              name,
              act: { do: 'place', path: step.to, name: staged, before: null, after: step.sha256 },
            }
          : {
              name,
              act: {
                do: 'move',
                from: step.from,
                to: step.to,
                sha256: step.sha256,
                mark: marks.get(step.from),
              },
            };
      case 'write': {
        const { path, before, after } = step;
        // A file that has moved just now has another mark; its bytes are looked at.
        const mark = standsAt.has(path) ? undefined : marks.get(path);
        return after === null
          ? { name, act: { do: 'delete', path, sha256: before!, mark } }
          : { name, act: { do: 'place', path, name: staged, before, after, mark } };
      }
      case 'create':
        return {
          name,
          act: { do: 'place', path: step.path, name: staged, before: null, after: step.sha256 },
        };
      case 'remove':
        return {
          name,
          act: { do: 'adopt', path: step.path, sha256: step.sha256, mark: marks.get(step.path) },
        };
      case 'make-folder':
        return { name, make: step.path };
      case 'drop-folder':
        return { name, drop: step.path };
    }
  });
}

/** Takes back what switchingActs and clearingActs do, whichever of it has been done: in the other direction. */
export async function backActs(id: number, { files }: Plan, crowded: ReadonlySet<number>): Promise<Doing[]> {
  const standsAt = await placesBefore(files, breathe);
  const acts: Doing[] = [];
  const returns: Doing[] = [];
  await each([...files].reverse(), breathe, (step, after) => {
    const index = files.length - 1 - after;
    const staged = stageName(id, index);
    const name = `back ${index}`;
    if (step.do === 'make-folder') acts.push({ name, drop: step.path });
    else if (step.do === 'drop-folder') acts.push({ name, make: step.path });
    else {
      const aside = crowded.has(index);
      const movedFrom = step.do === 'write' ? standsAt.get(step.path) : undefined;
      acts.push({
        name,
        act: { do: 'back', step, staged, back: backName(id, index), aside, movedFrom },
      });
      if (step.do === 'move' && aside)
        returns.push({ name, act: { do: 'return', path: step.to, name: staged, to: step.from } });
    }
  });
  return [...acts, ...returns];
}

/** Folders whose entries changed, to be synced. */
export async function touchedFolders({ files }: Plan): Promise<SitePath[]> {
  const folders = new Set<SitePath>();
  await each(files, breathe, (step) => {
    if (step.do === 'move') folders.add(folderOf(step.from)).add(folderOf(step.to));
    else folders.add(folderOf(step.path));
  });
  return [...folders];
}
