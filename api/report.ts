import { z } from 'zod';
import { KINDS } from '../core/address/kinds.ts';
import { RELATIONS } from '../core/picture/alike.ts';
import { CHECK_NAMES } from '../core/upkeep/checks.ts';
import { SHOWN_USES } from '../core/reference/survey.ts';

const path = z.string().describe('Relative to the site, with "/", as on disk (not percent-encoded).');
const line = z.int().min(1).describe('Line of the page, from 1.');

/** What `npm run report` writes. Described in docs/formats.md. */
export const Report = z.object({
  site: z.object({
    pages: z.int().min(0).describe('Content files that can refer to items (drawings count here too).'),
    items: z.int().min(0),
    bytes: z.int().min(0).describe('Weight of all items.'),
  }),
  items: z.array(
    z.object({
      path,
      kind: z.enum(KINDS),
      mime: z.string(),
      bytes: z.int().min(0),
      sha256: z
        .string()
        .regex(/^([0-9a-f]{64})?$/)
        .describe('Lower-case hex; empty when the file could not be read.'),
      width: z.int().positive().nullable().describe('Pixels after orientation; null when unknown.'),
      height: z.int().positive().nullable(),
      placements: z.int().min(0).describe('How many references of pages lead to it.'),
      use: z.enum(SHOWN_USES),
      /** The image that it is a size of: both are one item. */
      sizeOf: z.string().nullable(),
    }),
  ),
  unused: z.array(path),
  mentioned: z
    .array(z.object({ path, in: path, line }))
    .describe('Items without a placement whose name stands in a text.'),
  broken: z
    .array(z.object({ page: path, line, url: z.string(), unsure: z.boolean().optional() }))
    .describe(
      'References to local media files that do not exist; the address as written, entities decoded. unsure: broken, unless a generator reads the page otherwise.',
    ),
  copies: z.array(z.array(path).min(2)).describe('Groups of items whose bytes are the same.'),
  lookalikes: z
    .array(z.object({ paths: z.array(path).min(2), relation: z.enum(RELATIONS) }))
    .describe(
      'Groups of images that show the same in other bytes, the original first; how the surest of the others is related to it.',
    ),
  checks: z
    .partialRecord(
      z.enum(CHECK_NAMES),
      z.array(
        z.object({
          path: path.optional().describe('Of an item.'),
          tag: z.string().optional(),
          address: z.string().optional().describe('Old address of a redirect.'),
          why: z.string(),
        }),
      ),
    )
    .optional()
    .describe(
      'With --checks: what each check of Upkeep says, but for broken references, which stand above, and what people have said to leave alone.',
    ),
  alt: z.object({
    missing: z
      .array(z.object({ page: path, line, path }))
      .describe('img elements without an alt attribute whose src is an item of the site.'),
  }),
});
export type Report = z.infer<typeof Report>;

/** Faults that --fail-on knows, with how many of each a report holds. */
export const FAILURES = {
  unused: (report: Report) => report.unused.length,
  copies: (report: Report) => report.copies.length,
  lookalikes: (report: Report) => report.lookalikes.length,
  broken: (report: Report) => report.broken.length,
  alt: (report: Report) => report.alt.missing.length,
} as const;
