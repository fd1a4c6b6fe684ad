import { chmod } from 'node:fs/promises';
import { join } from 'node:path';
import type { SitePath } from '../../core/address/path.ts';
import { each, setOf } from '../../core/paced.ts';
import type { FileStep } from '../../core/plan/plan.ts';
import { SiteMap } from '../../core/reference/resolve.ts';
import { Checking } from '../intake/checking.ts';
import { Deriving } from '../intake/deriving.ts';
import { MetadataTool } from '../intake/metadata.ts';
import { Ledger } from '../ledger/ledger.ts';
import { Alikes } from '../store/alikes.ts';
import { ArrivalRows } from '../store/arrivals.ts';
import { Blobs } from '../store/blobs.ts';
import { Care } from '../store/care.ts';
import { Contents } from '../store/contents.ts';
import { Checkpoints } from '../store/checkpoints.ts';
import { openDatabase, type Db } from '../store/database.ts';
import { Families } from '../store/families.ts';
import { Files } from '../store/files.ts';
import { Findings } from '../store/findings.ts';
import { Items } from '../store/items.ts';
import { LedgerRows } from '../store/ledger.ts';
import { People } from '../store/people.ts';
import { Reader } from '../store/reader.ts';
import { References } from '../store/references.ts';
import { Rules } from '../store/rules.ts';
import { Layout } from '../store/layout.ts';
import { Live } from '../store/live.ts';
import { NamePatterns, OwnFields } from '../store/vocabulary.ts';
import { SavedQueries } from '../store/saved-queries.ts';
import { ShownWidths } from '../store/shown-widths.ts';
import { Settings } from '../store/settings.ts';
import { Tags } from '../store/tags.ts';
import { Checks } from '../upkeep/checks.ts';
import { Matching } from '../upkeep/matching.ts';
import { Jobs } from '../work/jobs.ts';
import { Pool } from '../work/pool.ts';
import { DATABASE, refusePublic, takeDataFolder } from './data-folder.ts';
import { SiteFolder } from './folder.ts';
import { Hands } from './hands.ts';
import { Lock } from '../work/lock.ts';
import { SiteState } from '../store/site-state.ts';
import { madeAt, storeSurvey } from './scan-store.ts';
import { surveySite, type FileFacts, type Survey } from './survey.ts';
import { breathe } from '../work/breathe.ts';

export interface SiteOptions {
  site: string;
  /** Default: beside the site's folder (data-folder.ts). */
  data?: string | undefined;
  /** Says what has been done with the data folder. */
  tell?: (sentence: string) => void;
  now?: () => string;
  onStep?: (name: string) => void;
  /** Another data folder in the site's folder, that is no part of the site either. */
  without?: string;
  /** For the bench: counts are made anew for each window. */
  recounts?: boolean;
  /** The people of a new data folder. */
  people?: readonly { name: string; role: string }[];
  /** Places and serial numbers stay in files that come in, unless a person takes them out. Default: they are taken out. */
  keepPrivate?: boolean;
  /** Workers that several sites share, and that outlive each of them; default: the site's own. */
  pool?: Pool;
}

export interface ScanResult {
  changed: number;
  removed: number;
}

/** One opened site: its folder, its data folder, and everything that works on them. */
export class Site {
  private files: Map<SitePath, FileFacts>;
  private map: SiteMap = new SiteMap([]);
  /** Scans and changes of the site's files: one at a time. */
  private readonly lock = new Lock();
  private readonly state: SiteState;
  readonly families: Families;
  private connected: boolean;
  /** Grows with everything that a scan has found or a plan has changed. */
  epoch = 0;
  private unreadableFiles: Survey['unreadable'] = [];
  /** Folders as of the last scan, and those in which nothing lies. */
  folderPaths: ReadonlySet<SitePath> = new Set();
  emptyFolders: readonly SitePath[] = [];
  /** A survey has been made since the start: what the map says is of it. */
  private surveyed = false;
  /** The folder that is no part of the site, if it lies in it: where the data are. */
  private leftOut: string;
  private readonly listeners = new Set<() => void>();
  /** The door: files that have arrived are checked by it. */
  readonly checking: Checking;
  readonly deriving: Deriving;
  /** Finds pictures that show the same. */
  readonly matching: Matching;
  /** What is to be done in the library. */
  readonly checks: Checks;

