import { z } from 'zod';
import { SomeWords } from '../../describe/schema.ts';
import { ids, tags } from './fields.ts';
import { kindOfPlan } from './kind.ts';

/** The same change of many records: words, tags, owner. */
export const records = kindOfPlan('records', {
  right: 'describe',
  changes: 'records',
  request: {
    itemIds: ids,
    set: SomeWords.omit({ tags: true }).optional(),
    addTags: tags,
    removeTags: tags,
    owner: z.string().max(200).nullable().optional(),
  },
});
