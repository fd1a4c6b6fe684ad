import { FIELD_NAMES, WORD_FIELDS, type Words } from '../describe/fields.ts';
import { cleanTag } from '../describe/record.ts';
import { baseName, type SitePath } from '../address/path.ts';
import { emptyPlan, type Plan, type RecordStep, type ReviewState } from './plan.ts';

/** Whether two values of a record say the same: tags, and the fields of the site's own, have no order. */
export function sameRecordValue(one: unknown, other: unknown): boolean {
  return unordered(one) === unordered(other);
}
function unordered(value: unknown): string {
  if (typeof value !== 'object' || value === null) return JSON.stringify(value);
  const parts: unknown[] = Array.isArray(value) ? value : Object.entries(value);
  return JSON.stringify(parts.map((part) => JSON.stringify(part)).sort());
}

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
    if (sameRecordValue(value, item.words[field])) continue;
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

/** A change of many records at once: texts take the place of what stood there, tags are added and removed. */
export interface RecordChange {
  /** Of own fields, those that are named; an empty value takes it away. */
  set?: Partial<Omit<Words, 'tags'>> | undefined;
  addTags?: readonly string[] | undefined;
  removeTags?: readonly string[] | undefined;
  /** Name of a person; null: nobody. */
  owner?: string | null | undefined;
  review?: ReviewState | undefined;
  /** A date, or '' for none. */
  due?: string | undefined;
}

export interface ChangingItem {
  id: number;
  path: SitePath;
  rowVersion: number;
  owner: string | null;
  review: ReviewState;
  due: string;
  words: Words;
}

/** The step by which one of many records changes; undefined: it stays as it is. */
export function recordStep(item: ChangingItem, change: RecordChange): RecordStep | undefined {
  const removed = new Set((change.removeTags ?? []).map((tag) => cleanTag(tag).toLowerCase()));
  const tags = [
    ...item.words.tags.filter((tag) => !removed.has(tag.toLowerCase())),
    ...(change.addTags ?? []),
  ];
  const own = change.set?.own && { own: { ...item.words.own, ...change.set.own } };
  const one = planWords(item, {
    ...change.set,
    ...own,
    ...(change.addTags || change.removeTags ? { tags } : {}),
  });
  const step = one.records[0] ?? { itemId: item.id, rowVersion: item.rowVersion, before: {}, after: {} };
  for (const field of ['owner', 'review', 'due'] as const) {
    const value = change[field];
    if (value === undefined || value === item[field]) continue;
    step.before = { ...step.before, [field]: item[field] };
    step.after = { ...step.after, [field]: value };
  }
  return Object.keys(step.after).length > 0 ? step : undefined;
}

/** The plan of one change of many records, of its steps. */
export function planOfSteps(records: RecordStep[], change: RecordChange): Plan {
  const count = records.length === 1 ? '1 item' : `${records.length.toLocaleString('en')} items`;
  const plan = { ...emptyPlan('describe', `${titleOf(change)} ${count}`), records };
  plan.totals.items = records.length;
  return plan;
}

const REVIEW_ACTS: Record<ReviewState, string> = {
  '': 'close the review of',
  'in-review': 'ask for a review of',
  'to-update': 'mark as to be updated:',
};

function titleOf({ set = {}, addTags = [], removeTags = [], owner, review, due }: RecordChange): string {
  const quoted = (tags: readonly string[]) => tags.map((tag) => `“${tag}”`).join(', ');
  const parts: string[] = [];
  if (addTags.length > 0) parts.push(`tag ${quoted(addTags)}`);
  if (removeTags.length > 0) parts.push(`remove the tag ${quoted(removeTags)}`);
  const fields = Object.keys(set).map((field) => FIELD_NAMES[field as keyof Words].toLowerCase());
  if (fields.length > 0) parts.push(`set ${fields.join(', ')} of`);
  if (owner !== undefined) parts.push(owner === null ? 'remove the owner' : `assign to ${owner}:`);
  if (review !== undefined) parts.push(REVIEW_ACTS[review]);
  if (due !== undefined) parts.push(due === '' ? 'remove the due date of' : `set the due date ${due} of`);
  const text = parts.join(', ');
  return text.charAt(0).toUpperCase() + text.slice(1);
}

/** Words as they are kept. */
export function tidyWords(words: Partial<Words>): Partial<Words> {
  return Object.fromEntries(Object.entries(words).map(([field, value]) => [field, tidy(value)]));
}

function tidy(value: Words[keyof Words]): Words[keyof Words] {
  if (typeof value === 'string') return value.normalize('NFC').trim();
  if (typeof value === 'boolean') return value;
  if (!Array.isArray(value)) {
    const given = Object.entries(value).map(
      ([field, text]) => [field, text.normalize('NFC').trim()] as const,
    );
    return Object.fromEntries(given.filter(([, text]) => text !== '').sort(([a], [b]) => (a < b ? -1 : 1)));
  }
  const tags = new Map<string, string>();
  for (const tag of value.map(cleanTag))
    if (tag !== '' && !tags.has(tag.toLowerCase())) tags.set(tag.toLowerCase(), tag);
  return [...tags.values()].sort((a, b) => (a.toLowerCase() < b.toLowerCase() ? -1 : 1));
}

/** What is to be done with an item, as it is shown. */
export const REVIEW_NAMES: Record<ReviewState, string> = {
  '': 'none',
  'in-review': 'in review',
  'to-update': 'to be updated',
};

/** Everything of a record that a plan shows. */
export const RECORD_NAMES = {
  ...FIELD_NAMES,
  owner: 'Owner',
  focal: 'Focal point',
  review: 'Review',
  due: 'Due',
};
