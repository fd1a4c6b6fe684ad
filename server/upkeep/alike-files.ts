import { join } from 'node:path';
import { verify, type Relation } from '../../core/picture/alike.ts';
import { Likenesses } from '../../core/picture/likeness.ts';
import { Prepared } from '../../core/picture/windows.ts';
import { groupsOf, type Pair } from '../../core/picture/groups.ts';
import { Matcher } from '../../core/picture/matcher.ts';
import type { SitePath } from '../../core/address/path.ts';
import type { Survey } from '../scan/scan.ts';
import type { Pool } from '../workers/pool.ts';
import { familyOf } from './checks.ts';
import { sizeSets } from './survey-families.ts';

/** Images are compared in slices of so many, so that their candidates need not all be held at once. */
const SLICE = 1000;

/**
 * Images of a surveyed site that show the same in other bytes, as groups of paths, the original first; without a data folder. Copies and
 * sizes of one image stand for it and are no members of their own.
 * @param families of each size its image
 */
export async function alikeFiles(
  survey: Survey,
  root: string,
  pool: Pool,
  families: ReadonlyMap<SitePath, SitePath>,
  onProgress: (done: number, total: number) => void = () => {},
): Promise<{ paths: SitePath[]; relation: Relation }[]> {
  const items = [...survey.files.values()]
    .filter((one) => one.item && one.sha256 !== '')
    .sort((a, b) => (a.path < b.path ? -1 : 1))
    .map((one, id) => ({
      id,
      path: one.path,
      kind: 'image' as const,
      width: one.item!.width ?? null,
      height: one.item!.height ?? null,
      bytes: one.bytes,
      sha256: one.sha256,
    }));
  const ids = new Map(items.map((one) => [one.path, one.id]));
  const mainOf = await familyOf(
    items.map((one) => ({ ...one, sizeOf: ids.get(families.get(one.path) ?? '') ?? null })),
    sizeSets(survey, ids),
  );
  const seen = new Set<string>();
  const wanted = items.filter((one) => {
    if (mainOf(one.id) !== one.id || seen.has(one.sha256)) return false;
    seen.add(one.sha256);
    return true;
  });
  const matcher = new Matcher();
  const pictures: { item: (typeof items)[number]; picture: () => Prepared }[] = [];
  let done = 0;
  const signed = new Map<number, { windows: Int32Array; oriented: Int32Array; picture: () => Prepared }>();
  await pool.each(
    'signature',
    wanted.map((one) => [one, { file: join(root, one.path), path: one.path }] as const),
    (one, outcome) => {
      onProgress(++done, wanted.length);
      if ('error' in outcome || !outcome.output) return;
      const { plane, chroma, aspect, windows, oriented } = outcome.output;
      const size = { width: one.width ?? Math.round(1000 * aspect), height: one.height ?? 1000 };
      let ready: Prepared | undefined;
      signed.set(one.id, {
        windows,
        oriented,
        picture: () => (ready ??= new Prepared({ plane, chroma, ...size })),
      });
    },
    { together: 4 },
  );
  for (const item of wanted) {
    const one = signed.get(item.id);
    if (!one) continue;
    matcher.add(one);
    pictures.push({ item, picture: one.picture });
  }
  const pixels = ({ width, height }: { width?: number | null; height?: number | null }) =>
    (width ?? 0) * (height ?? 0);
  const likenesses = new Likenesses(
    (candidate) =>
      verify(pictures[candidate.one]!.picture(), pictures[candidate.other]!.picture(), candidate),
    (id) => pixels(pictures[id]!.item),
  );
  const pairs: Pair[] = [];
  for (let from = 0; from < pictures.length; from += SLICE) {
    const asked = pictures.slice(from, from + SLICE).map((_, at) => from + at);
    pairs.push(...likenesses.find(matcher.candidates(asked)));
  }
  const facts = pictures.map(({ item }, id) => ({
    id,
    pixels: pixels(item),
    bytes: item.bytes,
  }));
  return groupsOf(facts, pairs)
    .map((group) => ({
      paths: group.map(({ id }) => pictures[id]!.item.path),
      // Of several, the one that changes most.
      relation: group[1]!.relation!,
    }))
    .sort((a, b) => (a.paths[0]! < b.paths[0]! ? -1 : 1));
}
