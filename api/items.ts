import { z } from 'zod';
import { KINDS } from '../core/address/kinds.ts';
import { OwnFields, OwnFieldView, SomeWords, Words } from '../core/describe/schema.ts';
import { readQuery } from '../core/find/query.ts';
import { GROUPINGS, SORTS } from '../core/find/sorts.ts';
import { takes } from '../core/find/tests.ts';
import { ITEM_STATES, REVIEW_STATES } from '../core/plan/plan.ts';
import { idsUpTo } from '../core/plan/ids.ts';
import { SHOWN_USES } from '../core/reference/survey.ts';

export { OwnFields, OwnFieldView, SomeWords, Words };

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
  /** ThumbHash of how it looks, base64: shown until its small image has come. Null: not computed, or nothing to see. */
  placeholder: z.string().nullable(),
  width: z.int().nullable(),
  height: z.int().nullable(),
  duration: z.number().nullable(),
  unreadable: z.string().nullable(),
  addedAt: z.string(),
  addedBy: z.string().nullable(),
  originalName: z.string().nullable(),
  asideAt: z.string().nullable(),
  review: z.enum(REVIEW_STATES),
  due: z.string(),
  placements: z.int(),
  use: z.enum(SHOWN_USES),
  rowVersion: z.int(),
  changedAt: z.string().nullable(),
  changedBy: z.string().nullable(),
  owner: z.string().nullable(),
  focal: z.string(),
  /** The image that it is a size of, and how many sizes it has itself. */
  sizeOf: z.int().nullable(),
  sizes: z.int(),
  words: Words,
  marks: Marks,
  /** Where the words that were asked for stand in its text, when nowhere else. */
  excerpt: z.string().optional(),
});
export type ItemView = z.infer<typeof ItemView>;

const flag = z.enum(['0', '1']).transform((value) => value === '1');

