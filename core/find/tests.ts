import { NAME_FAULTS, type NameFault } from '../address/name.ts';
import { KINDS, type Kind } from '../address/kinds.ts';
import { isWithin, type SitePath } from '../address/path.ts';
import { isDay, TEXT_FIELD_KEYS, TEXT_FIELDS, type Words } from '../describe/fields.ts';
import { careMarks, needsAlt } from '../describe/record.ts';
import { USES, type ShownUse, type Use } from '../reference/survey.ts';
import { CHECKS, checksOf, ITEM_CHECKS, LINES, type ItemCheck, type Line } from '../upkeep/checks.ts';
import { COLOUR_NAMES } from './colour.ts';

/** What the conditions ask of an item. */
export interface Facts {
  id: number;
  path: SitePath;
  folder: SitePath;
  name: string;
  kind: Kind;
  bytes: number;
  width: number | null;
  height: number | null;
  duration: number | null;
  /** ISO 8601, UTC. */
  addedAt: string;
  addedBy: string | null;
  owner: string | null;
  use: ShownUse;
  nameFaults: readonly NameFault[];
  words: Words;
  /** Its tags, with everything else they are found under: other spellings, and the tags above them. */
  meant: readonly string[];
  /** Name of the largest share of its colours. */
  colour: string | null;
  hasCopies: boolean;
  /** Pages that show it: path and title. */
  pages: readonly { path: SitePath; title: string }[];
  /** What the checks find, as far as nobody has said to leave it alone. */
  found: readonly ItemCheck[];
  /** Ids of the items that look like it. */
  alike: readonly number[];
}

/** What a test takes: one of a list, a text, a number of some unit, a day, a month, or nothing. */
export type ValueKind =
  | 'choice'
  | 'text'
  | 'pixels'
  | 'bytes'
  | 'seconds'
  | 'date'
  | 'month'
  | 'folder'
  | 'tag'
  | 'person'
  /** A field of the site's own with what stands in it: 'Weather: clear'. */
  | 'own'
  | 'item'
  | 'none';

export interface Test {
  value: ValueKind;
  choices?: readonly string[];
  /** The condition as a sentence without its subject, 'kind is image', and its opposite. */
  says: (value: string) => string;
  denies: (value: string) => string;
  holds: (item: Facts, value: string) => boolean;
}

const EMPTY_FIELDS = [...TEXT_FIELD_KEYS.filter((field) => field !== 'licenceEnd'), 'tags'] as const;
const fieldWords = (field: (typeof EMPTY_FIELDS)[number]) =>
  field === 'tags' ? 'tag' : TEXT_FIELDS[field].name.toLowerCase();
const KIND_WORDS: Record<Kind, string> = {
  image: 'image',
  video: 'video',
  audio: 'audio',
  document: 'document',
  other: 'other file',
};
const MARKS = ['described', 'named', 'filed', 'placed'] as const;
const MARK_WORDS = { described: 'described', named: 'well named', filed: 'filed', placed: 'in use' };
const SHAPES = ['landscape', 'portrait', 'square'] as const;
const FAULT_WORDS: Record<NameFault, string> = {
  camera: 'looks like a camera file name',
  spaces: 'has spaces',
  'upper-case': 'has capital letters',
  characters: 'has unusual characters',
  'no-words': 'has no readable words',
  'low-lines': 'uses underscores',
  long: 'is too long',
  stuffed: 'repeats a word',
  rule: 'doesn’t follow the folder’s pattern',
};

/** Two texts are the same when they differ only in case: ASCII letters, as SQLite compares. */
const fold = (text: string) => text.replace(/[A-Z]/g, (letter) => letter.toLowerCase());
const contains = (text: string, part: string) => fold(text).includes(fold(part));
const number = (value: string) => Number(value);
const size = (value: string) => `${Number(value).toLocaleString('en')} px`;
function weight(value: string): string {
  const bytes = Number(value);
  return bytes >= 1e6 ? `${bytes / 1e6} MB` : `${bytes / 1e3} kB`;
}
const MONTHS = 'January February March April May June July August September October November December'.split(
  ' ',
);
/** '2026-03' -> 'March 2026'. */
function month(value: string): string {
  const [year, number] = value.split('-');
  return `${MONTHS[Number(number) - 1]} ${year}`;
}
/** '2026-03-07' -> '7 March 2026'. */
function day(value: string): string {
  return `${Number(value.slice(8))} ${month(value.slice(0, 7))}`;
}
/** 'is x' and 'is not x'. */
const be = (subject: string, words: (value: string) => string) => ({
  says: (value: string) => `${subject} is ${words(value)}`,
  denies: (value: string) => `${subject} is not ${words(value)}`,
});

