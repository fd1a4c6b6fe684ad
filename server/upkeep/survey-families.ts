import { join } from 'node:path';
import { kindOf } from '../../core/address/kinds.ts';
import type { SitePath } from '../../core/address/path.ts';
import { familiesOf, sizesAmong } from '../../core/naming/variants.ts';
import { showsTheSame, type SmallLook } from '../../core/picture/same-size.ts';
import type { Survey } from '../scan/scan.ts';
import type { Pool } from '../workers/pool.ts';

/**
 * Which images of a surveyed site are sizes of which, by path; without a data folder.
 * @param looks reads how those look that are only called a size; undefined: their names and shapes are believed
 */
export async function familiesIn(
  survey: Survey,
  looks: { root: string; pool: Pool } | undefined,
): Promise<Map<SitePath, SitePath>> {
  const images = [...survey.files.values()]
    .filter((one) => one.item)
    .sort((a, b) => (a.path < b.path ? -1 : 1))
    .map(({ path, item }, id) => ({
      id,
      path,
      kind: kindOf(path),
      width: item!.width ?? null,
      height: item!.height ?? null,
    }));
  const sets = sizeSets(survey, new Map(images.map((one) => [one.path, one.id])));
  const called = new Set<number>();
  let sizes = await sizesAmong(images, sets, (one, other) => {
    called.add(one).add(other);
    return undefined;
  });
  if (looks && called.size > 0) {
    const seen = new Map<number, SmallLook>();
    await looks.pool.each(
      'signature',
      [...called].map((id) => {
        const { path } = images[id]!;
        return [id, { file: join(looks.root, path), path }] as const;
      }),
      (id, outcome) => {
        if (!('error' in outcome) && outcome.output) seen.set(id, outcome.output);
      },
      { together: 4 },
    );
    sizes = await sizesAmong(images, sets, (one, other) => {
      const [a, b] = [seen.get(one), seen.get(other)];
      return a && b && showsTheSame(a, b);
    });
  }
  return new Map([...(await familiesOf(sizes))].map(([id, of]) => [images[id]!.path, images[of]!.path]));
}

/** Ids of items that one element offers as sizes of one image. */
export function sizeSets(survey: Survey, ids: ReadonlyMap<SitePath, number>): number[][] {
  const sets = new Map<string, Set<number>>();
  for (const [page, placements] of survey.placements)
    for (const { sizesOf, path, state } of placements) {
      const id = ids.get(path);
      if (sizesOf === undefined || state !== 'placed' || id === undefined) continue;
      const key = `${sizesOf} ${page}`;
      sets.set(key, (sets.get(key) ?? new Set()).add(id));
    }
  return [...sets.values()].map((set) => [...set]);
}
