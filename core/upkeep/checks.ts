import type { TextField } from '../describe/fields.ts';

/** How sure a finding is: bytes tell it, measures tell it, or it is for a person to judge. */
export const SURENESS = {
  certain: 'certain',
  likely: 'very likely',
  judgement: 'for you to judge',
} as const;

/** What can be done about findings, several at once. */
export const REMEDIES = {
  merge: 'Keep one of each group',
  'set-aside': 'set them aside',
  repair: 'repair the references',
  describe: 'describe them',
  rename: 'rename them',
  write: 'write it into all of them',
  forget: 'delete the records',
  'follow-moves': 'follow them to their new place',
  gather: 'gather them in the tray',
  lighter: 'make them lighter',
  offer: 'offer them in sizes',
  convert: 'make them JPEGs',
  'without-place': 'take the place out',
  kept: 'bring back what is kept of them',
  'right-endings': 'give them the right ending',
  credits: 'add the credit to their pages',
  tags: 'merge the tags',
  redirects: 'drop the redirects',
} as const;
export type Remedy = keyof typeof REMEDIES;

export const CHECK_GROUPS = {
  doubles: 'Duplicates',
  use: 'Use',
  references: 'References',
  words: 'Descriptions',
  names: 'Names and folders',
  weight: 'File size',
  rights: 'Rights',
  files: 'Files',
} as const;
export type CheckGroup = keyof typeof CHECK_GROUPS;

export interface Check {
  group: CheckGroup;
  name: string;
  /** What is found. */
  what: string;
  /** Why it matters. */
  why: string;
  sure: keyof typeof SURENESS;
  remedy: Remedy;
  /** What helps, where no plan can do it for all at once. */
  advice?: string;
  /** What the records lack, where one text can be written into many. */
  field?: TextField;
  /** What a finding is about. */
  about: 'item' | 'reference' | 'tag' | 'redirect';
}

