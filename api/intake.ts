import { z } from 'zod';
import { CHOICES, FINDING_CODES } from '../core/intake/finding.ts';
import { Recipe } from '../core/picture/recipe/recipe.ts';
import { SomeWords, Words } from './items.ts';
import { FolderRuleValue, FolderRuleView } from '../core/intake/schema.ts';

export { FolderRuleValue, FolderRuleView };

export const FindingView = z.object({
  code: z.enum(FINDING_CODES),
  text: z.string(),
  weight: z.enum(['asks', 'warns', 'tells']),
  remedies: z.array(z.object({ key: z.string(), text: z.string() })),
  chosen: z.string().optional(),
  itemId: z.int().optional(),
  path: z.string().optional(),
});
export type FindingView = z.infer<typeof FindingView>;

export const ArrivalView = z.object({
  id: z.int(),
  at: z.string(),
  givenName: z.string(),
  name: z.string(),
  kind: z.string(),
  state: z.enum(['sending', 'received', 'ready', 'refused']),
  upload: z.string().nullable(),
  refused: z.string(),
  sha256: z.string(),
  bytes: z.int(),
  width: z.int().nullable(),
  height: z.int().nullable(),
  ready: z
    .object({
      sha256: z.string(),
      bytes: z.int(),
      width: z.int().nullable(),
      height: z.int().nullable(),
    })
    .nullable(),
  folder: z.string(),
  below: z.string(),
  words: Words.partial(),
  recipe: Recipe.nullable(),
  editable: z.boolean(),
  findings: z.array(FindingView),
  outcome: z.enum(['bring-in', 'replace', 'leave-out', 'unpack', 'ask']),
});
export type ArrivalView = z.infer<typeof ArrivalView>;

/** A person's list: every id in order, and the arrivals that have changed after the revision that was asked for. */
export const ArrivalList = z.object({
  revision: z.int(),
  ids: z.array(z.int()),
  changed: z.array(ArrivalView),
});
export type ArrivalList = z.infer<typeof ArrivalList>;
export const ArrivalsQuery = z.strictObject({ after: z.coerce.number().int().default(0) });

const folder = z.string().max(2000);
const ids = z
  .array(z.int())
  .min(1)
  .max(10_000)
  .refine((list) => new Set(list).size === list.length, 'a file comes twice');

export const Choices = z.strictObject({
  archive: z.enum(CHOICES.archive).optional(),
  same: z.enum(CHOICES.same).optional(),
  twin: z.enum(CHOICES.twin).optional(),
  alike: z.enum(CHOICES.alike).optional(),
  clash: z.enum(CHOICES.clash).optional(),
  small: z.enum(CHOICES.small).optional(),
  treat: z.enum(CHOICES.treat).optional(),
  heavy: z.enum(CHOICES.heavy).optional(),
  place: z.enum(CHOICES.place).optional(),
  type: z.enum(CHOICES.type).optional(),
});

const someTags = z.array(z.string().min(1).max(80)).max(50);

/** What to set for some arrivals. */
export const ArrivalChange = z.strictObject({
  folder: folder.optional(),
  name: z.string().min(1).max(255).optional(),
  words: SomeWords.optional(),
  /** What is made of the image; null: it stays as it was sent. */
  recipe: Recipe.nullable().optional(),
  addTags: someTags.optional(),
  /** What the person says to suggested tags. */
  suggested: z.strictObject({ take: someTags, refuse: someTags }).optional(),
  choices: Choices.optional(),
});
export type ArrivalChange = z.infer<typeof ArrivalChange>;
export const ArrivalChanges = ArrivalChange.extend({ ids });

/** Onto the site, or as drafts, which nobody else sees yet. */
export const BringIn = z.strictObject({ arrivalIds: ids, as: z.enum(['items', 'drafts']).default('items') });
export const FetchRequest = z.strictObject({ address: z.string().min(1).max(4000), folder });

export const Fetched = z.object({ id: z.int() });
export const Unpacked = z.object({ files: z.int() });

export const FolderRules = z.object({ rules: z.array(FolderRuleView), otherwise: FolderRuleView });

/** A file that waits to take the place of an item's. */
export const ReplacementView = z.object({
  arrivalId: z.int(),
  name: z.string(),
  bytes: z.int(),
  width: z.int().nullable(),
  height: z.int().nullable(),
});
export type ReplacementView = z.infer<typeof ReplacementView>;
