import { z } from 'zod';
import { KINDS } from '../core/address/kinds.ts';
import { idsUpTo } from '../core/plan/ids.ts';
import { NamePattern, SavedPattern } from '../core/naming/schema.ts';

export { NamePattern, SavedPattern };

export const SavedPatterns = z.array(SavedPattern);

/** Which items: by their ids, in the order in which they were gathered; or those of a query, in its order. */
export const NamingRequest = z.strictObject({ ids: idsUpTo(100_000) });

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