const LINE_WORDS: Record<Line, string> = {
  doubles: 'duplicates',
  weight: 'a problem with its file size',
  rights: 'a problem with its rights',
  files: 'a problem with its file',
};
const isLine = (value: string): value is Line => (LINES as readonly string[]).includes(value);
const foundWords = (value: string) =>
  isLine(value) ? LINE_WORDS[value] : `“${CHECKS[value as ItemCheck].name}”`;
/** The checks that a value of the test 'found' stands for. */
export const checksMeant = (value: string): ItemCheck[] =>
  isLine(value) ? checksOf(value) : [value as ItemCheck];

/** Every test that a query can be made of, in the order in which they are offered. */
export const TESTS = {
  kind: {
    value: 'choice',
    choices: KINDS,
    ...be('kind', (value) => KIND_WORDS[value as Kind]),
    holds: (item, value) => item.kind === value,
  },
  use: {
    value: 'choice',
    choices: USES,
    says: (value) =>
      ({ placed: 'used on a page', mentioned: 'mentioned only', unused: 'not used anywhere' })[value as Use],
    denies: (value) =>
      ({ placed: 'not used on any page', mentioned: 'not only mentioned', unused: 'used somewhere' })[
        value as Use
      ],
    holds: (item, value) => item.use === value,
  },
  mark: {
    value: 'choice',
    choices: MARKS,
    says: (value) => MARK_WORDS[value as keyof typeof MARK_WORDS],
    denies: (value) => `not ${MARK_WORDS[value as keyof typeof MARK_WORDS]}`,
    holds: (item, value) => careMarks(item)[value as (typeof MARKS)[number]],
  },
  no: {
    value: 'choice',
    choices: EMPTY_FIELDS,
    says: (value) => `no ${fieldWords(value as (typeof EMPTY_FIELDS)[number])}`,
    denies: (value) => `with ${fieldWords(value as (typeof EMPTY_FIELDS)[number])}`,
    holds: ({ words, ...item }, value) =>
      value === 'tags'
        ? words.tags.length === 0
        : value === 'alt'
          ? needsAlt(item) && words.alt === '' && !words.decorative
          : words[value as 'title'] === '',
  },
  tag: {
    value: 'tag',
    says: (value) => `tagged “${value}”`,
    denies: (value) => `not tagged “${value}”`,
    holds: ({ meant }, value) => meant.some((tag) => fold(tag) === fold(value)),
  },
  own: {
    value: 'own',
    says: (value) => value,
    denies: (value) => `not ${value}`,
    holds: ({ words }, value) =>
      Object.entries(words.own).some(
        ([field, text]) => text !== '' && fold(`${field}: ${text}`) === fold(value),
      ),
  },
  folder: {
    value: 'folder',
    says: (value) => `in “${value}” or below`,
    denies: (value) => `not in “${value}” or below`,
    holds: (item, value) => isWithin(value, item.folder),
  },
  name: {
    value: 'text',
    says: (value) => `name has “${value}”`,
    denies: (value) => `name has no “${value}”`,
    holds: (item, value) => contains(item.name, value),
  },
  'name-fault': {
    value: 'choice',
    choices: NAME_FAULTS,
    says: (value) => `name ${FAULT_WORDS[value as NameFault]}`,
    denies: (value) => `name not one that ${FAULT_WORDS[value as NameFault]}`,
    holds: (item, value) => item.nameFaults.includes(value as NameFault),
  },
  page: {
    value: 'text',
    says: (value) => `used on a page whose title or address has “${value}”`,
    denies: (value) => `not used on a page whose title or address has “${value}”`,
    holds: (item, value) =>
      item.pages.some((page) => contains(page.title, value) || contains(page.path, value)),
  },
  added: {
    value: 'month',
    says: (value) => `added in ${month(value)}`,
    denies: (value) => `not added in ${month(value)}`,
    holds: (item, value) => item.addedAt.startsWith(value),
  },
  'added-since': {
    value: 'date',
    says: (value) => `added since ${day(value)}`,
    denies: (value) => `added before ${day(value)}`,
    holds: (item, value) => item.addedAt >= value,
  },
  by: {
    value: 'person',
    says: (value) => `added by ${value}`,
    denies: (value) => `not added by ${value}`,
    holds: (item, value) => item.addedBy === value,
  },
  owner: {
    value: 'person',
    says: (value) => `owner ${value}`,
    denies: (value) => `owner is not ${value}`,
    holds: (item, value) => item.owner === value,
  },
  wider: {
    value: 'pixels',
    says: (value) => `wider than ${size(value)}`,
    denies: (value) => `not wider than ${size(value)}`,
    holds: (item, value) => item.width !== null && item.width > number(value),
  },
  narrower: {
    value: 'pixels',
    says: (value) => `narrower than ${size(value)}`,
    denies: (value) => `not narrower than ${size(value)}`,
    holds: (item, value) => item.width !== null && item.width < number(value),
  },
  taller: {
    value: 'pixels',
    says: (value) => `taller than ${size(value)}`,
    denies: (value) => `not taller than ${size(value)}`,
    holds: (item, value) => item.height !== null && item.height > number(value),
  },
  heavier: {
    value: 'bytes',
    says: (value) => `larger than ${weight(value)}`,
    denies: (value) => `not larger than ${weight(value)}`,
    holds: (item, value) => item.bytes > number(value),
  },
  longer: {
    value: 'seconds',
    says: (value) => `longer than ${value} s`,
    denies: (value) => `not longer than ${value} s`,
    holds: (item, value) => item.duration !== null && item.duration > number(value),
  },
  shape: {
    value: 'choice',
    choices: SHAPES,
    ...be('shape', (value) => value),
    holds: ({ width, height }, value) =>
      width !== null &&
      height !== null &&
      (value === 'landscape' ? width > height : value === 'portrait' ? width < height : width === height),
  },
  colour: {
    value: 'choice',
    choices: COLOUR_NAMES,
    ...be('main colour', (value) => value),
    holds: (item, value) => item.colour === value,
  },
  'licence-ends': {
    value: 'date',
    says: (value) => `licence ends before ${day(value)}`,
    denies: (value) => `licence does not end before ${day(value)}`,
    holds: ({ words }, value) => words.licenceEnd !== '' && words.licenceEnd < value,
  },
  copies: {
    value: 'none',
    says: () => 'has exact copies',
    denies: () => 'no exact copies',
    holds: (item) => item.hasCopies,
  },
  found: {
    value: 'choice',
    choices: [...LINES, ...ITEM_CHECKS],
    says: (value) => `upkeep finds ${foundWords(value)}`,
    denies: (value) => `upkeep does not find ${foundWords(value)}`,
    holds: ({ found }, value) => checksMeant(value).some((name) => found.includes(name)),
  },
  like: {
    value: 'item',
    says: (value) => `looks like item ${value}`,
    denies: (value) => `does not look like item ${value}`,
    holds: (item, value) => item.alike.includes(number(value)),
  },
} satisfies Record<string, Test>;

export type TestName = keyof typeof TESTS;
export const TEST_NAMES = Object.keys(TESTS) as TestName[];

/** Whether a test of this name exists and takes this value. */
export function takes(name: string, value: string): boolean {
  if (!Object.hasOwn(TESTS, name)) return false;
  const test: Test = TESTS[name as TestName];
  switch (test.value) {
    case 'choice':
      return test.choices!.includes(value);
    case 'pixels':
    case 'bytes':
    case 'seconds':
    case 'item':
      return /^\d{1,12}$/.test(value);
    case 'date':
      return isDay(value);
    case 'month':
      return /^\d{4}-(0[1-9]|1[0-2])$/.test(value);
    case 'none':
      return value === '';
    default:
      return value.length > 0 && value.length <= 500;
  }
}
