import { z } from 'zod';
import { KINDS } from '../core/address/kinds.ts';
import { CHOICES, FINDING_CODES } from '../core/intake/findings.ts';
import { shapeOf } from '../core/intake/rules.ts';
import { SomeWords, Words } from './items.ts';
import { NamePattern } from './naming.ts';

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
export const ArrivalsQuery = z.object({ after: z.coerce.number().int().default(0) });

const folder = z.string().max(2000);
const ids = z
  .array(z.int())
  .min(1)
  .max(10_000)
  .refine((list) => new Set(list).size === list.length, 'a file comes twice');

export const Choices = z.object({
  archive: z.enum(CHOICES.archive).optional(),
  same: z.enum(CHOICES.same).optional(),
  twin: z.enum(CHOICES.twin).optional(),
  alike: z.enum(CHOICES.alike).optional(),
  clash: z.enum(CHOICES.clash).optional(),
  small: z.enum(CHOICES.small).optional(),
  heavy: z.enum(CHOICES.heavy).optional(),
  place: z.enum(CHOICES.place).optional(),
  type: z.enum(CHOICES.type).optional(),
});

/** What to set for some arrivals. */
export const ArrivalChange = z.object({
  folder: folder.optional(),
  name: z.string().min(1).max(255).optional(),
  words: SomeWords.optional(),
  addTags: z.array(z.string().min(1).max(80)).max(50).optional(),
  choices: Choices.optional(),
});
export type ArrivalChange = z.infer<typeof ArrivalChange>;
export const ArrivalChanges = ArrivalChange.extend({ ids });

export const BringIn = z.object({ arrivalIds: ids });
export const FetchRequest = z.object({ address: z.string().min(1).max(4000), folder });

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
    .refine((text) => shapeOf(text) !== undefined, 'a shape is written like 3:2')
    .nullable(),
  largestBytes: z.int().min(1000).nullable(),
  keepOriginal: z.boolean(),
  kinds: z.array(z.enum(KINDS)).min(1).nullable(),
  pattern: NamePattern.nullable(),
  tags: z.array(z.string().min(1).max(80)).max(20),
  licence: z.string().max(500),
});
export const FolderRuleValue = FolderRuleView.omit({ folder: true });
export type FolderRuleView = z.infer<typeof FolderRuleView>;
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
