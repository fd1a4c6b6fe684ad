import { chmod } from 'node:fs/promises';
import { Checking } from '../intake/checking.ts';
import { Analyser } from '../media/analyser.ts';
import { MetadataTool } from '../media/metadata.ts';
import { PlanBytes } from '../changes/plan-bytes.ts';
import { FileChanges } from '../changes/file-changes.ts';
import { RecordChanges } from '../changes/record-changes.ts';
import { Ledger } from '../changes/ledger.ts';
import { Scanner } from '../scan/scanner.ts';
import { SiteIndex } from '../scan/site-index.ts';
import { refusePublic, takeDataFolder } from '../files/data-folder.ts';
import type { DataPaths } from '../files/data-paths.ts';
import { SiteFolder } from '../files/site-folder.ts';
import { FileWriter } from '../files/file-writer.ts';
import { Alikes } from '../db/alikes.ts';
import { ArrivalRows } from '../db/arrivals.ts';
import { BlobFolder } from '../files/blobs.ts';
import { Care } from '../db/care.ts';
import { Checkpoints } from '../db/checkpoints.ts';
import { Comments } from '../db/comments.ts';
import { Contents } from '../db/contents.ts';
import { openDatabase } from '../db/open.ts';
import type { Db } from '../db/database.ts';
import { Families } from '../db/families.ts';
import { Files } from '../db/files.ts';
import { Findings } from '../db/findings.ts';
import { ItemFinder } from '../db/item-finder.ts';
import { ItemNames } from '../db/item-names.ts';
import { ItemRecords } from '../db/item-records.ts';
import { ItemUse } from '../db/item-use.ts';
import { Items } from '../db/items.ts';
import { Layout } from '../db/layout.ts';
import { LedgerRows } from '../db/ledger.ts';
import { Live } from '../db/live.ts';
import { Members } from '../db/members.ts';
import { People } from '../db/people.ts';
import { Access } from '../people/access.ts';
import { Reader } from '../db/reader.ts';
import { References } from '../db/references.ts';
import { Rules } from '../db/rules.ts';
import { BankOrders } from '../db/bank-orders.ts';
import { SavedQueries } from '../db/saved-queries.ts';
import { Settings } from '../db/settings.ts';
import { Submissions } from '../db/submissions.ts';
import { ShownWidths } from '../db/shown-widths.ts';
import { ServiceSettings } from '../db/service-settings.ts';
import { SiteState } from '../db/site-state.ts';
import { SuggestedTags } from '../db/suggested-tags.ts';
import { UnsavedTexts } from '../db/unsaved-texts.ts';
import { Tags } from '../db/tags.ts';
import { NamePatterns, OwnFields, Treatments } from '../db/vocabulary.ts';
import { Checks } from '../upkeep/checks.ts';
import { Matching } from '../upkeep/matching.ts';
import { Jobs } from '../workers/jobs.ts';
import { Pool } from '../workers/pool.ts';
import { Events } from './events.ts';
import type { OpenedSite } from './opened-site.ts';
import type { Site } from './site.ts';

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

/**
 * Opens a site: the only place where services are made, and told of each other.
 * @throws Fault 'no-site', 'data-folder', 'busy'
 */
