import { rm, stat } from 'node:fs/promises';
import type { Recipe } from '../../core/picture/recipe/recipe.ts';
import type { Site } from '../app/site.ts';
import { Fault } from '../fault.ts';
import type { NewBytes } from './plan-bytes.ts';

/** What new bytes are made with. */
export type Making = Pick<Site, 'pool' | 'data' | 'planBytes'>;

/** Milliseconds for hashing one file, which may be a long video. */
const HASH_LIMIT = 600_000;

/** An image in another size: never enlarged, in its own shape and format. */
export interface Rendering {
  /** The box that it fits into, in pixels. */
  width: number;
  height: number;
  /** The media type of the file, which stays. */
  mime: string;
  /** 1 to 100, as encoders count. */
  quality?: number;
}

/** As high as any image is. */
export const ANY_HEIGHT = 100_000;

/** An image as it is to be, as new bytes of a plan. @throws Fault when it cannot be decoded */
export function renderedImage(site: Making, file: string, rendering: Rendering): Promise<NewBytes> {
  const { width, height, mime, quality } = rendering;
  const recipe: Recipe = {
    version: 1,
    size: height >= ANY_HEIGHT ? { by: 'width', width } : { by: 'fit', width, height },
    ...(quality === undefined ? {} : { file: { quality } }),
  };
  return fromWorkFile(site, async (to, take) => {
    const asked = { recipe, mime, still: true, keepTiff: true };
    const made = await site.pool.run('prepare', { file, to, asked });
    if ('refused' in made) throw new Fault('bad-request', made.refused, 'Choose another image.');
    return take();
  });
}

/**
 * Runs what writes a file of its own; by `take` that becomes new bytes of a plan, else it goes again.
 * @param ending of the file's name, for programs that go by it
 */
export async function fromWorkFile<Result>(
  { pool, data, planBytes }: Making,
  make: (to: string, take: () => Promise<NewBytes>) => Promise<Result>,
  ending = '',
): Promise<Result> {
  const to = `${data.workFile()}${ending}`;
  try {
    return await make(to, async () => {
      const sha256 = await pool.run('hash', { file: to }, { limit: HASH_LIMIT });
      return planBytes.take(to, { sha256, bytes: (await stat(to)).size });
    });
  } finally {
    await rm(to, { force: true });
  }
}
