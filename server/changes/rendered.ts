import { rm, stat } from 'node:fs/promises';
import type { Site } from '../app/site.ts';
import type { Rendering } from '../media/rendering.ts';
import type { NewBytes } from './plan-bytes.ts';

/** What new bytes are made with. */
export type Making = Pick<Site, 'pool' | 'data' | 'planBytes'>;

/** Milliseconds for hashing one file, which may be a long video. */
const HASH_LIMIT = 600_000;

/** An image as it is to be, as new bytes of a plan. @throws Error when it cannot be decoded */
export function renderedImage(site: Making, file: string, rendering: Rendering): Promise<NewBytes> {
  return fromWorkFile(site, async (to, take) => {
    await site.pool.run('render', { file, to, rendering });
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
