import { existsSync } from 'node:fs';
import { join } from 'node:path';
import { Fault } from '../fault.ts';
import type { Site } from '../site/site.ts';

/** Pixels of the longer side: for the contact sheet, and for a look at one item. */
export const THUMBNAIL_SIZES = [320, 1280] as const;

/** Small pictures of items, made on the worker threads and kept in the data folder by the hash of the bytes. */
export class Thumbnails {
  private readonly making = new Map<string, Promise<string>>();

  constructor(private readonly site: Site) {}

  /** The file of a thumbnail, made now if need be. @throws Fault 'not-found' when none can be made */
  async file(sha256: string, size: number): Promise<string> {
    const to = join(this.site.dataFolder, 'thumbs', `${sha256}-${size}.webp`);
    if (existsSync(to)) return to;
    const key = `${sha256} ${size}`;
    let making = this.making.get(key);
    if (!making) {
      making = this.make(sha256, size, to).finally(() => this.making.delete(key));
      this.making.set(key, making);
    }
    return making;
  }

  /** Makes the contact sheet's thumbnails of all pictures that have none yet, as a job. */
  async makeAll(): Promise<void> {
    const { site } = this;
    const wanted = site.items
      .picturesHere()
      .filter((sha256) => !existsSync(join(site.dataFolder, 'thumbs', `${sha256}-320.webp`)));
    if (wanted.length === 0) return;
    await site.jobs.run('thumbnails', 'Making thumbnails', async (job) => {
      let done = 0;
      const queue = [...wanted];
      const lane = async () => {
        for (let next = queue.shift(); next !== undefined; next = queue.shift()) {
          job.signal.throwIfAborted();
          await this.file(next, 320).catch((error: unknown) => {
            // A picture that no decoder reads keeps its kind's sign in the contact sheet.
            if (!(error instanceof Fault)) throw error;
          });
          job.progress(++done, wanted.length, 'thumbnails made');
        }
      };
      await Promise.all([lane(), lane()]);
    });
  }

  private async make(sha256: string, size: number, to: string): Promise<string> {
    const { site } = this;
    const item = site.items.withHash(sha256)[0];
    const file = item
      ? await site.folder.locate(item.path)
      : site.blobs.has(sha256)
        ? site.blobs.path(sha256)
        : undefined;
    if (file === undefined)
      throw new Fault('not-found', 'There is no item with these bytes.', 'Reload the application.');
    try {
      await site.pool.run('thumbnail', { file, to, size }, 30_000);
    } catch (error) {
      throw new Fault(
        'not-found',
        `No preview could be made of ${item?.name ?? 'this file'}.`,
        'Open the file itself.',
        (error as Error).message,
      );
    }
    return to;
  }
}