/** Every check of the library, in the order in which they are shown. */
export const CHECKS = {
  copies: {
    group: 'doubles',
    name: 'Exact copies',
    what: 'Items with identical content.',
    why: 'Each copy has to be described and updated separately.',
    sure: 'certain',
    remedy: 'merge',
    about: 'item',
  },
  'look-alikes': {
    group: 'doubles',
    name: 'Look-alikes',
    what: 'Images that look the same but are different files. Sizes of one image don’t count.',
    why: 'The same image exists in several versions, and nobody knows which one to use.',
    sure: 'likely',
    remedy: 'merge',
    about: 'item',
  },
  unused: {
    group: 'use',
    name: 'Unused',
    what: 'Not used on any page and not mentioned in any text.',
    why: 'They take up space and clutter search results. Visitors won’t notice when they are set aside.',
    sure: 'certain',
    remedy: 'set-aside',
    about: 'item',
  },
  mentioned: {
    group: 'use',
    name: 'Mentioned only',
    what: 'Not used on any page, but a script, a data file or a text mentions them.',
    why: 'A script may use them. Check the mention before you set one aside.',
    sure: 'judgement',
    remedy: 'set-aside',
    about: 'item',
  },
  broken: {
    group: 'references',
    name: 'Broken references',
    what: 'Pages refer to files that don’t exist.',
    why: 'Visitors see a gap or an error.',
    sure: 'certain',
    remedy: 'repair',
    about: 'reference',
  },
  'idle-redirects': {
    group: 'references',
    name: 'Unneeded redirects',
    what: 'Redirects to nowhere, or from an address that is a file again.',
    why: 'They never lead anywhere useful.',
    sure: 'certain',
    remedy: 'redirects',
    about: 'redirect',
  },
  'redirect-chains': {
    group: 'references',
    name: 'Redirect chains',
    what: 'Redirects that lead to another redirect.',
    why: 'Each step slows visitors down, and some clients follow only the first.',
    sure: 'certain',
    remedy: 'redirects',
    about: 'redirect',
  },
  'no-alt': {
    group: 'words',
    name: 'Missing alt text',
    what: 'Images without alt text that aren’t marked decorative.',
    why: 'Screen-reader users and search engines get nothing from these images.',
    sure: 'certain',
    remedy: 'describe',
    about: 'item',
  },
  'poor-alt': {
    group: 'words',
    name: 'Poor alt text',
    what: 'Alt text that is a file name, a placeholder, or too long to be read out.',
    why: 'Screen readers read it out as it is.',
    sure: 'likely',
    remedy: 'describe',
    about: 'item',
  },
  'same-alt': {
    group: 'words',
    name: 'Same alt text',
    what: 'Different images with the same alt text.',
    why: 'Screen-reader users can’t tell them apart.',
    sure: 'judgement',
    remedy: 'describe',
    about: 'item',
  },
  'page-words': {
    group: 'words',
    name: 'Page and record differ',
    what: 'The alt text on a page differs from the record.',
    why: 'One of the two is out of date.',
    sure: 'judgement',
    remedy: 'describe',
    about: 'item',
  },
  'no-title': {
    group: 'words',
    name: 'Missing title',
    what: 'Videos, audio files and documents without a title.',
    why: 'Links to them show the file name instead.',
    sure: 'certain',
    remedy: 'describe',
    about: 'item',
  },
  'no-language': {
    group: 'words',
    name: 'Missing language',
    what: 'Described items without a language, although others have one.',
    why: 'Their text may be read out and searched in the wrong language.',
    sure: 'certain',
    remedy: 'write',
    field: 'language',
    about: 'item',
  },
  names: {
    group: 'names',
    name: 'Poor names',
    what: 'Names that mean nothing, or contain characters that don’t belong in addresses.',
    why: 'People read names in addresses, downloads and search results.',
    sure: 'certain',
    remedy: 'rename',
    about: 'item',
  },
  rules: {
    group: 'names',
    name: 'Breaks folder rules',
    what: 'Items that don’t meet the rules of their folder.',
    why: 'Pages that use this folder look uneven.',
    sure: 'certain',
    remedy: 'gather',
    advice: 'Open each item and prepare it again, or move it to the right folder.',
    about: 'item',
  },
  'no-folder': {
    group: 'names',
    name: 'Outside any folder',
    what: 'Items in the site’s root folder.',
    why: 'A crowded root folder makes items hard to find.',
    sure: 'judgement',
    remedy: 'gather',
    advice: 'Add them to the tray, then move them to a folder. All references are updated.',
    about: 'item',
  },
  'near-tags': {
    group: 'names',
    name: 'Similar tags',
    what: 'Tags that differ in case, accents, an ending or one letter.',
    why: 'A search for one misses the items of the other.',
    sure: 'judgement',
    remedy: 'tags',
    about: 'tag',
  },
  'lone-tags': {
    group: 'names',
    name: 'Tags used once',
    what: 'Tags that only one item has.',
    why: 'They don’t help to find related items.',
    sure: 'judgement',
    remedy: 'tags',
    about: 'tag',
  },
  'too-large': {
    group: 'weight',
    name: 'Larger than displayed',
    what: 'Images more than twice as wide as any page displays them.',
    why: 'Visitors download pixels they never see.',
    sure: 'likely',
    remedy: 'lighter',
    about: 'item',
  },
  format: {
    group: 'weight',
    name: 'Wrong format',
    what: 'Photographs as PNG, drawings as JPEG.',
    why: 'Photographs are several times larger as PNG. Drawings get blurred edges as JPEG.',
    sure: 'likely',
    remedy: 'convert',
    about: 'item',
  },
  'no-sizes': {
    group: 'weight',
    name: 'No responsive sizes',
    what: 'Large images that pages offer in a single size.',
    why: 'Phones download the desktop size.',
    sure: 'likely',
    remedy: 'offer',
    about: 'item',
  },
  'heavy-film': {
    group: 'weight',
    name: 'Large videos',
    what: 'Videos above 8 Mbit/s.',
    why: 'They stall on slow connections.',
    sure: 'likely',
    remedy: 'lighter',
    advice: 'Encoding takes much longer than the video itself. It runs in the background and can be stopped.',
    about: 'item',
  },
  'heavy-pdf': {
    group: 'weight',
    name: 'Large PDFs',
    what: 'PDFs above 1.5 MB per page.',
    why: 'People also open them on phones.',
    sure: 'likely',
    remedy: 'lighter',
    about: 'item',
  },
  'no-licence': {
    group: 'rights',
    name: 'No licence',
    what: 'Items without a licence, although someone else is credited or other items have one.',
    why: 'Later, nobody knows whether they may be used.',
    sure: 'judgement',
    remedy: 'write',
    field: 'licence',
    about: 'item',
  },
  'no-credit': {
    group: 'rights',
    name: 'No credit',
    what: 'Licensed items without a creator or credit.',
    why: 'Most licences require attribution.',
    sure: 'likely',
    remedy: 'write',
    field: 'credit',
    about: 'item',
  },
  uncredited: {
    group: 'rights',
    name: 'Credit missing on pages',
    what: 'Images whose licence asks for a credit, on pages that don’t show it near them.',
    why: 'Without its credit, the licence doesn’t cover the image.',
    sure: 'likely',
    remedy: 'credits',
    about: 'item',
  },
  editorial: {
    group: 'rights',
    name: 'Editorial image on a shop page',
    what: 'Images licensed for news and reports only, on pages that seem to sell something.',
    why: 'An editorial licence doesn’t cover advertising or sales.',
    sure: 'judgement',
    remedy: 'gather',
    advice: 'Replace each image on these pages. If a page sells nothing, dismiss the finding.',
    about: 'item',
  },
  'licence-over': {
    group: 'rights',
    name: 'Licence expired',
    what: 'The licence has expired.',
    why: 'They must no longer be used.',
    sure: 'certain',
    remedy: 'write',
    field: 'licenceEnd',
    advice:
      'Renewed? Enter the new end date. Not renewed? Replace each item on its pages, then set it aside.',
    about: 'item',
  },
  'licence-ending': {
    group: 'rights',
    name: 'Licence expiring',
    what: 'The licence expires within 30 days.',
    why: 'There is still time to renew it or to use something else.',
    sure: 'certain',
    remedy: 'write',
    field: 'licenceEnd',
    advice: 'Renewed? Enter the new end date. Not renewed? Replace each item on its pages before that day.',
    about: 'item',
  },
  unreadable: {
    group: 'files',
    name: 'Unreadable',
    what: 'Files that can’t be opened.',
    why: 'Visitors get a broken file.',
    sure: 'certain',
    remedy: 'kept',
    advice: 'If no earlier version is kept, open the item and replace the file. The address stays the same.',
    about: 'item',
  },
  'other-type': {
    group: 'files',
    name: 'Wrong file extension',
    what: 'The content doesn’t match the extension.',
    why: 'Some browsers refuse to open them.',
    sure: 'certain',
    remedy: 'right-endings',
    about: 'item',
  },
  private: {
    group: 'files',
    name: 'Contains location',
    what: 'Files that contain the place where they were taken.',
    why: 'Anyone who downloads them can read the coordinates.',
    sure: 'certain',
    remedy: 'without-place',
    about: 'item',
  },
  outside: {
    group: 'files',
    name: 'Changed outside',
    what: 'Files that were changed outside Iconomos.',
    why: 'Descriptions and crops may no longer fit.',
    sure: 'certain',
    remedy: 'kept',
    advice:
      'Check whether description and crop still fit. If they do, dismiss the finding. If not, restore the previous version.',
    about: 'item',
  },
  missing: {
    group: 'files',
    name: 'Missing files',
    what: 'Records whose file no longer exists.',
    why: 'Their descriptions wait for a file that may never come back.',
    sure: 'certain',
    remedy: 'forget',
    advice:
      'Put the file back under its name and the record is linked again. If it has a new name, choose the file. Records go only if you delete them here, and the ledger can restore them.',
    about: 'item',
  },
  moved: {
    group: 'files',
    name: 'Moved outside',
    what: 'Files that were moved or renamed outside Iconomos.',
    why: 'References that still lead to the old address are broken.',
    sure: 'likely',
    remedy: 'follow-moves',
    about: 'item',
  },
} as const satisfies Record<string, Check>;

/** What helps, where no plan can do it for all at once. */
export const adviceOf = (name: CheckName): string | undefined => (CHECKS[name] as Check).advice;

/** The text that a check finds missing, to be written into many. */
export const fieldOf = (name: CheckName): TextField | undefined => (CHECKS[name] as Check).field;

export type CheckName = keyof typeof CHECKS;
export const CHECK_NAMES = Object.keys(CHECKS) as CheckName[];

/** Checks whose findings are one item each, computed from that item's facts. */
export type ItemCheck = {
  [Name in CheckName]: (typeof CHECKS)[Name]['about'] extends 'item' ? Name : never;
}[CheckName];
/** Lines of the balance that groups of checks stand behind: an item is in good order when none of them finds it. */
export const LINES = ['doubles', 'weight', 'rights', 'files'] as const satisfies readonly CheckGroup[];
export type Line = (typeof LINES)[number];
/** The checks behind a line. */
export const checksOf = (line: Line): ItemCheck[] =>
  ITEM_CHECKS.filter((name) => CHECKS[name].group === line);

export const ITEM_CHECKS = CHECK_NAMES.filter((name) => CHECKS[name].about === 'item') as ItemCheck[];
