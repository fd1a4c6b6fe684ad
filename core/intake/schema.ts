import { z } from 'zod';
import { KINDS } from '../address/kinds.ts';
import { NamePattern } from '../naming/schema.ts';
import { Treatment } from '../picture/recipe/treatments.ts';
import { shapeOf } from './rules.ts';

const folder = z.string().max(2000);
const pixels = z.int().min(1).max(50_000).nullable();
export const FolderRuleView = z.object({
  folder,
  purpose: z.string().max(200),
  leastWidth: pixels,
  leastHeight: pixels,
  largestSide: pixels,
  shape: z
    .string()
    .max(20)
    .refine((text) => shapeOf(text) !== undefined, 'write an aspect ratio like 3:2')
    .nullable(),
  largestBytes: z.int().min(1000).nullable(),
  keepOriginal: z.boolean(),
  kinds: z.array(z.enum(KINDS)).min(1).nullable(),
  pattern: NamePattern.nullable(),
  treatment: Treatment.nullable().default(null),
  tags: z.array(z.string().min(1).max(80)).max(20),
  licence: z.string().max(500),
});
export const FolderRuleValue = FolderRuleView.omit({ folder: true }).strict();
export type FolderRuleView = z.infer<typeof FolderRuleView>;