  private constructor(
    readonly folder: SiteFolder,
    readonly dataFolder: string,
    readonly db: Db,
    readonly blobs: Blobs,
    readonly pool: Pool,
    readonly items: Items,
    readonly references: References,
    readonly people: People,
    readonly rows: LedgerRows,
    readonly ledger: Ledger,
    private readonly hands: Hands,
    readonly jobs: Jobs,
    readonly arrivals: ArrivalRows,
    readonly contents: Contents,
    readonly alikes: Alikes,
    readonly findings: Findings,
    readonly care: Care,
    readonly widths: ShownWidths,
    readonly rules: Rules,
    readonly savedQueries: SavedQueries,
    readonly namePatterns: NamePatterns,
    readonly ownFields: OwnFields,
    readonly layout: Layout,
    readonly live: Live,
    readonly tags: Tags,
    readonly settings: Settings,
    readonly metadata: MetadataTool,
    readonly reader: Reader,
    private readonly fileRows: Files,
    readonly now: () => string,
    private readonly checkpoints: Checkpoints,
    private readonly ownsPool: boolean,
    readonly keepPrivate: boolean,
    private readonly release: () => void,
  ) {
    this.leftOut = dataFolder;
    this.files = fileRows.load();
    this.state = new SiteState(db);
    this.families = new Families(db);
    this.connected = this.state.connected;
    this.unsearched = fileRows.unsearched();
    this.checking = new Checking(this);
    this.deriving = new Deriving(this);
    this.checks = new Checks(this);
    this.matching = new Matching(this, join(dataFolder, DATABASE));
  }

  static async open(options: SiteOptions): Promise<Site> {
    const folder = await SiteFolder.open(options.site);
    const { dataFolder, release } = await takeDataFolder(
      folder.root,
      options.data,
      options.tell ?? (() => {}),
    );
    let db: Db;
    try {
      db = openDatabase(join(dataFolder, DATABASE));
      try {
        const { public: said } = new Layout(db).get();
        refusePublic(folder.root, dataFolder, said.length > 0 ? said : ['']);
        await chmod(join(dataFolder, DATABASE), 0o600);
      } catch (error) {
        db.close();
        throw error;
      }
    } catch (error) {
      release();
      throw error;
    }
    const now = options.now ?? (() => new Date().toISOString());
    const people = new People(db);
    people.seed(options.people ?? [{ name: 'Steward', role: 'steward' }], now());
    const blobs = new Blobs(join(dataFolder, 'blobs'), join(dataFolder, 'arrivals'));
    const items = new Items(db);
    const rows = new LedgerRows(db);
    const pool = options.pool ?? new Pool();
    const rules = new Rules(db);
    const savedQueries = new SavedQueries(db);
    const patterns = new NamePatterns(db);
    const fields = new OwnFields(db);
    const layout = new Layout(db);
    const tags = new Tags(db);
    const reader = new Reader(join(dataFolder, DATABASE), undefined, options.recounts);
    const findings = new Findings(db, reader);
    const settings = new Settings({
      items,
      rules,
      tags,
      queries: savedQueries,
      patterns,
      fields,
      layout,
      findings,
    });
    // What the last scan read need not be hashed again, as long as the file's size and time are the same.
    const opened: { site?: Site } = {};
    const hands = new Hands({
      root: folder.root,
      blobs: join(dataFolder, 'blobs'),
      arrivals: join(dataFolder, 'arrivals'),
    });
    const ledger = new Ledger({
      known: (path) => opened.site?.factsOf(path),
      isKept: (sha256) => blobs.has(sha256),
      hash: (file) => pool.run('hash', { file }, { limit: 600_000 }),
      db,
      folder,
      hands,
      items,
      rows,
      settings,
      now,
      ...(options.onStep ? { onStep: options.onStep } : {}),
    });
    opened.site = new Site(
      folder,
      dataFolder,
      db,
      blobs,
      pool,
      items,
      new References(db),
      people,
      rows,
      ledger,
      hands,
      new Jobs(now),
      new ArrivalRows(db),
      new Contents(db),
      new Alikes(db),
      findings,
      new Care(db, reader),
      new ShownWidths(db),
      rules,
      savedQueries,
      patterns,
      fields,
      layout,
      new Live(db),
      tags,
      settings,
      new MetadataTool(),
      reader,
      new Files(db),
      now,
      new Checkpoints(db, join(dataFolder, DATABASE)),
      options.pool === undefined,
      options.keepPrivate ?? false,
      release,
    );
    await items.removeUnborn();
    if (options.without !== undefined) opened.site.leftOut = options.without;
    // What was written last may not have been seen by a scan yet.
    const [last] = rows.list(1);
    for (const { plan } of [...(await rows.unfinished()), ...(last ? [(await rows.read(last.id))!] : [])])
      await opened.site.claim(plan.files);
    return opened.site;
  }

