import { Worker } from 'node:worker_threads';
import { builtFile } from '../built.ts';
import type { Site } from '../site/site.ts';
import type { AlikePair } from '../store/alikes.ts';

export interface MatchQuestion {
  id: number;
  sha256s: readonly string[];
}
export interface MatchAnswer {
  id: number;
  pairs?: AlikePair[];
  error?: string;
  done?: number;
  total?: number;
}

interface Waiting {
  done: (pairs: AlikePair[]) => void;
  failed: (error: Error) => void;
  progress: (done: number, total: number) => void;
}

/** So many pictures are looked for in one go; what was found is then kept, also when the server stops. */
const SLICE = 500;
/** More are shown as running work. */
const FEW = 8;

/** Finds pictures that show the same as others: a new one when it comes, a whole library as a job that goes on after a restart. */
export class Matching {
  private thread: Worker | undefined;
  private readonly waiting = new Map<number, Waiting>();
  private nextId = 1;
  private running: Promise<void> = Promise.resolve();

  constructor(
    private readonly site: Site,
    private readonly file: string,
  ) {}

  /** Looks for what shows the same as one picture. */
  async match(sha256: string): Promise<void> {
    this.keep([sha256], await this.ask([sha256], () => undefined));
  }

  /** Looks for what shows the same as each picture for which that has not been done yet. */
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

  private async matchSlice(sha256s: readonly string[], progress: Waiting['progress'] = () => undefined) {
    if (sha256s.length === 0) return;
    this.keep(sha256s, await this.ask(sha256s, progress));
    this.site.tell();
  }

  private async matchUnmatched(): Promise<void> {
    const { alikes, jobs } = this.site;
    const wanted = alikes.unmatched(1_000_000);
    if (wanted.length === 0) return;
    if (wanted.length <= FEW) await this.matchSlice(wanted);
    else
      await jobs.run('match', 'Looking for pictures that show the same', async ({ progress, signal }) => {
        for (let at = 0; at < wanted.length; at += SLICE) {
          signal.throwIfAborted();
          const slice = wanted.slice(at, at + SLICE);
          await this.matchSlice(slice, (done, total) =>
            progress(
              at + Math.floor((slice.length * done) / Math.max(1, total)),
              wanted.length,
              'pictures compared',
            ),
          );
        }
      });
    // Whether what is called like a size of a picture is one.
    await this.site.alone(() => this.site.regroup());
  }

  private keep(matched: readonly string[], pairs: readonly AlikePair[]): void {
    this.site.alikes.save(matched, pairs);
    if (pairs.length > 0) this.site.checking.likenessFound(pairs.flatMap(({ one, other }) => [one, other]));
  }

  private ask(sha256s: readonly string[], progress: Waiting['progress']): Promise<AlikePair[]> {
    const thread = (this.thread ??= this.start());
    const id = this.nextId++;
    return new Promise((done, failed) => {
      this.waiting.set(id, { done, failed, progress });
      thread.ref();
      thread.postMessage({ id, sha256s } satisfies MatchQuestion);
    });
  }

  private start(): Worker {
    const thread = new Worker(builtFile('matching.js'), { workerData: { file: this.file } });
    thread.on('message', ({ id, pairs, error, done, total }: MatchAnswer) => {
      const one = this.waiting.get(id);
      if (pairs === undefined && error === undefined) return one?.progress(done ?? 0, total ?? 0);
      this.waiting.delete(id);
      // A thread without a question does not keep the program running.
      if (this.waiting.size === 0) thread.unref();
      if (pairs) one?.done(pairs);
      else one?.failed(new Error(error));
    });
    const lost = (error: Error) => {
      this.thread = undefined;
      for (const one of this.waiting.values()) one.failed(error);
      this.waiting.clear();
    };
    thread.on('error', lost);
    thread.on('exit', () => lost(new Error('the comparing of pictures was ended')));
    return thread;
  }

  async close(): Promise<void> {
    await this.running.catch(() => undefined);
    await this.thread?.terminate();
  }
}
