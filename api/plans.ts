import { z } from 'zod';
import { PlanRequest } from '../core/plan/kinds/index.ts';
import { PLAN_KINDS } from '../core/plan/verbs.ts';

export { PlanRequest };

const ImageFacts = z.object({
  width: z.int(),
  height: z.int(),
  bytes: z.int(),
  mime: z.string(),
  sha256: z.string().optional(),
});
const Totals = z.object({ items: z.int(), pages: z.int(), spans: z.int(), bytesFreed: z.int() });

/** A plan as it is shown: what it does to the site, without the bytes. */
export const PlanView = z.object({
  id: z.string(),
  kind: z.enum(PLAN_KINDS),
  title: z.string(),
  moves: z.array(z.object({ from: z.string(), to: z.string() })),
  removed: z.array(z.string()),
  created: z.array(z.string()),
  /** Folders, rules, how tags belong together, kept queries. */
  settings: z.array(z.object({ what: z.string(), before: z.string(), after: z.string() })),
  records: z.array(
    z.object({
      path: z.string(),
      fields: z.array(z.object({ field: z.string(), before: z.string(), after: z.string() })),
    }),
  ),
  pages: z.array(
    z.object({
      page: z.string(),
      changes: z.array(
        z.object({ line: z.int(), place: z.string(), oldUrl: z.string(), newUrl: z.string() }),
      ),
    }),
  ),
  /** The first of the items that come to the site, leave it or are set aside: to be looked at. Not of a plan of the past. */
  seen: z.array(
    z.object({ id: z.int(), path: z.string(), sha256: z.string(), kind: z.string(), alt: z.string() }),
  ),
  /** Images that are made anew. */
  images: z.array(
    z.object({
      itemId: z.int().optional(),
      path: z.string(),
      to: z.string().optional(),
      before: ImageFacts,
      after: ImageFacts,
      notes: z.array(z.string()),
    }),
  ),
  clashes: z.array(z.object({ path: z.string(), why: z.string() })),
  warnings: z.array(z.string()),
  redirects: z.array(z.object({ from: z.string(), to: z.string(), was: z.string().optional() })),
  /** So many more of each are not shown here. */
  more: z.object({
    clashes: z.int(),
    moves: z.int(),
    removed: z.int(),
    created: z.int(),
    settings: z.int(),
    records: z.int(),
    pages: z.int(),
    /** Places within pages. */
    changes: z.int(),
  }),
  totals: Totals,
  empty: z.boolean(),
  /** The entry that cannot be undone by itself, and how many later changes would be undone with it. */
  together: z.object({ entryId: z.int(), later: z.int() }).nullable(),
  /** Who has to approve it: 'an editor or a steward'; '': this person may apply it. */
  approval: z.string().default(''),
});
export type PlanView = z.infer<typeof PlanView>;

/** What the person wants to be remembered with a change. */
export const ApplyRequest = z.strictObject({ note: z.string().trim().max(500).default('') });
export const NoteRequest = ApplyRequest;
/** What a person says to those who approve. */
export const SubmitRequest = ApplyRequest;

export const Applied = z.object({ entryId: z.int(), title: z.string(), totals: Totals });
export type Applied = z.infer<typeof Applied>;

export const BroughtIn = Applied.omit({ entryId: true, totals: true }).extend({
  /** Null: nothing new came to the site, as all of it was there already. */
  entryId: z.int().nullable(),
  totals: Applied.shape.totals.nullable(),
  itemIds: z.array(z.int()),
  used: z.array(z.int()),
});
export type BroughtIn = z.infer<typeof BroughtIn>;

export const EntryView = z.object({
  id: z.int(),
  at: z.string(),
  person: z.string(),
  kind: z.enum(PLAN_KINDS),
  title: z.string(),
  items: z.int(),
  pages: z.int(),
  bytes: z.int(),
  undoes: z.int().nullable(),
  undoneBy: z.int().nullable(),
  note: z.string(),
  /** Who approved what the person had proposed. */
  approver: z.string().nullable(),
  /** 'window', 'job', a token by its name; '': it wasn't noted. */
  via: z.string(),
});
export type EntryView = z.infer<typeof EntryView>;
