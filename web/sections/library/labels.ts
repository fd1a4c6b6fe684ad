import { TEXT_FIELD_KEYS, TEXT_FIELDS, type FieldKind } from '../../../core/describe/fields.ts';
import type { Sort } from '../../../core/find/sorts.ts';
import { TESTS, type Test, type TestName } from '../../../core/find/tests.ts';
import { sentenceOf } from '../../../core/find/holds.ts';

/** What the tests are called where one is chosen, in groups. */
export const TEST_GROUPS: [string, [TestName, string][]][] = [
  [
    'What it is',
    [
      ['kind', 'Kind'],
      ['shape', 'Shape'],
      ['colour', 'Main colour'],
      ['like', 'Looks like'],
      ['wider', 'Wider than'],
      ['narrower', 'Narrower than'],
      ['taller', 'Taller than'],
      ['heavier', 'Heavier than'],
      ['longer', 'Longer than'],
    ],
  ],
  [
    'Words and care',
    [
      ['no', 'Words that are missing'],
      ['mark', 'Care marks'],
      ['tag', 'Tag'],
      ['own', 'Field of our own'],
      ['name', 'Name'],
      ['name-fault', 'Faults of the name'],
      ['licence-ends', 'Licence ends before'],
      ['found', 'Findings of upkeep'],
    ],
  ],
  [
    'Where and who',
    [
      ['use', 'Use'],
      ['page', 'Page that shows it'],
      ['folder', 'Folder'],
      ['copies', 'Copies'],
      ['added', 'Month it was added'],
      ['added-since', 'Added since'],
      ['by', 'Who added it'],
      ['owner', 'Who looks after it'],
    ],
  ],
];

/** A choice as its words alone: 'image', not 'kind is image'. */
export function choiceText(test: TestName, value: string): string {
  const sentence = sentenceOf({ test, value, not: false });
  return sentence.replace(/^(kind|shape|main colour|name|added in|added by|in the care of) (is )?/, '');
}

export function unitOf(test: TestName): string {
  return (
    { pixels: 'pixels', bytes: 'megabytes', seconds: 'seconds' }[(TESTS[test] as Test).value as string] ?? ''
  );
}

export const SORT_TEXTS: [Sort, string, string][] = [
  ['kind', 'pictures first', 'pictures last'],
  ['rank', 'best first', 'best last'],
  ['name', 'by name', 'by name, from Z'],
  ['path', 'by folder and name', 'by folder, from Z'],
  ['added', 'newest first', 'oldest first'],
  ['changed', 'last changed first', 'last changed at the end'],
  ['bytes', 'heaviest first', 'lightest first'],
  ['width', 'widest first', 'narrowest first'],
  ['height', 'tallest first', 'lowest first'],
  ['duration', 'longest first', 'shortest first'],
  ['placements', 'most placed first', 'least placed first'],
  ['seen', 'most seen first', 'least seen first'],
  ['tags', 'most tags first', 'fewest tags first'],
  ['by', 'by who added it', 'by who added it, from Z'],
  ['owner', 'by who cares for it', 'by who cares for it, from Z'],
  ...TEXT_FIELD_KEYS.map((field): [Sort, string, string] => {
    const { name, form }: FieldKind = TEXT_FIELDS[field];
    const by = `by ${name.toLowerCase()}`;
    return form === 'day' || form === 'moment'
      ? [field, `${by}, earliest first`, `${by}, latest first`]
      : [field, by, `${by}, from Z`];
  }),
];
