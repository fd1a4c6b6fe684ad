import { z } from 'zod';
import { KINDS } from '../core/address/kinds.ts';
import { GalleryView, LayoutLines, Place, PlacedLook, PlaceView } from '../core/reference/schema.ts';

export { GalleryView, LayoutLines, Place, PlacedLook, PlaceView };

/** As it is set, and what is used. */
export const LayoutView = z.object({
  set: LayoutLines,
  /** Folders that are served from the root now, set or found out. */
  public: z.array(z.string()),
  /** Own addresses, set or learned from the pages. */
  published: z.array(z.string()),
  folders: z.array(z.string()),
});
export type LayoutView = z.infer<typeof LayoutView>;

/** How one placement is now, and what of it can be changed. */
export const PlacementDetail = z.object({
  words: z.object({
    alt: z.string().nullable(),
    title: z.string().nullable(),
    linkText: z.string().nullable(),
    takesAlt: z.boolean(),
  }),
  caption: z.string().nullable(),
  width: z.int().nullable(),
  classes: z.array(z.string()),
  ours: PlacedLook,
  isFilm: z.boolean(),
  poster: z.string().nullable(),
  captions: z.array(z.object({ path: z.string(), language: z.string() })),
  /** Caption files of the site. */
  tracks: z.array(z.string()),
  /** Markdown has words, and nothing else. */
  onlyWords: z.boolean(),
  up: z.boolean(),
  down: z.boolean(),
});
export type PlacementDetail = z.infer<typeof PlacementDetail>;

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

/** A file that a broken reference likely means. */
export const RepairView = z.object({ path: z.string(), why: z.string(), sure: z.boolean() });
export type RepairView = z.infer<typeof RepairView>;

export const BrokenView = PlaceView.extend({
  pageTitle: z.string(),
  line: z.int(),
  url: z.string(),
  /** Broken, unless a generator reads the page otherwise. */
  unsure: z.boolean(),
  /** The likeliest first. */
  repairs: z.array(RepairView),
});
export type BrokenView = z.infer<typeof BrokenView>;

export const ShownView = z.object({
  itemId: z.int(),
  path: z.string(),
  kind: z.enum(KINDS),
  sha256: z.string(),
  bytes: z.int(),
  width: z.int().nullable(),
  height: z.int().nullable(),
  focal: z.string(),
  start: z.int(),
  line: z.int(),
  place: z.string(),
  /** The file that its address is written in: the page itself, or one of its style sheets. */
  page: z.string(),
  /** Its number on the drawn page: the same as start, but below zero in a style sheet. */
  at: z.int(),
  alt: z.string().nullable(),
  hasAlt: z.boolean(),
  /** Its address holds empty segments: it is served, and may be written more plainly. */
  untidy: z.boolean(),
  title: z.string().nullable(),
  linkText: z.string().nullable(),
  /** Null: it is no picture element. Otherwise whether the attribute is there. */
  sized: z.boolean().nullable(),
  loading: z.boolean().nullable(),
});
export type ShownView = z.infer<typeof ShownView>;

export const PageDetail = z.object({
  path: z.string(),
  title: z.string(),
  /** Where the page is drawn with its placements; null: nothing of it can be drawn. */
  look: z.string().nullable(),
  /** Changes with all that is drawn: the page, its style sheets, what they show. */
  stamp: z.string(),
  /** Pages of other languages are not edited this way. */
  editable: z.boolean(),
  shown: z.array(ShownView),
  broken: z.array(BrokenView),
  galleries: z.array(
    z.object({
      start: z.int(),
      gallery: GalleryView,
      itemIds: z.array(z.int()),
      added: z.int(),
      gone: z.int(),
    }),
  ),
  /** Classes that the page and its style sheets have for images. */
  classes: z.array(z.string()),
});
export type PageDetail = z.infer<typeof PageDetail>;

/** What live sites show, as their last reading found it. */
export const LiveView = z.object({
  pages: z.array(
    z.object({
      url: z.string(),
      title: z.string(),
      status: z.int(),
      readAt: z.string(),
      placements: z.int(),
    }),
  ),
  /** Items that are seen there; and only there. */
  items: z.object({ seen: z.int(), only: z.int() }),
});
export type LiveView = z.infer<typeof LiveView>;

export const LiveRequest = z.strictObject({ address: z.string().min(1).max(2000) });
