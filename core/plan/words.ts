import { cleanTag, WORD_FIELDS, type Words } from '../describe/record.ts';
import { baseName, type SitePath } from '../address/path.ts';
import { emptyPlan, type Plan } from './plan.ts';

/** Plans a change of a record's words. Fields that would stay as they are are left out; texts are kept in NFC. */
export function planWords(
  item: { id: number; path: SitePath; rowVersion: number; words: Words },
  changes: Partial<Words>,
): Plan {
  const before: Partial<Words> = {};
  const after: Partial<Words> = {};
  for (const field of WORD_FIELDS) {
    if (!(field in changes)) continue;
    const value = tidy(changes[field]!);
    if (JSON.stringify(value) === JSON.stringify(item.words[field])) continue;
    Object.assign(before, { [field]: item.words[field] });
    Object.assign(after, { [field]: value });
  }
  const fields = Object.keys(after);
  const plan = emptyPlan(
    'describe',
    `${fields.map((field) => FIELD_NAMES[field as keyof Words]).join(', ')} of “${baseName(item.path)}”`,
  );
  if (fields.length === 0) return plan;
  plan.records.push({ itemId: item.id, rowVersion: item.rowVersion, before, after });
  plan.totals.items = 1;
  return plan;
}

/** Words as they are kept. */
export function tidyWords(words: Partial<Words>): Partial<Words> {
  return Object.fromEntries(Object.entries(words).map(([field, value]) => [field, tidy(value)]));
}

function tidy(value: string | boolean | string[]): string | boolean | string[] {
  if (typeof value === 'string') return value.normalize('NFC').trim();
  if (typeof value === 'boolean') return value;
  const tags = new Map<string, string>();
  for (const tag of value.map(cleanTag))
    if (tag !== '' && !tags.has(tag.toLowerCase())) tags.set(tag.toLowerCase(), tag);
  return [...tags.values()].sort((a, b) => (a.toLowerCase() < b.toLowerCase() ? -1 : 1));
}

export const FIELD_NAMES: Record<keyof Words, string> = {
  alt: 'Alt text',
  decorative: 'Decorative',
  title: 'Title',
  caption: 'Caption',
  description: 'Description',
  creator: 'Creator',
  credit: 'Credit',
  copyright: 'Copyright',
  source: 'Source',
  licence: 'Licence',
  licenceEnd: 'Licence end',
  tags: 'Tags',
};
