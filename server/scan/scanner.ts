import type { SitePath } from '../../core/address/path.ts';
import { each, setOf } from '../../core/paced.ts';
import type { FileStep } from '../../core/plan/plan.ts';
import type { Events } from '../app/events.ts';
import { madeAt, reconcileSurvey, type ScanStore } from './reconcile.ts';
import { scanSite } from './scan.ts';
import { UNSURE, type FileFacts } from '../../core/media/facts.ts';
import type { Findings } from '../db/findings.ts';
import type { Layout } from '../db/layout.ts';
import { breathe } from '../workers/breathe.ts';
import type { Jobs } from '../workers/jobs.ts';
import { Lock } from '../workers/lock.ts';
import type { Pool } from '../workers/pool.ts';
import type { SiteIndex } from './site-index.ts';

export interface ScanResult {
  changed: number;
  removed: number;
}

/** What a scan reads: the site's folder, with what is no part of the site left out. */
export interface ScanSource {
  root: string;
  /** The folder within it where the data are, if they lie there. */
  leftOut: string;
  pool: Pool;
  layout: Layout;
}

/** So many facts of files are stored between two breaths of the server's thread. */
const STORED = 100;
const PHASES = { listing: 'files listed', reading: 'files read', searching: 'texts searched' } as const;

/** Changes that stopped half way: as long as there are some, records stay as they are. */
interface UnfinishedChanges {
  readonly unsettled: readonly unknown[];
  leaveAsIs(entryId: number): Promise<void>;
  /** Completes them or takes them back. @returns a sentence for each */
  recover(): Promise<string[]>;
}

/** Scans and changes of the site's files, one at a time: none sees a site that another is changing. */
export class Scanner {
  private readonly lock = new Lock();
  /** Bytes that plans have written since the start, or just before it; and where they have made files. */
  private readonly own = new Set<string>();
  private nextScan: Promise<ScanResult> | undefined;

  constructor(
    private readonly index: SiteIndex,
    private readonly source: ScanSource,
    private readonly store: Omit<ScanStore, 'own'>,
    private readonly changes: UnfinishedChanges,
    private readonly findings: Findings,
    private readonly jobs: Jobs,
    private readonly events: Events,
  ) {}

  /**
   * Brings everything known in line with the folder; reads only files that changed. Scans and changes come one after the
   * other: none sees a site that is being changed.
   * @param visible shows it as a job; files that could not be read are tried again
   */
  scan(visible = false): Promise<ScanResult> {
    // One that is still to begin will see all that this one would.
    if (!visible && this.nextScan) return this.nextScan;
    const scan = this.lock.run(() => {
      if (this.nextScan === scan) this.nextScan = undefined;
      return visible
        ? this.jobs.run('scan', 'Reading the site', (job) => this.scanNow(job.progress, undefined, true))
        : this.scanNow();
    });
    if (!visible) this.nextScan = scan;
    return scan;
  }

  /**
   * Does something that nothing may come between: no scan and no other change.
   * @param work gets the scan to be used within; `after`: what is found is stored only when this has come to its end,
   * and not at all when it fails, as the site may be another one then
   */
  alone<Result>(
    work: (scan: (after?: Promise<unknown>) => Promise<ScanResult>) => Promise<Result>,
  ): Promise<Result> {
    return this.lock.run(() => work((after) => this.scanNow(undefined, after)));
  }

  /**
   * Tries once more to complete or take back what stopped half way, also at the start; then reads the site.
   * @param leave this entry is left as its files stand
   * @returns what became of each, in a sentence
   */
  settle(leave?: number): Promise<string[]> {
    return this.alone(async (scan) => {
      if (leave !== undefined) await this.changes.leaveAsIs(leave);
      const told = await this.changes.recover();
      if (told.length > 0 || leave !== undefined) this.index.disconnect();
      if (this.index.scanned) await scan();
      return told;
    });
  }

  /** How live sites show items is known anew: what they show is placed. Only within `alone`, as what is counted must not change meanwhile. */
  async refreshUse(): Promise<void> {
    // While references are connected anew, that comes at its end.
    if (this.index.connected) await this.store.itemUse.refresh();
    this.index.epoch++;
    this.events.emit('changed');
  }

  /** Which images are sizes of which is found anew: people say so, or their looks are known now. Only within `alone`. */
  async regroup(): Promise<void> {
    await this.store.families.refresh();
    await this.refreshUse();
  }