export async function openSite(options: SiteOptions): Promise<OpenedSite> {
  const folder = await SiteFolder.open(options.site);
  const { data, release } = await takeDataFolder(folder.root, options.data, options.tell ?? (() => {}));
  const db = await openOwn(folder.root, data).catch((error: unknown) => {
    release();
    throw error;
  });
  const now = options.now ?? (() => new Date().toISOString());
  const pool = options.pool ?? new Pool();
  const reader = new Reader(data.database, undefined, options.recounts);
  const jobs = new Jobs(now);
  const events = new Events();

  const people = new People(db);
  if (people.empty) people.seed(options.people ?? [{ name: 'Steward', role: 'steward' }], now());
  const access = new Access({ db, people, events, now });
  const members = new Members(db, people, access.log);
  const items = new Items(db);
  const records = new ItemRecords(db, items);
  const itemNames = new ItemNames(db);
  const rows = new LedgerRows(db);
  const references = new References(db);
  const families = new Families(db);
  const widths = new ShownWidths(db);
  const findings = new Findings(db, reader);
  const rules = new Rules(db);
  const layout = new Layout(db);
  const tags = new Tags(db);
  const savedQueries = new SavedQueries(db);
  const bankOrders = new BankOrders(db);
  const namePatterns = new NamePatterns(db);
  const treatments = new Treatments(db);
  const ownFields = new OwnFields(db);
  const comments = new Comments(db);
  const submissions = new Submissions(db);
  const siteState = new SiteState(db);
  const serviceSettings = new ServiceSettings(db);
  const suggestedTags = new SuggestedTags(db);
  const settings = new Settings({
    itemNames,
    rules,
    tags,
    queries: savedQueries,
    patterns: namePatterns,
    treatments,
    fields: ownFields,
    layout,
    findings,
    comments,
    members,
    submissions,
    services: serviceSettings,
    suggestedTags,
    siteState,
  });

  const blobs = new BlobFolder(data.blobs, data.arrivals);
  const planBytes = new PlanBytes(data.plans);
  const writer = new FileWriter({ root: folder.root, blobs: data.blobs, arrivals: data.arrivals });
  const fileRows = new Files(db);
  const index = new SiteIndex(fileRows, siteState, layout);
  const { onStep } = options;
  const ledger: Ledger = new Ledger({
    folder,
    files: new FileChanges({
      folder,
      writer,
      rows,
      // What the last scan read need not be hashed again, as long as the file's size and time are the same.
      known: (path) => index.factsOf(path),
      isKept: (sha256) => blobs.has(sha256),
      newBytes: (sha256) => planBytes.at(sha256),
      hash: (file) => pool.run('hash', { file }, { limit: 600_000 }),
      onStep,
    }),
    records: new RecordChanges({ db, rows, records, settings, now, onStep }),
    rows,
    forget: (steps) => scanner.forget(steps),
    now,
    onStep,
  });
  const scanner = new Scanner(
    index,
    { root: folder.root, leftOut: options.without ?? data.root, pool, layout },
    {
      db,
      files: fileRows,
      references,
      items,
      records,
      itemNames,
      itemUse: new ItemUse(db),
      widths,
      families,
    },
    ledger,
    findings,
    jobs,
    events,
  );
  const metadata = new MetadataTool();
  const checkpoints = new Checkpoints(db, data.database);

  const site: Site = {
    folder,
    data,
    blobs,
    planBytes,
    index,
    scanner,
    ledger,
    db,
    reader,
    items,
    finder: new ItemFinder(db, items),
    records,
    itemNames,
    families,
    references,
    contents: new Contents(db),
    alikes: new Alikes(db),
    arrivals: new ArrivalRows(db),
    rows,
    people,
    members,
    access,
    findings,
    care: new Care(db, reader),
    widths,
    live: new Live(db),
    settings,
    rules,
    layout,
    tags,
    savedQueries,
    bankOrders,
    serviceSettings,
    siteState,
    suggestedTags,
    unsavedTexts: new UnsavedTexts(db),
    submissions,
    comments,
    namePatterns,
    treatments,
    ownFields,
    pool,
    jobs,
    metadata,
    events,
    keepPrivate: options.keepPrivate ?? false,
    now,
  };
  const matching = new Matching(site, data.database);
  const analyser = new Analyser(site, matching);
  const checking = new Checking(site, matching);
  const checks = new Checks(site, analyser);

  await records.removeUnborn();
  await planBytes.empty();
  // What was written last may not have been seen by a scan yet.
  const [last] = rows.list(1);
  for (const { plan } of [...(await rows.unfinished()), ...(last ? [(await rows.read(last.id))!] : [])])
    await scanner.markOwnWrites(plan.files);
  return {
    ...site,
    checking,
    analyser,
    matching,
    checks,
    async close() {
      await scanner.settled();
      await jobs.settled();
      await metadata.close();
      await matching.close();
      await checks.close();
      await reader.close();
      await writer.close();
      await checkpoints.close();
      if (options.pool === undefined) await pool.close();
      try {
        db.close();
      } finally {
        release();
      }
    },
  };
}

/** The database of a data folder that nobody but its owner reads, and that no visitor of the site gets to see. */
async function openOwn(root: string, data: DataPaths): Promise<Db> {
  const db = openDatabase(data.database);
  try {
    const { public: said } = new Layout(db).get();
    refusePublic(root, data.root, said.length > 0 ? said : ['']);
    await chmod(data.database, 0o600);
    return db;
  } catch (error) {
    db.close();
    throw error;
  }
}
