import { z } from 'zod';

/** How the tagging service stands. Limits are of images in this month; null: any number. */
export const TaggingState = z.object({
  isSet: z.boolean(),
  /** How it calls itself, once it has said so. */
  name: z.string().nullable(),
  sent: z.int(),
  limit: z.int().nullable(),
  left: z.int().nullable(),
  running: z.boolean(),
  /** Images that are still to be looked at, in all. */
  waiting: z.int(),
  /** Why the last run ended before its end. */
  fault: z.string().nullable(),
});
export type TaggingState = z.infer<typeof TaggingState>;

/** As people have set it; null: nothing is. */
export const TaggingSetting = z.object({ address: z.string().nullable(), limit: z.int().nullable() });

/** One tag for one item or file at the door. */
export const OneSuggestion = z.object({
  id: z.int(),
  /** 0 to 1. */
  confidence: z.number(),
  /** Items by which it is known. */
  because: z.array(z.int()),
  /** Why, as the service says; '': it does not. */
  reason: z.string(),
});
export type OneSuggestion = z.infer<typeof OneSuggestion>;

export const SuggestedTagsView = z.object({
  /** Images of what was asked about; those that the service has not seen; how many it would be sent. */
  images: z.int(),
  unseen: z.int(),
  toSend: z.int(),
  /** Images that could not be looked at, the first of them, with the reason. */
  unread: z.object({ total: z.int(), first: z.array(z.object({ path: z.string(), why: z.string() })) }),
  items: z.array(z.object({ id: z.int(), path: z.string(), sha256: z.string() })),
  /** By tag, those with most suggestions first; `known`: the site has this tag already. */
  groups: z.array(z.object({ tag: z.string(), known: z.boolean(), of: z.array(OneSuggestion) })),
});
export type SuggestedTagsView = z.infer<typeof SuggestedTagsView>;