/** The address bar's query, and that of GET /api/items. */
export const ItemQuery = z.object({
  /** `any`: here, draft or set aside. */
  state: z.enum([...ITEM_STATES, 'any']).default('here'),
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

/** The query of a whole sheet. */
export const FoundQuery = ItemQuery.extend({ group: z.enum(GROUPINGS).optional() });
export const FoundGroups = z.object({
  /** How many different items; one may stand in several groups. */
  items: z.int(),
  groups: z.array(z.object({ name: z.string(), from: z.int(), title: z.string().optional() })),
});
export type FoundGroups = z.infer<typeof FoundGroups>;

/** Ids in an address: '3,14,15'; and the words by which they were found. */
export const ItemIds = z.strictObject({
  q: z.string().max(500).default(''),
  ids: z
    .string()
    .regex(/^\d{1,12}(,\d{1,12}){0,499}$/)
    .transform((text) => text.split(',').map(Number)),
});

const manyIds = idsUpTo(200_000);
export const ManyItems = z.strictObject({ ids: manyIds });
/** `items` and `bytes` of those on the site; `aside`, `drafts`: how many are set aside, or drafts. */
export const ItemSum = z.object({ items: z.int(), bytes: z.int(), aside: z.int(), drafts: z.int() });
export const TagCounts = z.array(z.object({ name: z.string(), items: z.int() }));
export type TagCounts = z.infer<typeof TagCounts>;

/** How addresses are copied: bare, or ready to be put on a page. */
export const AddressForm = z.enum(['plain', 'html', 'markdown']);
export type AddressForm = z.infer<typeof AddressForm>;
export const AddressRequest = z.strictObject({ ids: idsUpTo(5000), form: AddressForm });

export const AddressesText = z.object({ text: z.string() });

/** A query kept under a name; `query` as in the address bar, `items` as of now. */
export const SavedQuery = z.object({
  id: z.int(),
  name: z.string(),
  query: z.string(),
  person: z.string(),
  /** Null: it cannot be counted, as it asks for too much or for what is no more. */
  items: z.int().nullable(),
});
export type SavedQuery = z.infer<typeof SavedQuery>;
export const KeepQuery = z.strictObject({
  name: z.string().trim().min(1).max(80),
  query: z.string().max(10_000),
});

/** Counts of choices, by test. */
export const FacetsView = z.record(z.string(), z.array(z.object({ value: z.string(), items: z.int() })));
export type FacetsView = z.infer<typeof FacetsView>;

export const ItemList = z.object({ total: z.int(), bytes: z.int(), items: z.array(ItemView) });
export type ItemList = z.infer<typeof ItemList>;

export const SuggestQuery = z.strictObject({ q: z.string().max(500).default('') });
/** What the find box offers; the items are the first of `total`. */
export const Suggestions = z.object({
  total: z.int(),
  items: z.array(ItemView),
  folders: z.array(z.object({ folder: z.string(), items: z.int() })),
  tags: TagCounts,
  people: z.array(z.string()),
});
export type Suggestions = z.infer<typeof Suggestions>;

/** What an item says. `more`: it goes on in the file. */
export const ItemText = z.object({ text: z.string(), more: z.boolean() });
export type ItemText = z.infer<typeof ItemText>;

/** One change of an item. */
export const VersionView = z.object({
  entryId: z.int(),
  at: z.string(),
  person: z.string(),
  title: z.string(),
  note: z.string(),
  undone: z.boolean(),
  fields: z.array(z.object({ field: z.string(), before: z.string(), after: z.string() })),
  moved: z.object({ from: z.string(), to: z.string() }).nullable(),
  /** Hashes of its bytes; `kept`: those before can be looked at and brought back. */
  file: z.object({ before: z.string(), after: z.string(), kept: z.boolean() }).nullable(),
});
export type VersionView = z.infer<typeof VersionView>;

/** How tags belong together. */
export const TagSense = z.object({
  spellings: z.array(z.object({ spelling: z.string(), tag: z.string() })),
  above: z.array(z.object({ tag: z.string(), above: z.string() })),
  /** What asking for a tag that is above others finds. */
  found: z.array(z.object({ value: z.string(), items: z.int() })),
});
export type TagSense = z.infer<typeof TagSense>;

export const PlacementView = z.object({
  /** The file that is shown there: the item's own, or a size of it. */
  path: z.string(),
  page: z.string(),
  pageTitle: z.string(),
  /** Byte offset of the reference, by which a plan names it. */
  start: z.int(),
  line: z.int(),
  place: z.string(),
  url: z.string(),
  alt: z.string().nullable(),
  hasAlt: z.boolean(),
  before: z.string(),
  after: z.string(),
});
export type PlacementView = z.infer<typeof PlacementView>;

export const LivePlacementView = z.object({
  url: z.string(),
  title: z.string(),
  place: z.string(),
  alt: z.string().nullable(),
  readAt: z.string(),
});

/** What somebody has said about an item; `calls`: names of those whom it calls. */
export const CommentView = z.object({
  key: z.string(),
  itemId: z.int(),
  person: z.string(),
  at: z.string(),
  text: z.string(),
  calls: z.array(z.string()),
});
export type CommentView = z.infer<typeof CommentView>;

/** The other of a document and the PDF that was made from it; `current`: the document is as it was then. */
export const MadeView = z.object({
  /** Null: a page, which has no record. */
  id: z.int().nullable(),
  path: z.string(),
  name: z.string(),
  current: z.boolean(),
});
export type MadeView = z.infer<typeof MadeView>;

export const ItemDetail = z.object({
  /** Where a live site shows it. */
  live: z.array(LivePlacementView),
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
  /** What is proposed about it and waits for approval: of the person's own, or theirs to approve. */
  proposals: z.array(z.object({ id: z.int(), at: z.string(), person: z.string(), title: z.string() })),
  /** Of its tags, those that a service suggested and nobody has confirmed. */
  unconfirmed: z.array(z.string()),
  /** What people say about it, the oldest first. */
  comments: z.array(CommentView),
  /** The document that it was made from as a PDF; null: none, or its bytes have come from elsewhere since. */
  madeFrom: MadeView.nullable(),
  /** PDFs that were made from it. */
  pdfs: z.array(MadeView),
  /** What was sent is kept off the site, beside this smaller copy. */
  hasOriginal: z.boolean(),
  family: z.object({
    /** The image that it is a size of; null: it stands for itself. */
    of: z.object({ id: z.int(), path: z.string(), name: z.string() }).nullable(),
    /** A person has said so. */
    said: z.boolean(),
    /** Its sizes, the widest first. */
    sizes: z.array(
      z.object({
        id: z.int(),
        path: z.string(),
        name: z.string(),
        width: z.int().nullable(),
        height: z.int().nullable(),
        bytes: z.int(),
      }),
    ),
  }),
});
export type ItemDetail = z.infer<typeof ItemDetail>;

export const SaveWords = z.strictObject({ rowVersion: z.int(), words: SomeWords });
export type SaveWords = z.infer<typeof SaveWords>;

/** `empty`: nothing at all lies in it, so it can be removed. */
export const FolderView = z.object({ folder: z.string(), items: z.int(), empty: z.boolean() });
export type FolderView = z.infer<typeof FolderView>;

/** Where an item stands on a page, with the words there. */
export const PlacementContextView = z.object({
  page: z.string(),
  pageTitle: z.string(),
  line: z.int(),
  /** Byte offset of the reference, by which a plan names it. */
  start: z.int(),
  place: z.string(),
  takesAlt: z.boolean(),
  alt: z.string().nullable(),
  title: z.string().nullable(),
  linkText: z.string().nullable(),
  heading: z.string(),
  figcaption: z.string(),
  before: z.string(),
  after: z.string(),
  neighbours: z.array(z.string()),
  link: z.object({ href: z.string(), alone: z.boolean(), targetTitle: z.string() }).nullable(),
});
export type PlacementContextView = z.infer<typeof PlacementContextView>;

/** All that describing an item rests on, beside the item itself. */
export const DescribeView = z.object({
  item: ItemView,
  contexts: z.array(PlacementContextView),
  /** How many more placements there are than are shown. */
  more: z.int(),
  suggestions: z.array(
    z.object({
      field: z.enum(['alt', 'title', 'caption']),
      text: z.string(),
      source: z.string(),
      confidence: z.number(),
    }),
  ),
  /** Of its tags, those that a service suggested and nobody has confirmed. */
  unconfirmed: z.array(z.string()),
  /** Tags that a service suggests for it, the surest first. */
  suggestedTags: z.array(z.object({ tag: z.string(), confidence: z.number() })),
  /** Null: not looked for yet. */
  textInside: z.string().nullable(),
});
export type DescribeView = z.infer<typeof DescribeView>;

/** Words of pages that are not those of the record: one placement each. */
export const WordDifference = PlacementContextView.extend({
  itemId: z.int(),
  path: z.string(),
  recordAlt: z.string(),
  recordTitle: z.string(),
  file: z.object({ path: z.string(), bytes: z.int() }),
  decorative: z.boolean(),
});
export const WordDifferences = z.object({ differences: z.array(WordDifference), pages: z.int() });
export type WordDifferences = z.infer<typeof WordDifferences>;

export const RecognisedText = z.object({ text: z.string().nullable() });

/** A table that comes back, as a spreadsheet program has written it. */
export const TableRequest = z.strictObject({ text: z.string().max(20_000_000) });
export const TableOutRequest = z.strictObject({ ids: z.union([manyIds, z.literal('all')]) });
export const TableView = z.object({
  rows: z.int(),
  matched: z.int(),
  changes: z.array(
    z.object({
      itemId: z.int(),
      /** The record's version as it is now. */
      rowVersion: z.int(),
      path: z.string(),
      line: z.int(),
      field: z.string(),
      before: z.string(),
      after: z.string(),
      set: Words.partial(),
      conflict: z.string().optional(),
    }),
  ),
  unknown: z.array(z.string()),
  faults: z.array(z.object({ line: z.int(), why: z.string() })),
});
export type TableView = z.infer<typeof TableView>;

export const SnippetQuery = z.strictObject({
  form: z.enum(['plain', 'html', 'markdown']),
  size: z.enum(['web', 'full']),
});
/** Null: it is not ready yet. */
export const SnippetText = z.object({ text: z.string().nullable() });
