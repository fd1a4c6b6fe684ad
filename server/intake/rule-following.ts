import type { Site } from '../app/site.ts';
import { breathe } from '../workers/breathe.ts';
import { nameFor } from './arrival-names.ts';

/** Files that wait follow the rules of their folders: when those become others, and when the server starts anew. */
export class RuleFollowing {
  /** Resolves when all that waits is as the rules want it. */
  settled: Promise<void> = Promise.resolve();

  /** @param prepare makes the bytes of a waiting file that will go to the site, where they are others than before */
  constructor(
    private readonly site: Pick<Site, 'arrivals' | 'events' | 'items' | 'jobs' | 'rules'>,
    private readonly prepare: (id: number) => Promise<void>,
  ) {}

  /** What waits is named and made ready by the rules that hold now, one file after the other, as a visible job. */
  start(): void {
    const { site } = this;
    site.arrivals.allChanged();
    site.events.emit('arrivals');
    const waiting = site.arrivals.inState('ready').map((row) => row.id);
    if (waiting.length === 0) return;
    const run = this.settled.then(() =>
      site.jobs.run('intake', 'Applying the folder rules to waiting files', async (job) => {
        for (const [at, id] of waiting.entries()) {
          if (job.signal.aborted) return;
          this.name(id);
          await this.prepare(id);
          job.progress(at + 1, waiting.length, 'files');
          site.events.emit('arrivals');
          await breathe();
        }
      }),
    );
    // A failure stands in the job, for whoever looks; it must not end the server.
    this.settled = run.catch(() => undefined);
  }

  /** A name that no person has written follows the folder's rule. */
  private name(id: number): void {
    const row = this.site.arrivals.get(id);
    if (row?.state !== 'ready' || row.named) return;
    const { name, plain } = nameFor(this.site, row);
    if (name !== row.name) this.site.arrivals.set(row, { name, plainName: plain });
  }
}
