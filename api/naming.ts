import { z } from 'zod';
import { KINDS } from '../core/address/kinds.ts';
import {
  DATE_FORMS,
  LETTERS,
  LETTER_CASES,
  PRESENT_PARTS,
  RESTARTS,
  SEPARATORS,
  STOP_WORD_LANGUAGES,
  type NamePattern as Pattern,
} from '../core/naming/pattern.ts';

const shaping = {
  find: z.string().max(200).optional(),
  replace: z.string().max(200).optional(),
  words: z.int().min(1).max(100).nullable().optional(),
  case: z.enum(LETTER_CASES).nullable().optional(),
};
const position = z.int().min(1).max(255).optional();
const piece = z.discriminatedUnion('piece', [
  z.object({ piece: z.literal('text'), text: z.string().max(100), ...shaping }),
  z.object({ piece: z.enum(['title', 'alt', 'caption', 'page', 'size']), ...shaping }),
  z.object({ piece: z.literal('tags'), most: z.int().min(1).max(20), ...shaping }),
  z.object({ piece: z.literal('folder'), levels: z.int().min(1).max(10), ...shaping }),
  z.object({ piece: z.literal('own'), field: z.string().max(60), ...shaping }),
  z.object({ piece: z.enum(['taken', 'added']), form: z.enum(DATE_FORMS), ...shaping }),
  z.object({
    piece: z.literal('counter'),
    start: z.int().min(0).max(1_000_000),
    step: z.int().min(1).max(1000),
    width: z.int().min(1).max(9),
    restart: z.enum(RESTARTS),
    ...shaping,
  }),
  z.object({
    piece: z.literal('present'),
    part: z.enum(PRESENT_PARTS),
    from: position,
    to: position,
    ...shaping,
  }),
]);

/** The schema checks what the core's type says. */
export const NamePattern: z.ZodType<Pattern> = z.object({
  pieces: z.array(piece).max(20),
  separator: z.enum(SEPARATORS),
  case: z.enum(LETTER_CASES),
  letters: z.enum(LETTERS),
  stopWords: z.enum(STOP_WORD_LANGUAGES).nullable(),
  words: z.int().min(1).max(100).nullable(),
  lacking: z.enum(['leave-out', 'keep-name']),
}) as unknown as z.ZodType<Pattern>;

export const SavedPattern = z.object({
  name: z.string().trim().min(1).max(60),
  pattern: NamePattern,
});
export const SavedPatterns = z.array(SavedPattern);

/** Which items: by their ids, in the order in which they were gathered; or those of a query, in its order. */
export const NamingRequest = z.object({ ids: z.array(z.int()).min(1).max(100_000) });

/** What names are made of, and what stands in their way. */
export const NamingTable = z.object({
  items: z.array(
    z.object({
      id: z.int(),
      path: z.string(),
      kind: z.enum(KINDS),
      sha256: z.string(),
      title: z.string(),
      alt: z.string(),
      caption: z.string(),
      tags: z.array(z.string()),
      takenAt: z.string().nullable(),
      addedAt: z.string(),
      width: z.int().nullable(),
      height: z.int().nullable(),
      pages: z.array(z.string()),
      placements: z.int(),
      own: z.record(z.string(), z.string()),
    }),
  ),
  /** Names of the other files in the folders concerned. */
  taken: z.array(z.object({ folder: z.string(), names: z.array(z.string()) })),
  /** Size variants; those that were not asked for stand among the items too. */
  variants: z.array(z.object({ id: z.int(), of: z.int(), suffix: z.string() })),
});
export type NamingTable = z.infer<typeof NamingTable>;
