import { z } from 'zod';
import { PLAN_KINDS } from '../core/plan/plan.ts';
import { Words } from './items.ts';

const Totals = z.object({ items: z.int(), pages: z.int(), spans: z.int(), bytesFreed: z.int() });

/** A plan as it is shown: what it does to the site, without the bytes. */
export const PlanView = z.object({
  id: z.string(),
  kind: z.enum(PLAN_KINDS),
  title: z.string(),
  moves: z.array(z.object({ from: z.string(), to: z.string() })),
  removed: z.array(z.string()),
  created: z.array(z.string()),
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
  clashes: z.array(z.object({ path: z.string(), why: z.string() })),
  warnings: z.array(z.string()),
  redirects: z.array(z.object({ from: z.string(), to: z.string() })),
  /** So many more of each are not shown here. */
  more: z.object({ moves: z.int(), removed: z.int(), created: z.int(), records: z.int(), pages: z.int() }),
  totals: Totals,
  empty: z.boolean(),
});
export type PlanView = z.infer<typeof PlanView>;

const ids = z.array(z.int()).min(1).max(100_000);
const tags = z.array(z.string().min(1).max(80)).max(50).optional();

/** What to plan. */
export const PlanRequest = z.discriminatedUnion('kind', [
  z.object({
    kind: z.literal('address'),
    itemId: z.int(),
    folder: z.string().max(2000),
    name: z.string().max(255),
  }),
  z.object({
    kind: z.literal('records'),
    itemIds: ids,
    set: Words.omit({ tags: true }).partial().optional(),
    addTags: tags,
    removeTags: tags,
    owner: z.string().max(200).nullable().optional(),
  }),
  z.object({ kind: z.literal('move'), itemIds: ids, folder: z.string().max(2000) }),
  /** A folder's own address: all within goes along. Where the new one is there already, both become one. */
  z.object({ kind: z.literal('folder'), folder: z.string().min(1).max(2000), to: z.string().max(2000) }),
  /** A tag's name; where the new one is there already, both become one. Null: it is taken off every item. */
  z.object({ kind: z.literal('tag'), tag: z.string().min(1).max(80), to: z.string().max(80).nullable() }),
  z.object({ kind: z.literal('set-aside'), itemIds: ids }),
  z.object({ kind: z.literal('restore'), itemIds: ids }),
  z.object({ kind: z.literal('undo'), entryId: z.int() }),
]);
export type PlanRequest = z.infer<typeof PlanRequest>;

export const Applied = z.object({ entryId: z.int(), title: z.string(), totals: Totals });
export type Applied = z.infer<typeof Applied>;

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
});
export type EntryView = z.infer<typeof EntryView>;
