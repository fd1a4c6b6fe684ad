import { z } from 'zod';
import { KINDS } from '../core/address/kinds.ts';
import { readQuery } from '../core/find/query.ts';
import { SORTS } from '../core/find/sorts.ts';
import { takes } from '../core/find/tests.ts';
import { ITEM_STATES } from '../core/plan/plan.ts';
import { USES } from '../core/reference/survey.ts';

const text = (longest: number) => z.string().max(longest);

/** The texts of a record. */
export const Words = z.object({
  alt: text(2000),
  decorative: z.boolean(),
  title: text(500),
  caption: text(5000),
  description: text(20000),
  creator: text(500),
  credit: text(500),
  copyright: text(500),
  source: text(1000),
  licence: text(500),
  licenceEnd: z.union([z.literal(''), z.iso.date()]),
  tags: z.array(text(80)).max(200),
});
export type Words = z.infer<typeof Words>;

export const Marks = z.object({
  described: z.boolean(),
  named: z.boolean(),
  filed: z.boolean(),
  placed: z.boolean(),
});
export type Marks = z.infer<typeof Marks>;

export const ItemView = z.object({
  id: z.int(),
  path: z.string(),
  folder: z.string(),
  name: z.string(),
  state: z.enum(ITEM_STATES),
  kind: z.enum(KINDS),
  mime: z.string(),
  bytes: z.int(),
  sha256: z.string(),
  /** ThumbHash of how it looks, base64: shown until its small picture has come. Null: not computed, or nothing to see. */
  placeholder: z.string().nullable(),
  width: z.int().nullable(),
  height: z.int().nullable(),
  duration: z.number().nullable(),
  unreadable: z.string().nullable(),
  addedAt: z.string(),
  addedBy: z.string().nullable(),
  originalName: z.string().nullable(),
  asideAt: z.string().nullable(),
  placements: z.int(),
  use: z.enum(USES),
  rowVersion: z.int(),
  changedAt: z.string().nullable(),
  changedBy: z.string().nullable(),
  owner: z.string().nullable(),
  words: Words,
  marks: Marks,
});
export type ItemView = z.infer<typeof ItemView>;

const flag = z.enum(['0', '1']).transform((value) => value === '1');

/** The address bar's query, and that of GET /api/items. */
export const ItemQuery = z.object({
  state: z.enum(ITEM_STATES).default('here'),
  folder: z.string().optional(),
  below: flag.default(true),
  /** What one change of the Ledger touched. */
  entry: z.coerce.number().int().optional(),
  q: z.string().max(500).default(''),
  /** Conditions, as core/find/query writes them. */
  where: z
    .string()
    .max(8000)
    .default('')
    .transform((text, context) => {
      try {
        return readQuery(text, takes);
      } catch (error) {
        context.addIssue((error as Error).message);
        return z.NEVER;
      }
    }),
  sort: z.enum(SORTS).default('name'),
  turned: flag.default(false),
  offset: z.coerce.number().int().min(0).default(0),
  limit: z.coerce.number().int().min(1).max(500).default(200),
});
export type ItemQuery = z.infer<typeof ItemQuery>;

/** Ids in an address: '3,14,15'. */
export const ItemIds = z.object({
  ids: z
    .string()
    .regex(/^\d{1,12}(,\d{1,12}){0,499}$/)
    .transform((text) => text.split(',').map(Number)),
});

const manyIds = z.array(z.int()).min(1).max(200_000);
export const ManyItems = z.object({ ids: manyIds });
export const ItemSum = z.object({ items: z.int(), bytes: z.int() });
export const TagCounts = z.array(z.object({ name: z.string(), items: z.int() }));
export type TagCounts = z.infer<typeof TagCounts>;

/** How addresses are copied: bare, or ready to be put on a page. */
export const AddressForm = z.enum(['plain', 'html', 'markdown']);
export type AddressForm = z.infer<typeof AddressForm>;
export const AddressRequest = z.object({ ids: manyIds.max(5000), form: AddressForm });

/** A query kept under a name; `query` as in the address bar, `items` as of now. */
export const SavedQuery = z.object({
  id: z.int(),
  name: z.string(),
  query: z.string(),
  person: z.string(),
  items: z.int(),
});
export type SavedQuery = z.infer<typeof SavedQuery>;
export const KeepQuery = z.object({ name: z.string().trim().min(1).max(80), query: z.string().max(10_000) });

/** Counts of choices, by test. */
export const FacetsView = z.record(z.string(), z.array(z.object({ value: z.string(), items: z.int() })));
export type FacetsView = z.infer<typeof FacetsView>;

export const ItemList = z.object({ total: z.int(), bytes: z.int(), items: z.array(ItemView) });
export type ItemList = z.infer<typeof ItemList>;

export const PlacementView = z.object({
  page: z.string(),
  pageTitle: z.string(),
  line: z.int(),
  place: z.string(),
  url: z.string(),
  alt: z.string().nullable(),
  hasAlt: z.boolean(),
  before: z.string(),
  after: z.string(),
});
export type PlacementView = z.infer<typeof PlacementView>;

export const ItemDetail = z.object({
  item: ItemView,
  address: z.string(),
  placements: z.array(PlacementView),
  mentions: z.array(z.object({ page: z.string(), line: z.int() })),
  copies: z.array(z.object({ id: z.int(), path: z.string() })),
  nameFaults: z.array(z.string()),
  cleanName: z.string(),
  /** What was computed from its bytes; null: not yet. */
  content: z
    .object({
      colours: z.array(z.string()),
      frames: z.int(),
      pages: z.int().nullable(),
      codecs: z.string(),
      profile: z.string().nullable(),
      takenAt: z.string().nullable(),
      notes: z.array(z.string()),
      excerpt: z.string(),
    })
    .nullable(),
  /** What was sent is kept off the site, beside this smaller copy. */
  hasOriginal: z.boolean(),
});
export type ItemDetail = z.infer<typeof ItemDetail>;

export const SaveWords = z.object({ rowVersion: z.int(), words: Words.partial() });
export type SaveWords = z.infer<typeof SaveWords>;

export const FolderView = z.object({ folder: z.string(), items: z.int() });
export type FolderView = z.infer<typeof FolderView>;

export const PageView = z.object({
  path: z.string(),
  title: z.string(),
  unread: z.string().nullable(),
  placements: z.int(),
  items: z.int(),
  missingAlt: z.int(),
  broken: z.int(),
  bytes: z.int(),
});
export type PageView = z.infer<typeof PageView>;

export const PageDetail = z.object({
  shown: z.array(
    z.object({
      itemId: z.int(),
      path: z.string(),
      line: z.int(),
      place: z.string(),
      alt: z.string().nullable(),
      hasAlt: z.int(),
    }),
  ),
  broken: z.array(z.object({ line: z.int(), url: z.string(), near: z.string().nullable() })),
});
export type PageDetail = z.infer<typeof PageDetail>;
