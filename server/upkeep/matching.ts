import type { Site } from '../app/site.ts';
import type { AlikePair } from '../db/alikes.ts';
import { ThreadClient, type Progress } from '../workers/thread.ts';
import type { MatchAnswer, MatchQuestion, OtherImage } from './matching-thread.ts';

/** So many images are looked for in one go; what was found is then kept, also when the server stops. */
const SLICE = 500;
/** More are shown as running work. */
const FEW = 8;

/** Finds images that show the same as others: a new one when it comes, a whole library as a job that goes on after a restart. */
export class Matching {
  private readonly thread: ThreadClient<MatchQuestion, MatchAnswer>;
  private running: Promise<void> = Promise.resolve();

  constructor(
    private readonly site: Pick<Site, 'scanner' | 'alikes' | 'jobs' | 'events'>,
    file: string,
  ) {
    this.thread = new ThreadClient('matching.js', { file });
  }

  /** Looks for what shows the same as one image. */
  async match(sha256: string): Promise<void> {
    this.keep([sha256], await this.pairs([sha256]));
  }

  /** Contents that show the same as an image which is not in the library, the surest first. */
  async like(other: OtherImage): Promise<string[]> {
    const answer = await this.thread.ask({ like: other });
    return 'like' in answer ? answer.like : [];
  }

  private async pairs(sha256s: readonly string[], progress?: Progress): Promise<AlikePair[]> {
    const answer = await this.thread.ask({ match: sha256s }, [], progress);
    return 'pairs' in answer ? answer.pairs : [];
  }

  /** Looks for what shows the same as each image for which that has not been done yet. */
  matchAll(): Promise<void> {
    const work = () => this.matchUnmatched();
    this.running = this.running.then(work, work);
    return this.running;
  }

  /** The same for those that are there by now, while others still come: not shown as running work. */
  async matchSome(): Promise<void> {
    const work = this.running.then(() => this.matchSlice(this.site.alikes.unmatched(SLICE)));
    this.running = work.catch(() => undefined);
    // What fails here is tried again, and told, when all have come.
    await work.catch(() => undefined);
  }

  private async matchSlice(sha256s: readonly string[], progress?: Progress) {
    if (sha256s.length === 0) return;
    this.keep(sha256s, await this.pairs(sha256s, progress));
    this.site.events.emit('changed');
  }

  private async matchUnmatched(): Promise<void> {
    const { alikes, jobs } = this.site;
    const wanted = alikes.unmatched(1_000_000);
    if (wanted.length === 0) return;
    if (wanted.length <= FEW) await this.matchSlice(wanted);
    else
      await jobs.run('match', 'Preview for images that show the same', async ({ progress, signal }) => {
        for (let at = 0; at < wanted.length; at += SLICE) {
          signal.throwIfAborted();
          const slice = wanted.slice(at, at + SLICE);
          await this.matchSlice(slice, (done, total) =>
            progress(
              at + Math.floor((slice.length * done) / Math.max(1, total)),
              wanted.length,
              'images compared',
            ),
          );
        }
      });
    // Whether what is called like a size of an image is one.
    await this.site.scanner.alone(() => this.site.scanner.regroup());
  }

  private keep(matched: readonly string[], pairs: readonly AlikePair[]): void {
    this.site.alikes.save(matched, pairs);
    if (pairs.length > 0)
      this.site.events.emit(
        'alike-found',
        pairs.flatMap(({ one, other }) => [one, other]),
      );
  }

  async close(): Promise<void> {
    await this.running.catch(() => undefined);
    await this.thread.close();
  }
}
