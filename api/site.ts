import { z } from 'zod';
import { Treatment } from '../core/picture/recipe/treatments.ts';
import { idsUpTo } from '../core/plan/ids.ts';
import { PersonView, RightName } from './people.ts';

export const SiteView = z.object({
  name: z.string(),
  folder: z.string(),
  /** Origin under which the site itself is served, apart from the application. */
  servedAt: z.string(),
  /** Folders whose contents are served from the site's root. */
  roots: z.array(z.string()),
  /** Nobody has said which these are: they are found out from where addresses lead. */
  rootsGuessed: z.boolean(),
  pages: z.int(),
  counts: z.object({
    items: z.int(),
    bytes: z.int(),
    aside: z.int(),
    asideBytes: z.int(),
    /** Drafts that this person may see. */
    drafts: z.int(),
    /** Proposals that wait for this person's approval, and those of theirs that were sent back. */
    toApprove: z.int(),
    sentBack: z.int(),
    unused: z.int(),
    mentioned: z.int(),
    undescribed: z.int(),
    /** Records whose file others have taken away. */
    missing: z.int(),
    /** Findings of Upkeep: unused items and exact copies. */
    cleanable: z.int(),
    broken: z.int(),
    arrivals: z.int(),
    entries: z.int(),
  }),
  /** Whether files may be fetched from other servers. */
  fetching: z.boolean(),
  /** Whether there is a service that suggests tags. */
  tagging: z.boolean(),
  /** Whether there is an image bank to search in. */
  imageBank: z.boolean(),
  /** Why it cannot be said now what nothing uses: the site is being read, or texts could not be read. */
  useUnknown: z.enum(['reading', 'unread']).nullable(),
  /** Texts that could not even be searched for names. */
  unsearched: z.array(z.string()),
  /** Changes that stopped half way: until they are settled, nothing else is changed. */
  unsettled: z.array(z.object({ entryId: z.int(), title: z.string(), why: z.string() })),
  unreadable: z.array(z.object({ path: z.string(), why: z.string() })),
  person: PersonView,
  /** What the person may do. */
  rights: z.array(RightName),
  /** What they may propose to others. */
  asks: z.array(RightName),
  people: z.array(PersonView),
  /** Whoever comes may be anyone. */
  demo: z.boolean(),
});
export type SiteView = z.infer<typeof SiteView>;

export const JobView = z.object({
  id: z.string(),
  kind: z.string(),
  title: z.string(),
  state: z.enum(['running', 'done', 'failed', 'cancelled']),
  done: z.int(),
  total: z.int(),
  what: z.string(),
  startedAt: z.string(),
  error: z.string().optional(),
});
export type JobView = z.infer<typeof JobView>;

/** What becomes of a change that stopped half way: it is tried again, or left as the files stand. */
export const SettleRequest = z.union([
  z.strictObject({ how: z.literal('again') }),
  z.strictObject({ how: z.literal('leave'), entryId: z.int() }),
]);
export type SettleRequest = z.infer<typeof SettleRequest>;
/** How many files a scan has read anew, and how many are gone. */
export const Scanned = z.object({ changed: z.int(), removed: z.int() });

export const Settled = z.object({ told: z.array(z.string()) });
export type Settled = z.infer<typeof Settled>;

/** What an export is: the files with a table, images and words on paper, or the whole library with all that is known of it. */
export const EXPORT_FORMS = ['files', 'contact-sheet', 'archive'] as const;
export type ExportForm = (typeof EXPORT_FORMS)[number];

/** How files are handed over: in their folders or all in one, with which table, and where what their records say is put, too. */
export const ExportOptions = z.strictObject({
  folders: z.enum(['kept', 'flat']).default('kept'),
  table: z.enum(['csv', 'jsonl', 'none']).default('csv'),
  words: z.enum(['in-table', 'inside', 'beside']).default('in-table'),
  /** How images are made anew for it; null: they go as they are. */
  treatment: Treatment.nullable().default(null),
});
export type ExportOptions = z.infer<typeof ExportOptions>;

export const ExportRequest = z.strictObject({
  /** Item ids, or 'all' for every item on the site. */
  itemIds: z.union([z.literal('all'), idsUpTo(100_000)]),
  form: z.enum(EXPORT_FORMS).default('files'),
  /** Of files. */
  options: ExportOptions.default({ folders: 'kept', table: 'csv', words: 'in-table', treatment: null }),
});
export type ExportRequest = z.infer<typeof ExportRequest>;

export const ExportView = z.object({
  id: z.int(),
  at: z.string(),
  person: z.string(),
  title: z.string(),
  items: z.int(),
  bytes: z.int(),
  form: z.enum(EXPORT_FORMS),
});
export type ExportView = z.infer<typeof ExportView>;

/** What every refused request answers. */
export const FaultView = z.object({
  code: z.string(),
  message: z.string(),
  remedy: z.string(),
  details: z.unknown().optional(),
});
export type FaultView = z.infer<typeof FaultView>;
