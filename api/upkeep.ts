import { z } from 'zod';
import { KINDS } from '../core/address/kinds.ts';
import { RELATIONS } from '../core/picture/alike.ts';

import { KEEPER_RULES, type KeeperRule } from '../core/upkeep/keeper.ts';
import { idsUpTo } from '../core/plan/ids.ts';
import { ItemView } from './items.ts';
import { CheckNames, ItemChecks } from '../core/upkeep/schema.ts';

export { CheckNames, ItemChecks };

const care = {
  items: z.int(),
  bytes: z.int(),
  described: z.int(),
  named: z.int(),
  filed: z.int(),
  placed: z.int(),
};

/** Items of which at least one check of a group says something. */
const Troubled = z.object({ doubles: z.int(), weight: z.int(), rights: z.int(), files: z.int() });

/** How the library is, and what is to be done. */
export const Overview = z.object({
  /** Items of which the checks are not made yet. */
  unchecked: z.int(),
  care: z.object({ ...care, troubled: Troubled }),
  /** How it stood on earlier days, the first of them first; the last is today's. What was not kept on a day is null. */
  history: z.array(z.object({ day: z.string(), ...care, troubled: Troubled.nullable() })),
  checks: z.array(
    z.object({
      name: CheckNames,
      found: z.int(),
      /** Weight of the items, and what could be saved, about. */
      bytes: z.int(),
      saves: z.int(),
      /** Found since the person looked last. */
      fresh: z.int(),
    }),
  ),
  /** Weight that could be freed: copies beyond one of each, unused items, pixels that nobody sees. */
  freeable: z.int(),
  byKind: z.array(z.object({ kind: z.enum(KINDS), items: z.int(), bytes: z.int() })),
  byFolder: z.array(z.object({ folder: z.string(), items: z.int(), bytes: z.int() })),
  byMonth: z.array(z.object({ month: z.string(), items: z.int(), bytes: z.int(), unused: z.int() })),
  aside: z.object({ items: z.int(), bytes: z.int(), over: z.int(), days: z.int() }),
  dismissed: z.int(),
  /** When the person looked last; null: never before. And what was changed since, by title. */
  lastLook: z.string().nullable(),
  entriesSince: z.int(),
});
export type Overview = z.infer<typeof Overview>;

/** Days within which an unused item is taken to be new: somebody may be about to use it. */
export const NEW_DAYS = 30;
export const FindingsQuery = z.strictObject({
  check: ItemChecks,
  /** Of unused items: only those that were added earlier than so many days ago; 0: all. */
  age: z.coerce.number().int().min(0).max(3650).default(NEW_DAYS),
  limit: z.coerce.number().int().min(1).max(500).default(200),
  offset: z.coerce.number().int().min(0).default(0),
});
export const FindingList = z.object({
  total: z.int(),
  /** Weight of all of them, and what could be saved, about. */
  bytes: z.int(),
  saves: z.int(),
  /** Unused items that are not among them, as they were added too lately. */
  younger: z.int(),
  findings: z.array(
    z.object({
      item: ItemView,
      why: z.string(),
      saves: z.int(),
      since: z.string(),
      /** Titles of pages that show it, at most three. */
      pages: z.array(z.string()),
      /** Of a record without file: files with its bytes. */
      twins: z.array(z.string()),
      /** Of an unused one: what else has to do with it, in sentences. */
      depends: z.array(z.string()),
    }),
  ),
});
export type FindingList = z.infer<typeof FindingList>;

export const GroupsQuery = z.strictObject({
  check: z.enum(['copies', 'look-alikes']),
  rule: z.enum(Object.keys(KEEPER_RULES) as [KeeperRule, ...KeeperRule[]]).default('placed'),
  folder: z.string().max(2000).default(''),
});
export const DoubleGroup = z.object({
  keeperId: z.int().nullable(),
  reason: z.string(),
  members: z.array(
    z.object({
      item: ItemView,
      /** How it is related to the first one; null: it is that, or has its bytes. */
      relation: z.enum(RELATIONS).nullable(),
      sure: z.number(),
      /** Sizes of it that belong to it. */
      sizes: z.int(),
      /** Titles of pages that show it, at most three. */
      pages: z.array(z.string()),
      /** Names of texts that mention it. */
      mentions: z.int(),
    }),
  ),
});
export const DoubleGroups = z.array(DoubleGroup);
export type DoubleGroup = z.infer<typeof DoubleGroup>;

export const TagFindings = z.object({
  near: z.array(z.object({ name: z.string(), items: z.int(), to: z.string(), why: z.string() })),
  lone: z.array(z.object({ name: z.string(), items: z.int() })),
});
export type TagFindings = z.infer<typeof TagFindings>;

/** How many redirects the site keeps, and the lines of their file that are none. */
export const RedirectsView = z.object({
  count: z.int(),
  faults: z.array(z.object({ line: z.int(), text: z.string(), why: z.string() })),
});
export type RedirectsView = z.infer<typeof RedirectsView>;

export const RedirectFindings = z.array(
  z.object({
    from: z.string(),
    to: z.string(),
    check: CheckNames,
    why: z.string(),
    better: z.string().nullable(),
  }),
);
export type RedirectFindings = z.infer<typeof RedirectFindings>;

export const Dismissed = z.array(
  z.object({
    name: CheckNames,
    subject: z.string(),
    reason: z.string(),
    person: z.string(),
    at: z.string(),
    past: z.boolean(),
    item: ItemView.nullable(),
  }),
);
export type Dismissed = z.infer<typeof Dismissed>;

/** Pages whose images have not been measured since they, or a style sheet, changed; and how many have been. */
export const ToMeasure = z.object({
  measured: z.int(),
  pages: z.array(z.object({ path: z.string(), title: z.string(), look: z.string() })),
});
export type ToMeasure = z.infer<typeof ToMeasure>;

/** How wide a browser drew the images of a page at most, in CSS pixels, by the byte offsets of their addresses. */
export const MeasuredPage = z.strictObject({
  page: z.string().max(2000),
  shown: z.array(z.strictObject({ start: z.int().min(0), wide: z.int().min(1).max(100_000) })).max(20_000),
});

/** What making a sample of items lighter really saved. */
export const Estimate = z.object({
  sampled: z.int(),
  of: z.int(),
  before: z.int(),
  after: z.int(),
  saves: z.int(),
});
export type Estimate = z.infer<typeof Estimate>;

/** Emptying: what is set aside is lost for good. The number is typed by hand. */
export const EmptyRequest = z.strictObject({
  itemIds: idsUpTo(100_000),
  typed: z.string().max(20),
});
export const Emptied = z.object({ entryId: z.int(), items: z.int(), bytes: z.int() });
export type Emptied = z.infer<typeof Emptied>;

const Part = z.object({ x: z.number(), y: z.number(), w: z.number(), h: z.number() });
/** Where two images differ that show the same (core/picture/difference); null: they show different things. */
export const DifferingView = z
  .object({
    window: Part.optional(),
    share: z.number(),
    lighter: z.number(),
    marks: z.array(z.object({ one: Part, other: Part })),
    exchanged: z.boolean(),
    orientation: z.int(),
  })
  .nullable();
export type DifferingView = z.infer<typeof DifferingView>;
