import type { ZodError } from 'zod';
import { FIELD_NAMES, type Words } from '../../core/describe/fields.ts';

/** Made at the start: the first one loads the system’s data of languages. */
const NUMBER = new Intl.NumberFormat('en');

/** What people type into, by the last part of its path in a request. */
const CALLED: Record<string, string> = {
  ...Object.fromEntries(
    Object.entries(FIELD_NAMES).map(
      ([field, name]) => [field, `The field “${name}”`] as [keyof Words, string],
    ),
  ),
  q: 'The search',
  query: 'The search',
  name: 'The name',
  note: 'The note',
  reason: 'The reason',
  tag: 'The tag',
  tags: 'A tag',
  folder: 'The path of the folder',
  text: 'The text',
};

/**
 * Why a request that its schema refuses is refused, and what to do. What a person may have typed or chosen too much of is told in our own
 * words; all else is a fault of a program.
 */
export function refusalOf({ issues }: ZodError): { message: string; remedy: string } {
  const [first] = issues;
  const path = first?.path ?? [];
  if (first?.code === 'custom')
    return {
      message: `${first.message.replace(/\.$/, '')}. Nothing was saved.`,
      remedy: 'Correct it and save again.',
    };
  if (first?.code === 'too_big' && first.origin === 'string') {
    const key = path.findLast((part) => typeof part === 'string' && part in CALLED);
    return {
      message: `${key === undefined ? 'A text' : CALLED[String(key)]} is too long: it may have ${NUMBER.format(first.maximum)} characters.`,
      remedy: 'Make it shorter and try again.',
    };
  }
  if (first?.code === 'too_big' && first.origin === 'array')
    return {
      message: `That is too many at once: ${NUMBER.format(first.maximum)} at most.`,
      remedy: 'Choose fewer and try again.',
    };
  return {
    message: `The request is not understood: ${path.join('.') || 'body'}: ${(first?.message ?? '').replace(/\.$/, '')}.`,
    remedy: 'Reload the page and try again.',
  };
}
