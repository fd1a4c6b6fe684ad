import { z } from 'zod';
import { ALIGNMENTS, SPACINGS, type Alignment, type Spacing } from './placed-styles.ts';

const lines = z.array(z.string().max(2000)).max(200);

/** How the site's folder is laid out, in lines; an empty part is found out, or holds everywhere. */
export const LayoutLines = z.strictObject({
  public: lines,
  pages: lines,
  media: lines,
  leftOut: lines,
  published: lines,
});
export type LayoutLines = z.infer<typeof LayoutLines>;

/** One placement: its page, and the byte offset of its address there. */
export const PlaceView = z.object({ page: z.string().max(2000), start: z.int().min(0) });
/** The same, as it is asked for. */
export const Place = z.strictObject(PlaceView.shape);

/** How a placement stands, by the small style sheet. */
export const PlacedLook = z.strictObject({
  align: z.enum(Object.keys(ALIGNMENTS) as [Alignment, ...Alignment[]]),
  space: z.enum(Object.keys(SPACINGS) as [Spacing, ...Spacing[]]),
});

export const GalleryView = z.object({
  from: z.union([
    z.strictObject({ folder: z.string().max(2000) }),
    z.strictObject({ tag: z.string().min(1).max(80) }),
    z.strictObject({ gathered: z.literal(true) }),
  ]),
  side: z.int().min(40).max(4000),
  quality: z.int().min(1).max(100),
  captions: z.boolean(),
  classes: z
    .string()
    .max(200)
    .regex(/^[^<>"'&]*$/),
});
export type GalleryView = z.infer<typeof GalleryView>;
