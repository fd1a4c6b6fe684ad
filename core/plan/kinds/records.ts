import { z } from 'zod';
import { SomeWords } from '../../describe/schema.ts';
import { REVIEW_STATES } from '../plan.ts';
import { ids, tags } from './fields.ts';
import { kindOfPlan } from './kind.ts';

/** The same change of many records: words, tags, owner, what is to be done with them. */
export const records = kindOfPlan('records', {
  right: 'describe',
  changes: 'records',
  drafts: true,
  request: {
    itemIds: ids,
    set: SomeWords.omit({ tags: true }).optional(),
    addTags: tags,
    removeTags: tags,
    owner: z.string().max(200).nullable().optional(),
    review: z.enum(REVIEW_STATES).optional(),
    due: z.union([z.literal(''), z.iso.date()]).optional(),
  },
});
