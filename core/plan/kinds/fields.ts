import { z } from 'zod';
import { TEXT_FIELD_KEYS } from '../../describe/fields.ts';
import { idsUpTo } from '../ids.ts';

export const ids = idsUpTo(100_000);
export const eachOnce = (list: readonly { itemId: number }[]) =>
  new Set(list.map((one) => one.itemId)).size === list.length;
export const folder = z.string().max(2000);
/** Names of classes, parted by spaces. */
export const classes = z
  .string()
  .max(200)
  .regex(/^[^<>"'&]*$/);
export const tag = z.string().min(1).max(80);
export const tags = z.array(z.string().min(1).max(80)).max(50).optional();

/** One change of a text. */
export const EditView = z.discriminatedUnion('edit', [
  z.strictObject({ edit: z.literal('set'), text: z.string().max(20_000) }),
  z.strictObject({
    edit: z.literal('replace'),
    find: z.string().min(1).max(500),
    replace: z.string().max(5000),
    exact: z.boolean(),
  }),
  z.strictObject({ edit: z.enum(['before', 'after']), text: z.string().min(1).max(500) }),
  z.strictObject({ edit: z.literal('case'), to: z.enum(['lower', 'upper', 'sentence', 'title']) }),
  z.strictObject({
    edit: z.literal('copy'),
    from: z.enum(TEXT_FIELD_KEYS),
    how: z.enum(['over', 'empty', 'behind']),
  }),
]);
