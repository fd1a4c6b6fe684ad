import { lstat, mkdir } from 'node:fs/promises';
import { join, resolve } from 'node:path';
import type { SitePath } from '../../core/address/path.ts';
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
import { openDatabase, type Db } from '../store/database.ts';
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
import { Fault } from '../fault.ts';
import { Checks } from '../upkeep/checks.ts';
import { Matching } from '../upkeep/matching.ts';
import { Jobs } from '../work/jobs.ts';
import { Pool } from '../work/pool.ts';
import { SiteFolder } from './folder.ts';
import { Hands } from './hands.ts';
import { breather, surveySite, type FileFacts, type Survey } from './survey.ts';

export interface SiteOptions {
  site: string;
  /** Default: .iconomos in the site's folder. */
  data?: string | undefined;
  now?: () => string;
  onStep?: (name: string) => void;
  /** Another data folder in the site's folder, that is no part of the site either. */
  without?: string;
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
  items: number;
}

/** One opened site: its folder, its data folder, and everything that works on them. */
export class Site {
  private files: Map<SitePath, FileFacts>;
  private map: SiteMap = new SiteMap([]);
  private lastScan: Promise<unknown> = Promise.resolve();
  private unreadableFiles: Survey['unreadable'] = [];
  /** Folders as of the last scan, and those in which nothing lies. */
  folderPaths: ReadonlySet<SitePath> = new Set();
  emptyFolders: readonly SitePath[] = [];
  /** A survey has been made since the start: what the map says is of it. */
  private surveyed = false;
  /** The folder in the site that is no part of it: where the data lie. */
  private leftOut = '';
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
    private readonly ownsPool: boolean,
    readonly keepPrivate: boolean,
  ) {
    this.files = fileRows.load();
    this.checking = new Checking(this);
    this.deriving = new Deriving(this);
    this.checks = new Checks(this);
    this.matching = new Matching(this, join(dataFolder, 'iconomos.db'));
  }

  static async open(options: SiteOptions): Promise<Site> {
    const folder = await SiteFolder.open(options.site);
    const dataFolder = options.data ? resolve(options.data) : join(folder.root, '.iconomos');
    if (!options.data) await refuseLink(dataFolder);
    for (const name of ['blobs', 'arrivals', 'thumbs', 'exports'])
      await mkdir(join(dataFolder, name), { recursive: true });
    const db = openDatabase(join(dataFolder, 'iconomos.db'));
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
    const findings = new Findings(db);
    const reader = new Reader(join(dataFolder, 'iconomos.db'));
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
      options.pool === undefined,
      options.keepPrivate ?? false,
    );
    opened.site.leftOut = options.without ?? dataFolder;
    // What was written last may not have been seen by a scan yet.
    const [last] = rows.list(1);
    for (const { plan } of [...rows.unfinished(), ...(last ? [rows.get(last.id)!] : [])])
      opened.site.claim(plan.files);
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

  /** How live sites show items is known anew: what they show is placed. */
  refreshUse(): void {
    this.items.refreshUse();
    for (const listener of this.listeners) listener();
  }

  /** The layout is another now: every address may lead elsewhere, and other files are pages and items. */
  relaid(): void {
    this.moved = true;
  }

  /**
   * Brings everything known in line with the folder; reads only files that changed. Scans run one after the other.
   * @param visible shows it as a job
   * @param after what is found is stored only when this has come to its end, however it ends
   */
  scan(visible = false, after?: Promise<unknown>): Promise<ScanResult> {
    const work = () =>
      visible
        ? this.jobs.run('scan', 'Reading the site', (job) => this.scanNow(job.progress, after))
        : this.scanNow(() => {}, after);
    const result = this.lastScan.then(work, work);
    this.lastScan = result.catch(() => undefined);
    return result;
  }

  /**
   * What we have moved or written ourselves need not be read again: all that is known of it goes to its new place.
   * @param written new facts of pages, by path
   */
  follow(steps: readonly FileStep[], written: ReadonlyMap<SitePath, FileFacts>): void {
    const moved = steps.flatMap((step) => {
      const facts = step.do === 'move' ? this.files.get(step.from) : undefined;
      return step.do === 'move' && facts?.sha256 === step.sha256 ? [{ step, facts }] : [];
    });
    this.claim(steps);
    if (moved.length > 0 || written.size > 0) this.moved = true;
    this.db.transaction(() => {
      for (const { step } of moved) {
        this.files.delete(step.from);
        this.fileRows.remove(step.from);
      }
      for (const facts of [
        ...moved.map(({ step, facts }) => ({ ...facts, path: step.to })),
        ...written.values(),
      ]) {
        this.files.set(facts.path, facts);
        this.fileRows.save(facts);
      }
    })();
  }

  /** What these steps write was not written by others. */
  private claim(steps: readonly FileStep[]): void {
    for (const step of steps) {
      const sha256 = step.do === 'write' ? step.after : step.do === 'create' ? step.sha256 : null;
      if (sha256 !== null) this.own.add(sha256);
    }
  }
  /** Bytes that plans have written since the start, or just before it. */
  private readonly own = new Set<string>();
  /** Files have other places, or pages other references, than at the last scan: every reference is resolved anew. */
  private moved = false;

  private async scanNow(
    progress: (done: number, total: number, what: string) => void,
    after?: Promise<unknown>,
  ): Promise<ScanResult> {
    const first = this.files.size === 0;
    const survey = await surveySite({
      root: this.folder.root,
      dataFolder: this.leftOut,
      pool: this.pool,
      known: this.files,
      reconnect: this.moved,
      brought: this.items.brought(),
      layout: this.layout.get(),
      ...(this.surveyed ? { site: this.map } : {}),
      onProgress: ({ phase, done, total }) => progress(done, total, PHASES[phase]),
    });
    await Promise.allSettled([after]);
    this.map = survey.site;
    this.surveyed = true;
    const moved = this.moved;
    this.moved = false;
    this.files = survey.files;
    this.unreadableFiles = survey.unreadable;
    const emptied = survey.empty.join('\n') !== this.emptyFolders.join('\n');
    this.folderPaths = new Set(survey.folders);
    this.emptyFolders = survey.empty;
    if (first || moved || survey.changed.size > 0 || survey.removed.size > 0) {
      await this.store(survey);
    }
    if (first || moved || emptied || survey.changed.size > 0 || survey.removed.size > 0) this.tell();
    return { changed: survey.changed.size, removed: survey.removed.size, items: this.items.counts().items };
  }

  /** Writes a survey to the database in small transactions, so that the server goes on answering between them. */
  private async store(survey: Survey): Promise<void> {
    const breathe = breather();
    await this.inBatches([...survey.changed], (path) => this.fileRows.save(survey.files.get(path)!), breathe);
    await this.inBatches([...survey.removed], (path) => this.fileRows.remove(path), breathe);
    const pages = [...survey.changed].filter((path) => survey.files.get(path)?.reading);
    const gone = [...survey.removed].filter((path) => /\.(?:x?html?|css)$/i.test(path));
    if (this.widths.measuredCount() > 0)
      await this.inBatches([...pages, ...gone], (path) => this.widths.forget(path), breathe);
    await this.inBatches(
      [...survey.placements],
      ([page, placements]) => this.references.replacePlacements(page, placements),
      breathe,
    );
    await this.inBatches(
      [...survey.mentions],
      ([page, mentions]) => this.references.replaceMentions(page, mentions),
      breathe,
    );
    await this.reconcileItems(survey, breathe);
    this.db.transaction(() => {
      this.items.refreshUse();
      if (this.fileRows.markRead()) this.items.checkNames('');
    })();
  }

  private async inBatches<Value>(
    values: readonly Value[],
    each: (value: Value) => void,
    breathe: () => Promise<void> | undefined,
  ) {
    for (let at = 0; at < values.length; at += 50) {
      this.db.transaction(() => values.slice(at, at + 50).forEach(each))();
      await breathe();
    }
  }

  /** Items follow their files: new ones get a record, changed ones new facts, moved ones keep their record. */
  private async reconcileItems(survey: Survey, breathe: () => Promise<void> | undefined): Promise<void> {
    const gone = [...survey.removed]
      .map((path) => this.items.atPath(path))
      .filter((item) => item !== undefined);
    const goneByHash = new Map(gone.map((item) => [item.sha256, item]));
    const read = [...survey.changed].map((path) => survey.files.get(path)!);
    const changed = read.filter((facts) => facts.item);
    // A file may be an item no longer although it lies there: the layout says now where media lie.
    for (const { path } of read.filter((facts) => !facts.item)) {
      const item = this.items.atPath(path);
      if (item) this.items.setPlace(item.id, path, 'absent');
    }
    const follow = (facts: FileFacts) => {
      const { path } = facts;
      const item = this.items.atPath(path);
      if (item) {
        const byOthers = item.sha256 !== '' && item.sha256 !== facts.sha256 && !this.own.has(facts.sha256);
        this.items.setFacts(item.id, facts, byOthers);
        return;
      }
      const movedFrom = goneByHash.get(facts.sha256);
      if (movedFrom) {
        this.items.setPlace(movedFrom.id, path, 'here');
        goneByHash.delete(facts.sha256);
        gone.splice(gone.indexOf(movedFrom), 1);
        return;
      }
      const addedAt = new Date(facts.mtimeMs).toISOString();
      this.items.add({ path, state: 'here', facts, addedAt, addedBy: null, originalName: null });
    };
    await this.inBatches(changed, follow, breathe);
    await this.inBatches(gone, (item) => this.items.setPlace(item.id, item.path, 'absent', true), breathe);
  }

  async close(): Promise<void> {
    await this.lastScan;
    await this.jobs.settled();
    await this.metadata.close();
    await this.matching.close();
    await this.checks.close();
    await this.reader.close();
    await this.hands.close();
    if (this.ownsPool) await this.pool.close();
    this.db.close();
  }
}

/** The default data folder lies in the site: as a link it would make us write wherever the site points. */
async function refuseLink(dataFolder: string): Promise<void> {
  const found = await lstat(dataFolder).catch((error: NodeJS.ErrnoException) => {
    if (error.code === 'ENOENT') return undefined;
    throw error;
  });
  if (found?.isSymbolicLink()) {
    throw new Fault(
      'outside',
      'The folder .iconomos in the site is a link to somewhere else.',
      'Remove the link, or name the data folder with --data.',
    );
  }
}

const PHASES = { listing: 'files listed', reading: 'files read', searching: 'texts searched' } as const;