  /**
   * What we have moved or written ourselves need not be read again: all that is known of it goes to its new place.
   * @param written new facts of pages, by path
   */
  async applyMoves(steps: readonly FileStep[], written: ReadonlyMap<SitePath, FileFacts>): Promise<void> {
    const { index, store } = this;
    const { files } = index;
    const moved: { from: SitePath; to: SitePath; facts: FileFacts }[] = [];
    await each(steps, breathe, (step) => {
      if (step.do !== 'move') return;
      const facts = files.get(step.from);
      if (facts?.sha256 === step.sha256) moved.push({ from: step.from, to: step.to, facts });
    });
    await this.markOwnWrites(steps);
    if (moved.length > 0 || written.size > 0) index.disconnect();
    const now = [...written.values()];
    await each(moved, breathe, ({ to, facts }) => now.push({ ...facts, path: to }));
    // At the new places first: in between, files would be at no place.
    await each(now, breathe, (facts) => files.set(facts.path, facts));
    const taken = await setOf(now, breathe, (facts) => facts.path);
    await each(moved, breathe, ({ from }) => taken.has(from) || files.delete(from));
    await this.inSlices(moved, ({ from }) => store.files.remove(from));
    await this.inSlices(now, (facts) => store.files.save(facts));
  }

  /**
   * What is known of the files of steps that were taken back may be of what they had put in place: the next scan reads
   * them. Their sizes and times needn't tell, as two files that changed places may have the same.
   */
  async forget(steps: readonly FileStep[]): Promise<void> {
    const { index, store } = this;
    const unsure: FileFacts[] = [];
    await each(steps, breathe, (step) => {
      for (const path of step.do === 'move' ? [step.from, step.to] : [step.path]) {
        const facts = index.files.get(path);
        if (facts) unsure.push({ ...facts, mtimeMs: UNSURE });
      }
    });
    await each(unsure, breathe, (facts) => index.files.set(facts.path, facts));
    await this.inSlices(unsure, (facts) => store.files.save(facts));
  }

  /** Stored in slices: what a scan has found is only kept to save reading it again, so a part of it is no harm. */
  private async inSlices<One>(all: readonly One[], keep: (one: One) => void): Promise<void> {
    for (let at = 0; at < all.length; at += STORED) {
      await breathe();
      this.store.db.write(() => all.slice(at, at + STORED).forEach(keep));
    }
  }

  /** What these steps write was not written by others. */
  markOwnWrites(steps: readonly FileStep[]): Promise<void> {
    return each(steps, breathe, (step) => {
      const sha256 = step.do === 'write' ? step.after : step.do === 'create' ? step.sha256 : null;
      if (sha256 !== null) this.own.add(sha256);
      if (step.do === 'create') this.own.add(madeAt(step.path, step.sha256));
    });
  }

  /** Waits until nothing is scanned or changed any more. */
  settled(): Promise<void> {
    return this.lock.settled();
  }

  private async scanNow(
    progress: (done: number, total: number, what: string) => void = () => {},
    after?: Promise<unknown>,
    again = !this.index.scanned,
  ): Promise<ScanResult> {
    const { index, source, store } = this;
    const whole = !index.connected;
    const survey = await scanSite({
      root: source.root,
      dataFolder: source.leftOut,
      pool: source.pool,
      known: index.files,
      reconnect: whole,
      again,
      brought: store.items.brought(),
      layout: source.layout.get(),
      ...(index.scanned ? { site: index.map } : {}),
      onProgress: ({ phase, done, total }) => progress(done, total, PHASES[phase]),
    });
    const [ended] = await Promise.allSettled([after]);
    if (ended.status === 'rejected') return { changed: 0, removed: 0 };
    const differs = whole || survey.changed.size > 0 || survey.removed.size > 0;
    const emptied = survey.empty.join('\n') !== index.emptyFolders.join('\n');
    if (differs) {
      index.disconnect();
      try {
        // While a change has stopped half way, the records are not made to follow the files: they are what it has left.
        await reconcileSurvey({ ...store, own: this.own }, survey, {
          whole,
          held: this.changes.unsettled.length > 0,
        });
      } catch (error) {
        // The next scan stores the rest.
        index.reload();
        throw error;
      }
    }
    // A change of rules may have been broken off before names were compared with them.
    if (!differs && this.changes.unsettled.length === 0) await store.itemNames.check();
    index.take(survey);
    // What was told of the use of items depends on which texts could be searched.
    if (differs && index.connect()) await this.findings.uncheck("use <> 'placed'");
    if (differs || emptied) {
      index.epoch++;
      this.events.emit('changed');
    }
    return { changed: survey.changed.size, removed: survey.removed.size };
  }
}
