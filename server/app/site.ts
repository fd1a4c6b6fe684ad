import type { MetadataTool } from '../media/metadata.ts';
import type { PlanBytes } from '../changes/plan-bytes.ts';
import type { Ledger } from '../changes/ledger.ts';
import type { Scanner } from '../scan/scanner.ts';
import type { SiteIndex } from '../scan/site-index.ts';
import type { SiteFolder } from '../files/site-folder.ts';
import type { Access } from '../people/access.ts';
import type { Alikes } from '../db/alikes.ts';
import type { ArrivalRows } from '../db/arrivals.ts';
import type { Blobs } from '../files/blobs.ts';
import type { DataPaths } from '../files/data-paths.ts';
import type { Care } from '../db/care.ts';
import type { Comments } from '../db/comments.ts';
import type { Contents } from '../db/contents.ts';
import type { Db } from '../db/database.ts';
import type { Families } from '../db/families.ts';
import type { Findings } from '../db/findings.ts';
import type { ItemFinder } from '../db/item-finder.ts';
import type { ItemNames } from '../db/item-names.ts';
import type { ItemRecords } from '../db/item-records.ts';
import type { Items } from '../db/items.ts';
import type { Layout } from '../db/layout.ts';
import type { LedgerRows } from '../db/ledger.ts';
import type { Live } from '../db/live.ts';
import type { Members } from '../db/members.ts';
import type { People } from '../db/people.ts';
import type { Reader } from '../db/reader.ts';
import type { References } from '../db/references.ts';
import type { Rules } from '../db/rules.ts';
import type { BankOrders } from '../db/bank-orders.ts';
import type { SavedQueries } from '../db/saved-queries.ts';
import type { ServiceSettings } from '../db/service-settings.ts';
import type { SiteState } from '../db/site-state.ts';
import type { Settings } from '../db/settings.ts';
import type { ShownWidths } from '../db/shown-widths.ts';
import type { Submissions } from '../db/submissions.ts';
import type { SuggestedTags } from '../db/suggested-tags.ts';
import type { UnsavedTexts } from '../db/unsaved-texts.ts';
import type { Tags } from '../db/tags.ts';
import type { NamePatterns, OwnFields, Treatments } from '../db/vocabulary.ts';
import type { Jobs } from '../workers/jobs.ts';
import type { Pool } from '../workers/pool.ts';
import type { Events } from './events.ts';

/**
 * What there is of an opened site: its folder, its tables and who reads and changes them. Made by open-site.ts, and nowhere else; it does
 * nothing by itself. What works on it stands in opened-site.ts.
 */
export interface Site {
  readonly folder: SiteFolder;
  /** Where everything lies in its data folder. */
  readonly data: DataPaths;
  readonly blobs: Blobs;
  /** New bytes of plans that are computed or at hand. */
  readonly planBytes: PlanBytes;

  /** What is known of its files, and who reads and changes them. */
  readonly index: SiteIndex;
  readonly scanner: Scanner;
  readonly ledger: Ledger;

  /** Tables, one service each. */
  readonly db: Db;
  readonly reader: Reader;
  readonly items: Items;
  readonly finder: ItemFinder;
  readonly records: ItemRecords;
  readonly itemNames: ItemNames;
  readonly families: Families;
  readonly references: References;
  readonly contents: Contents;
  readonly alikes: Alikes;
  readonly arrivals: ArrivalRows;
  readonly rows: LedgerRows;
  readonly submissions: Submissions;
  readonly comments: Comments;
  readonly people: People;
  readonly members: Members;
  readonly access: Access;
  readonly findings: Findings;
  readonly care: Care;
  readonly widths: ShownWidths;
  readonly live: Live;
  /** What people have set; all of it changes by plans. */
  readonly settings: Settings;
  readonly rules: Rules;
  readonly layout: Layout;
  readonly tags: Tags;
  readonly savedQueries: SavedQueries;
  readonly bankOrders: BankOrders;
  readonly serviceSettings: ServiceSettings;
  readonly siteState: SiteState;
  readonly suggestedTags: SuggestedTags;
  readonly unsavedTexts: UnsavedTexts;
  readonly namePatterns: NamePatterns;
  readonly treatments: Treatments;
  readonly ownFields: OwnFields;

  /** Work beside the server's thread. */
  readonly pool: Pool;
  readonly jobs: Jobs;
  readonly metadata: MetadataTool;

  readonly events: Events;
  /** Places and serial numbers stay in files that come in, unless a person takes them out. */
  readonly keepPrivate: boolean;
  /** ISO 8601, UTC. */
  readonly now: () => string;
}
