import { z } from 'zod';
import { fieldFault, OWN_KINDS, TEXT_FIELD_KEYS, type TextField } from './fields.ts';

const text = (longest: number) => z.string().max(longest);

/** The texts of a record. */
const fieldText = (field: TextField) =>
  z.string().check((context) => {
    const fault = fieldFault(field, context.value);
    if (fault) context.issues.push({ code: 'custom', message: fault, input: context.value });
  });
export const Words = z.object({
  ...(Object.fromEntries(TEXT_FIELD_KEYS.map((field) => [field, fieldText(field)])) as Record<
    TextField,
    z.ZodString
  >),
  decorative: z.boolean(),
  tags: z.array(text(80)).max(200),
  own: z.record(text(60), text(2000)),
});
export type Words = z.infer<typeof Words>;
/** Some of the words of a record: those that stay are left out. What is no field is refused, never passed over. */
export const SomeWords = Words.partial().strict();

/** A field of the site's own. */
export const OwnFieldView = z.strictObject({
  name: z.string().trim().min(1).max(60),
  kind: z.enum(OWN_KINDS),
  choices: z.array(text(200)).max(200),
});
export const OwnFields = z.array(OwnFieldView);