  /** Tells whoever follows that something is known now that was not before. */
  tell(): void {
    for (const listener of this.listeners) listener();
  }

  /** Called after every scan that changed something. Answers how to stop listening. */
  onChange(listener: () => void): () => void {
    this.listeners.add(listener);
    return () => this.listeners.delete(listener);
  }

  get siteMap(): SiteMap {
    return this.map;
  }

  /** The public folders were found out from where addresses lead: nobody has said that they are. */
  get rootsGuessed(): boolean {
    const { roots } = this.map;
    return this.layout.get().public.length === 0 && !(roots.length === 1 && roots[0] === '');
  }

  /** Every file of the site, as of the last scan. */
  get paths(): Iterable<SitePath> {
    return this.files.keys();
  }

  factsOf(path: SitePath): FileFacts | undefined {
    return this.files.get(path);
  }

  get pageCount(): number {
    let pages = 0;
    for (const one of this.files.values()) if (one.reading) pages++;
    return pages;
  }

  get unreadable(): Survey['unreadable'] {
    return this.unreadableFiles;
  }

  /** How live sites show items is known anew: what they show is placed. Only within `alone`, as what is counted must not change meanwhile. */
  async refreshUse(): Promise<void> {
    // While references are connected anew, that comes at its end.
    if (this.connected) await this.items.refreshUse();
    this.epoch++;
    for (const listener of this.listeners) listener();
  }

  /** Which pictures are sizes of which is found anew: people say so, or their looks are known now. Only within `alone`. */
  async regroup(): Promise<void> {
    await this.families.refresh();
    await this.refreshUse();
  }

  /** What is stored of placements and mentions is not of the files as they are: all is connected anew. */
  disconnect(): void {
    this.connected = false;
    this.state.setConnected(false);
  }

  /** Why it cannot be said now that nothing uses an item; undefined: it can. */
  get useUnknown(): 'reading' | 'unread' | undefined {
    if (!this.connected) return 'reading';
    return this.unsearched.length > 0 ? 'unread' : undefined;
  }

  /** Texts that could not even be searched for names: what they show is not known. */
  unsearched: SitePath[];

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
  private nextScan: Promise<ScanResult> | undefined;

  /**
   * Does something that nothing may come between: no scan and no other change.
   * @param work gets the scan to be used within; `after`: what is found is stored only when this has come to its end,
   * however it ends
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
      if (leave !== undefined) await this.ledger.leaveAsIs(leave);
      const told = await this.ledger.recover();
      if (told.length > 0 || leave !== undefined) this.disconnect();
      if (this.surveyed) await scan();
      return told;
    });
  }

  /**
   * What we have moved or written ourselves need not be read again: all that is known of it goes to its new place.
   * @param written new facts of pages, by path
   */
  async follow(steps: readonly FileStep[], written: ReadonlyMap<SitePath, FileFacts>): Promise<void> {
    const moved: { from: SitePath; to: SitePath; facts: FileFacts }[] = [];
    await each(steps, breathe, (step) => {
      if (step.do !== 'move') return;
      const facts = this.files.get(step.from);
      if (facts?.sha256 === step.sha256) moved.push({ from: step.from, to: step.to, facts });
    });
    await this.claim(steps);
    if (moved.length > 0 || written.size > 0) this.disconnect();
    const now = [...written.values()];
    await each(moved, breathe, ({ to, facts }) => now.push({ ...facts, path: to }));
    // At the new places first: in between, files would be at no place.
    await each(now, breathe, (facts) => this.files.set(facts.path, facts));
    const taken = await setOf(now, breathe, (facts) => facts.path);
    await each(moved, breathe, ({ from }) => taken.has(from) || this.files.delete(from));
    // Stored in slices: what a scan has found is only kept to save reading it again, so a part of it is no harm.
    const slices = async <One>(all: readonly One[], store: (one: One) => void) => {
      for (let at = 0; at < all.length; at += FOLLOWED) {
        await breathe();
        this.db.transaction(() => all.slice(at, at + FOLLOWED).forEach(store))();
      }
    };
    await slices(moved, ({ from }) => this.fileRows.remove(from));
    await slices(now, (facts) => this.fileRows.save(facts));
  }

