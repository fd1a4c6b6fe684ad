import { z } from 'zod';
import { TEXT_FIELD_KEYS } from '../core/describe/fields.ts';
import { PLAN_KINDS } from '../core/plan/plan.ts';
import { FolderRuleValue } from './intake.ts';
import { OwnFieldView, SomeWords } from './items.ts';
import { GalleryView, LayoutLines, PlacedLook, PlaceView } from './pages.ts';
import { NamePattern, SavedPattern } from './naming.ts';
import { CheckNames } from './upkeep.ts';

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
});
export type PlanView = z.infer<typeof PlanView>;

/** Item ids, each once. */
const idsUpTo = (most: number) =>
  z
    .array(z.int())
    .min(1)
    .max(most)
    .refine((list) => new Set(list).size === list.length, TWICE);
const TWICE = 'an item comes twice';
const ids = idsUpTo(100_000);
const eachOnce = (list: readonly { itemId: number }[]) =>
  new Set(list.map((one) => one.itemId)).size === list.length;
const folder = z.string().max(2000);
/** Names of classes, parted by spaces. */
const classes = z
  .string()
  .max(200)
  .regex(/^[^<>"'&]*$/);
const tag = z.string().min(1).max(80);
const tags = z.array(z.string().min(1).max(80)).max(50).optional();

const EditView = z.discriminatedUnion('edit', [
  z.object({ edit: z.literal('set'), text: z.string().max(20_000) }),
  z.object({
    edit: z.literal('replace'),
    find: z.string().min(1).max(500),
    replace: z.string().max(5000),
    exact: z.boolean(),
  }),
  z.object({ edit: z.enum(['before', 'after']), text: z.string().min(1).max(500) }),
  z.object({ edit: z.literal('case'), to: z.enum(['lower', 'upper', 'sentence', 'title']) }),
  z.object({
    edit: z.literal('copy'),
    from: z.enum(TEXT_FIELD_KEYS),
    how: z.enum(['over', 'empty', 'behind']),
  }),
]);

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
    set: SomeWords.omit({ tags: true }).optional(),
    addTags: tags,
    removeTags: tags,
    owner: z.string().max(200).nullable().optional(),
  }),
  /** New names of items, each in its own folder. */
  z.object({
    kind: z.literal('names'),
    names: z
      .array(z.object({ itemId: z.int(), name: z.string().min(1).max(255) }))
      .min(1)
      .max(100_000)
      .refine(eachOnce, TWICE),
  }),
  /** The words are written into the files, or beside them as XMP. */
  z.object({ kind: z.literal('embed'), itemIds: ids, as: z.enum(['file', 'sidecar']) }),
  /** One change of a text field, the same for all. */
  z.object({ kind: z.literal('edit'), itemIds: ids, field: z.enum(TEXT_FIELD_KEYS), edit: EditView }),
  /** Pages say what the records say, at these placements. */
  z.object({
    kind: z.literal('page-words'),
    places: z.array(PlaceView).min(1).max(10_000),
  }),
  /** Other words for each of some records; `rowVersion`: as it was when they were written. */
  z.object({
    kind: z.literal('cells'),
    cells: z
      .array(z.object({ itemId: z.int(), rowVersion: z.int().optional(), set: SomeWords }))
      .min(1)
      .max(100_000)
      .refine(eachOnce, TWICE),
  }),
  /** A pattern of names, kept; null: it is forgotten. */
  z.object({ kind: z.literal('name-pattern'), ...SavedPattern.shape, pattern: NamePattern.nullable() }),
  /** A field of the site's own; null: it is no more. */
  z.object({
    kind: z.literal('own-field'),
    name: OwnFieldView.shape.name,
    field: OwnFieldView.omit({ name: true }).nullable(),
  }),
  z.object({ kind: z.literal('layout'), layout: LayoutLines }),
  /** Which folders are served from the root; all else of the layout stays. */
  z.object({ kind: z.literal('public'), folders: z.array(folder).min(1).max(200) }),
  /** Broken references, each with the file that it is to lead to. */
  z.object({
    kind: z.literal('repair'),
    places: z
      .array(PlaceView.extend({ path: folder }))
      .min(1)
      .max(10_000),
  }),
  /** An item onto a page: between two blocks, in place of a picture, or as a background. */
  z.object({
    kind: z.literal('place'),
    page: folder,
    spot: z.union([
      z.strictObject({ at: z.int().min(0) }),
      z.strictObject({ insteadOf: z.int().min(0) }),
      /** Where its address is written: on the page, or in one of its style sheets. */
      z.strictObject({ background: z.int().min(0), in: folder }),
      /** The block that gets a background, by where it begins. */
      z.strictObject({ behind: z.int().min(0) }),
    ]),
    itemId: z.int(),
    caption: z.boolean(),
    classes,
    shownWidth: z.int().min(16).max(10_000).nullable(),
    sizes: z.boolean(),
    full: z.boolean(),
  }),
  /** Other words, another look, a poster or captions of one placement; what is left out stays. */
  z.object({
    kind: z.literal('placement'),
    ...PlaceView.shape,
    alt: z.string().max(2000).nullable().optional(),
    title: z.string().max(2000).nullable().optional(),
    linkText: z.string().trim().min(1).max(2000).optional(),
    caption: z.string().max(5000).nullable().optional(),
    shownWidth: z.int().min(16).max(10_000).nullable().optional(),
    classes: classes.optional(),
    ours: PlacedLook.optional(),
    posterId: z.int().nullable().optional(),
    captions: z
      .object({
        path: folder,
        language: z.string().regex(/^[A-Za-z]{2,3}(-[A-Za-z0-9]{2,8})*$/),
        label: z.string().trim().min(1).max(80),
      })
      .nullable()
      .optional(),
  }),
  /** Placements go; their items stay on the site. */
  z.object({ kind: z.literal('unplace'), places: z.array(PlaceView).min(1).max(1000) }),
  /** A placement changes places with what stands before or after it. */
  z.object({ kind: z.literal('order'), ...PlaceView.shape, to: z.enum(['up', 'down']) }),
  /** The sizes that pages offer of a picture, as files beside it. */
  z.object({ kind: z.literal('sizes'), itemId: z.int() }),
  z.object({
    kind: z.literal('gallery'),
    page: folder,
    spot: z.union([z.strictObject({ at: z.int().min(0) }), z.strictObject({ gallery: z.int().min(0) })]),
    ...GalleryView.shape,
    itemIds: idsUpTo(2000),
  }),
  /** What must be seen of a picture; the placements that are to follow it. */
  z.object({
    kind: z.literal('focal'),
    itemId: z.int(),
    focal: z.string().regex(/^(?:\d{1,3} \d{1,3})?$/),
    places: z.array(PlaceView).max(1000),
  }),
  /** Which picture some images are sizes of: one that is named, none, or as it is found. */
  z.object({
    kind: z.literal('family'),
    itemIds: ids,
    of: z.union([z.int().min(1), z.enum(['apart', 'found'])]),
  }),
  /** Other bytes for an item: of a file at the door, or of another item. */
  z.object({
    kind: z.literal('replace'),
    itemId: z.int(),
    by: z.union([z.strictObject({ arrivalId: z.int() }), z.strictObject({ itemId: z.int() })]),
    name: z.enum(['keep', 'new']),
    dates: z.enum(['keep', 'new']),
  }),
  z.object({ kind: z.literal('move'), itemIds: ids, folder: z.string().max(2000) }),
  /** A folder's own address: all within goes along. Where the new one is there already, both become one. */
  z.object({ kind: z.literal('folder'), folder: z.string().min(1).max(2000), to: z.string().max(2000) }),
  /** A tag's name; where the new one is there already, both become one. Null: it is taken off every item. */
  z.object({ kind: z.literal('tag'), tag: z.string().min(1).max(80), to: z.string().max(80).nullable() }),
  /** Another spelling that finds a tag, or, with drop, finds it no longer. */
  z.object({ kind: z.literal('tag-spelling'), tag, spelling: tag, drop: z.boolean().default(false) }),
  z.object({ kind: z.literal('tag-above'), tag, above: tag.nullable() }),
  /** Copies with their records: into a folder, or (null) each beside its own. */
  z.object({ kind: z.literal('copies'), itemIds: ids, folder: folder.nullable() }),
  z.object({ kind: z.literal('new-folder'), folder }),
  z.object({ kind: z.literal('drop-folders'), folders: z.array(folder).min(1).max(5000) }),
  z.object({ kind: z.literal('rule'), folder, rule: FolderRuleValue.nullable() }),
  /** What one change took from an item, words and bytes. */
  z.object({ kind: z.literal('bring-back'), itemId: z.int(), entryId: z.int() }),
  /** `leavePlaced`: what is placed stays where it is, instead of standing in the way. */
  z.object({ kind: z.literal('set-aside'), itemIds: ids, leavePlaced: z.boolean().default(false) }),
  /** `freeNames`: an address that is taken by now gets a number, instead of standing in the way. */
  z.object({ kind: z.literal('restore'), itemIds: ids, freeNames: z.boolean().default(false) }),
  /** Of each group one stays, and stands for the others. */
  z.object({
    kind: z.literal('merge'),
    groups: z
      .array(z.object({ keeperId: z.int(), otherIds: idsUpTo(1000) }))
      .min(1)
      .max(5000),
  }),
  z.object({ kind: z.literal('lighten'), itemIds: idsUpTo(500) }),
  z.object({ kind: z.literal('convert'), itemIds: idsUpTo(500) }),
  /** Without the place where they were taken; and with the ending of what they are. */
  z.object({ kind: z.literal('offer'), itemIds: idsUpTo(200) }),
  z.object({ kind: z.literal('kept'), itemIds: idsUpTo(500) }),
  z.object({ kind: z.literal('without-place'), itemIds: idsUpTo(500) }),
  z.object({ kind: z.literal('right-endings'), itemIds: ids }),
  /** Records whose file is gone are removed. */
  z.object({ kind: z.literal('forget'), itemIds: ids }),
  /** A file is the one that a record misses. */
  z.object({ kind: z.literal('reunite'), itemId: z.int(), path: folder }),
  /** References follow items that others have moved. */
  z.object({ kind: z.literal('follow-moves'), itemIds: ids }),
  /** Findings that are to be left alone; null: that are to be told again. Of items by their numbers. */
  z.object({
    kind: z.literal('dismiss'),
    check: CheckNames,
    subjects: z.array(z.string().min(1).max(2000)).min(1).max(100_000),
    reason: z.string().trim().min(1).max(300).nullable(),
  }),
  z.object({ kind: z.literal('keeping-days'), days: z.int().min(1).max(3650) }),
  z.object({
    kind: z.literal('redirects'),
    redirects: z
      .array(z.object({ from: z.string().max(2000), to: z.string().max(2000).nullable() }))
      .min(1)
      .max(10_000),
  }),
  /** `withLater`: later changes that stand in its way are undone with it. */
  z.object({ kind: z.literal('undo'), entryId: z.int(), withLater: z.boolean().default(false) }),
]);
export type PlanRequest = z.input<typeof PlanRequest>;

/** What the person wants to be remembered with a change. */
export const ApplyRequest = z.object({ note: z.string().trim().max(500).default('') });
export const NoteRequest = ApplyRequest;

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
});
export type EntryView = z.infer<typeof EntryView>;
