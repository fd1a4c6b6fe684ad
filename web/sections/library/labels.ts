import { TEXT_FIELD_KEYS, TEXT_FIELDS, type FieldKind } from '../../../core/describe/fields.ts';
import type { Sort } from '../../../core/find/sorts.ts';
import { TESTS, type Test, type TestName } from '../../../core/find/tests.ts';
import { sentenceOf } from '../../../core/find/holds.ts';

/** What the tests are called where one is chosen, in groups; what is asked most stands first. */
export const TEST_GROUPS: [string, [TestName, string][]][] = [
  [
    'File',
    [
      ['kind', 'File type'],
      ['use', 'Used or unused'],
      ['heavier', 'File size above'],
      ['name', 'Name contains'],
      ['shape', 'Orientation'],
      ['wider', 'Wider than'],
      ['narrower', 'Narrower than'],
      ['taller', 'Taller than'],
      ['longer', 'Longer than'],
      ['colour', 'Main colour'],
      ['like', 'Looks like'],
      ['copies', 'Exact copies'],
    ],
  ],
  [
    'Description',
    [
      ['tag', 'Tag'],
      ['no', 'Missing field'],
      ['mark', 'Care marks'],
      ['own', 'Custom field'],
      ['name-fault', 'Name problem'],
      ['licence-ends', 'Licence ends before'],
      ['found', 'Upkeep finding'],
    ],
  ],
  [
    'Place and people',
    [
      ['folder', 'Folder'],
      ['page', 'Used on page'],
      ['added', 'Month added'],
      ['added-since', 'Added since'],
      ['by', 'Added by'],
      ['owner', 'Owner'],
    ],
  ],
];

/** A choice as its words alone: 'image', not 'kind is image'. */
export function choiceText(test: TestName, value: string): string {
  const sentence = sentenceOf({ test, value, not: false });
  return sentence.replace(/^(kind|shape|main colour|name|added in|added by|owner|tagged) (is )?/, '');
}

export function unitOf(test: TestName): string {
  return (
    { pixels: 'pixels', bytes: 'megabytes', seconds: 'seconds' }[(TESTS[test] as Test).value as string] ?? ''
  );
}

/** What items can be sorted by, and what its two directions are; what is asked most stands first. */
export const SORTS: readonly { key: Sort; name: string; way: string; back: string }[] = [
  { key: 'rank', name: 'Relevance', way: 'Best match first', back: 'Best match last' },
  { key: 'name', name: 'Name', way: 'A to Z', back: 'Z to A' },
  { key: 'added', name: 'Date added', way: 'Newest first', back: 'Oldest first' },
  { key: 'bytes', name: 'File size', way: 'Largest first', back: 'Smallest first' },
  { key: 'kind', name: 'File type', way: 'Images first', back: 'Images last' },
  { key: 'placements', name: 'Use', way: 'Most used first', back: 'Least used first' },
  { key: 'path', name: 'Folder', way: 'A to Z', back: 'Z to A' },
  { key: 'changed', name: 'Date changed', way: 'Latest first', back: 'Earliest first' },
  { key: 'width', name: 'Width', way: 'Widest first', back: 'Narrowest first' },
  { key: 'height', name: 'Height', way: 'Tallest first', back: 'Lowest first' },
  { key: 'duration', name: 'Length', way: 'Longest first', back: 'Shortest first' },
  { key: 'seen', name: 'Use on the live site', way: 'Most used first', back: 'Least used first' },
  { key: 'tags', name: 'Number of tags', way: 'Most first', back: 'Fewest first' },
  { key: 'by', name: 'Added by', way: 'A to Z', back: 'Z to A' },
  { key: 'owner', name: 'Owner', way: 'A to Z', back: 'Z to A' },
  ...TEXT_FIELD_KEYS.map((field) => {
    const { name, form }: FieldKind = TEXT_FIELDS[field];
    return form === 'day' || form === 'moment'
      ? { key: field, name, way: 'Earliest first', back: 'Latest first' }
      : { key: field, name, way: 'A to Z', back: 'Z to A' };
  }),
];
