import { existsSync } from 'node:fs';
import { WORD_FIELDS } from '../../core/describe/fields.ts';
import { Fault } from '../fault.ts';
import type { Site } from '../app/site.ts';
import { NOTHING } from '../../core/media/analysis.ts';
import { withEmbedded } from './embedded-preview.ts';
import { inBackground } from '../workers/fair.ts';
import { Unended } from '../workers/pool.ts';
import { LIMITS } from '../limits.ts';

/** So often a file is tried in one run of the server. */
const TRIES = 2;

/** Who finds out which images show the same, as soon as they have been looked at. */
interface Matches {
  match(sha256: string): Promise<unknown>;
  matchSome(): Promise<unknown>;
  matchAll(): Promise<void>;
}

/** What is derived from the bytes of items: small images, placeholder, colours, signature, text, the file's own words. */
export class Analyser {
  private readonly making = new Map<string, Promise<void>>();

  constructor(
    private readonly site: Pick<
      Site,
      | 'folder'
      | 'data'
      | 'blobs'
      | 'index'
      | 'items'
      | 'records'
      | 'contents'
      | 'arrivals'
      | 'pool'
      | 'jobs'
      | 'metadata'
    >,
    private readonly matching: Matches,
  ) {}

  /** The file of a thumbnail, made now if need be. @throws Fault 'not-found' when none can be made */
  async file(sha256: string, size: number): Promise<string> {
    const file = this.site.data.thumbnail(sha256, size);
    if (existsSync(file)) return file;
    const item = this.site.items.withHash(sha256)[0];
    const stored = this.site.blobs.has(sha256) ? this.site.items.anyWithHash(sha256) : undefined;
    const path = item?.path ?? stored?.path;
    if (path === undefined)
      throw new Fault('not-found', 'There is no item with these bytes.', 'Reload the application.');
    const none = () =>
      new Fault('not-found', `No preview could be made of ${path}.`, 'Open the file itself.');
    if ((this.tries.get(sha256) ?? 0) >= TRIES) throw none();
    await this.analyse(sha256, path, item?.duration ?? stored?.duration ?? 0).catch((error: unknown) => {
      this.failed(sha256, error);
      throw none();
    });
    if (!existsSync(file)) throw none();
    return file;
  }

  /** Derives all there is from items on the site that nothing was derived from yet, as a job. */
  analyseAll(): Promise<void> {
    const work = () => inBackground(() => this.makeMissing());
    this.all = this.all.then(work, work);
    return this.all;
  }
  private all: Promise<void> = Promise.resolve();

  private async makeMissing(): Promise<void> {
    const { site } = this;
    const wanted = site.contents.missing().filter((one) => (this.tries.get(one.sha256) ?? 0) < TRIES);
    if (wanted.length === 0) return this.matching.matchAll();
    await site.jobs.run('analyse', 'Preview at the items', async (job) => {
      let done = 0;
      let since = 0;
      const queue = [...wanted];
      const lane = async () => {
        for (let next = queue.shift(); next !== undefined; next = queue.shift()) {
          job.signal.throwIfAborted();
          try {
            await this.analyse(next.sha256, next.path, next.duration ?? 0);
          } catch (error) {
            // One file that fails keeps no other from being looked at. Once more, after all others; then at the next start.
            if (this.failed(next.sha256, error) < TRIES) queue.push(next);
            else job.progress(++done, wanted.length, 'items looked at');
            continue;
          }
          // Who waits at the door is told at once; all else when some more have been looked at. What fails is tried again in the end.
          if (site.arrivals.inState('ready').length > 0)
            this.matching.match(next.sha256).catch(() => undefined);
          else if (++since > 30 + done / 10) {
            since = 0;
            this.matching.matchSome().catch(() => undefined);
          }
          job.progress(++done, wanted.length, 'items looked at');
        }
      };
      await Promise.all(Array.from({ length: site.pool.size }, lane));
    });
    await this.matching.matchAll();
  }

  /** How often looking at some bytes has failed since the start. */
  private readonly tries = new Map<string, number>();
  private failed(sha256: string, error: unknown): number {
    if (error instanceof Unended && error.message.includes('closed')) throw error;
    const tries = (this.tries.get(sha256) ?? 0) + 1;
    this.tries.set(sha256, tries);
    return tries;
  }

  private analyse(sha256: string, path: string, duration: number): Promise<void> {
    let making = this.making.get(sha256);
    if (!making) {
      making = this.analyseNow(sha256, path, duration).finally(() => this.making.delete(sha256));
      this.making.set(sha256, making);
    }
    return making;
  }

  private async analyseNow(sha256: string, path: string, duration: number): Promise<void> {
    const { site } = this;
    const here = site.items.withHash(sha256)[0];
    const file = here ? await site.folder.locate(here.path) : site.blobs.get(sha256);
    if (file === undefined) return; // Taken away since the last scan; the next one will say so.
    const thumbs = site.data.thumbnailStem(sha256);
    const [answer, meta] = await Promise.all([
      site.pool
        .run('analyse', { file, path, thumbs, duration }, { limit: LIMITS.checkTime })
        .catch((error: Error) => {
          // It was not looked at to its end: that says nothing of the file, and is not kept as if it did.
          if (error instanceof Unended) throw error;
          return {
            undecodable: `No preview could be made: ${error.message}.`,
            damaged: false,
          };
        }),
      site.metadata.read(file, path),
    ]);
    const made =
      'undecodable' in answer
        ? { ...NOTHING, notes: [answer.undecodable], damaged: answer.damaged ? answer.undecodable : null }
        : answer;
    const derived = await withEmbedded(site, file, path, sha256, made);
    site.contents.save(sha256, derived, {
      codecs: (here && site.index.factsOf(here.path)?.item?.codecs) ?? '',
      profile: meta.colourProfile,
      takenAt: meta.takenAt,
      place: meta.place,
    });
    // What the file says of itself fills what nobody has written; a record that a person has touched stays as it is.
    if (WORD_FIELDS.some((field) => meta.words[field] !== undefined))
      site.records.fillUntouched(sha256, meta.words);
  }
}