  /** What these steps write was not written by others. */
  private claim(steps: readonly FileStep[]): Promise<void> {
    return each(steps, breathe, (step) => {
      const sha256 = step.do === 'write' ? step.after : step.do === 'create' ? step.sha256 : null;
      if (sha256 !== null) this.own.add(sha256);
      if (step.do === 'create') this.own.add(madeAt(step.path, step.sha256));
    });
  }
  /** Bytes that plans have written since the start, or just before it; and where they have made files. */
  private readonly own = new Set<string>();

  private async scanNow(
    progress: (done: number, total: number, what: string) => void = () => {},
    after?: Promise<unknown>,
    again = !this.surveyed,
  ): Promise<ScanResult> {
    const whole = !this.connected;
    const survey = await surveySite({
      root: this.folder.root,
      dataFolder: this.leftOut,
      pool: this.pool,
      known: this.files,
      reconnect: whole,
      again,
      brought: this.items.brought(),
      layout: this.layout.get(),
      ...(this.surveyed ? { site: this.map } : {}),
      onProgress: ({ phase, done, total }) => progress(done, total, PHASES[phase]),
    });
    await Promise.allSettled([after]);
    const differs = whole || survey.changed.size > 0 || survey.removed.size > 0;
    const emptied = survey.empty.join('\n') !== this.emptyFolders.join('\n');
    if (differs) {
      this.disconnect();
      try {
        await storeSurvey(
          {
            db: this.db,
            files: this.fileRows,
            references: this.references,
            items: this.items,
            widths: this.widths,
            families: this.families,
            own: this.own,
          },
          survey,
          // While a change has stopped half way, the records are not made to follow the files: they are what it has left.
          { whole, held: this.ledger.unsettled.length > 0 },
        );
      } catch (error) {
        // What was stored of it is what is known; the next scan stores the rest.
        this.files = this.fileRows.load();
        throw error;
      }
    }
    this.map = survey.site;
    this.surveyed = true;
    this.files = survey.files;
    this.unreadableFiles = survey.unreadable;
    this.folderPaths = new Set(survey.folders);
    this.emptyFolders = survey.empty;
    if (differs) {
      const unsearched = this.fileRows.unsearched();
      this.state.setConnected(true, unsearched.length === 0);
      this.connected = true;
      // What was told of the use of items depends on it.
      if (this.unsearched.join('\n') !== unsearched.join('\n'))
        await this.findings.uncheck("use <> 'placed'");
      this.unsearched = unsearched;
    }
    if (differs || emptied) {
      this.epoch++;
      this.tell();
    }
    return {
      changed: survey.changed.size,
      removed: survey.removed.size,
    };
  }

  async close(): Promise<void> {
    await this.lock.settled();
    await this.jobs.settled();
    await this.metadata.close();
    await this.matching.close();
    await this.checks.close();
    await this.reader.close();
    await this.hands.close();
    await this.checkpoints.close();
    if (this.ownsPool) await this.pool.close();
    try {
      this.db.close();
    } finally {
      this.release();
    }
  }
}

/** So many facts of files are stored between two breaths of the server's thread. */
const FOLLOWED = 100;
const PHASES = { listing: 'files listed', reading: 'files read', searching: 'texts searched' } as const;
