import { z } from 'zod';
import {
  DATE_FORMS,
  LETTERS,
  LETTER_CASES,
  PRESENT_PARTS,
  RESTARTS,
  SEPARATORS,
  STOP_WORD_LANGUAGES,
  type NamePattern as Pattern,
} from './pattern.ts';

const shaping = {
  find: z.string().max(200).optional(),
  replace: z.string().max(200).optional(),
  words: z.int().min(1).max(100).nullable().optional(),
  case: z.enum(LETTER_CASES).nullable().optional(),
};
const position = z.int().min(1).max(255).optional();
const piece = z.discriminatedUnion('piece', [
  z.strictObject({ piece: z.literal('text'), text: z.string().max(100), ...shaping }),
  z.strictObject({ piece: z.enum(['title', 'alt', 'caption', 'page', 'size']), ...shaping }),
  z.strictObject({ piece: z.literal('tags'), most: z.int().min(1).max(20), ...shaping }),
  z.strictObject({ piece: z.literal('folder'), levels: z.int().min(1).max(10), ...shaping }),
  z.strictObject({ piece: z.literal('own'), field: z.string().max(60), ...shaping }),
  z.strictObject({ piece: z.enum(['taken', 'added']), form: z.enum(DATE_FORMS), ...shaping }),
  z.strictObject({
    piece: z.literal('counter'),
    start: z.int().min(0).max(1_000_000),
    step: z.int().min(1).max(1000),
    width: z.int().min(1).max(9),
    restart: z.enum(RESTARTS),
    ...shaping,
  }),
  z.strictObject({
    piece: z.literal('present'),
    part: z.enum(PRESENT_PARTS),
    from: position,
    to: position,
    ...shaping,
  }),
]);

/** The schema checks what the core's type says. */
export const NamePattern: z.ZodType<Pattern> = z.strictObject({
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
