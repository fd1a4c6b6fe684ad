import type { OpenedSite } from '../app/opened-site.ts';
import type { Item } from '../db/item-rows.ts';

/** Milliseconds that one image may take. */
const LIMIT = 60_000;

interface Waiting {
  item: Item;
  done: (text: string | undefined) => void;
  failed: (error: Error) => void;
}

/**
 * Reads the text in images, each once for its bytes and one at a time, so that it never takes all the workers from
 * those who wait for something else. The image asked for last comes first: it is the one being looked at.
 */
export class Recognising {
  private readonly waiting: Waiting[] = [];
  private busy = false;

  constructor(private readonly read: (item: Item) => Promise<string>) {}

  /** @returns undefined when it was called off before its turn came. What has begun is read to its end, and kept. */
  text(item: Item, signal: AbortSignal): Promise<string | undefined> {
    if (signal.aborted) return Promise.resolve(undefined);
    return new Promise((done, failed) => {
      const one = { item, done, failed };
      this.waiting.push(one);
      signal.addEventListener('abort', () => {
        const at = this.waiting.indexOf(one);
        if (at < 0) return;
        this.waiting.splice(at, 1);
        done(undefined);
      });
      this.next().catch(failed);
    });
  }

  private async next(): Promise<void> {
    if (this.busy) return;
    this.busy = true;
    for (let one = this.waiting.pop(); one; one = this.waiting.pop())
      await this.read(one.item).then(one.done, one.failed);
    this.busy = false;
  }
}

/** The text in the image of an item, from the store or read now: as it looks, in its large thumbnail. */
export async function recognised(
  site: Pick<OpenedSite, 'contents' | 'pool' | 'analyser'>,
  item: Item,
): Promise<string> {
  const known = site.contents.recognised(item.sha256);
  if (known !== undefined) return known;
  const readable =
    item.kind === 'image' && item.state === 'here' && site.contents.get(item.sha256)?.preview !== false;
  const text = readable
    ? await site.pool.run(
        'recognise',
        { file: await site.analyser.file(item.sha256, 1280) },
        { limit: LIMIT },
      )
    : '';
  site.contents.saveRecognised(item.sha256, text);
  return text;
}
