import type { TextField } from '../describe/fields.ts';

/** How sure a finding is: bytes tell it, measures tell it, or it is for a person to judge. */
export const SURENESS = {
  certain: 'certain',
  likely: 'very likely',
  judgement: 'for you to judge',
} as const;

/** What can be done about findings, several at once. */
export const REMEDIES = {
  merge: 'keep one of each group',
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
  tags: 'merge the tags',
  redirects: 'drop the redirects',
} as const;
export type Remedy = keyof typeof REMEDIES;

export const CHECK_GROUPS = {
  doubles: 'Doubles',
  use: 'Use',
  references: 'References',
  words: 'Words',
  names: 'Names and places',
  weight: 'Weight',
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
    name: 'Copies',
    what: 'Items whose bytes are the same.',
    why: 'Each is kept up apart from the others, and the words of one are missing at the next.',
    sure: 'certain',
    remedy: 'merge',
    about: 'item',
  },
  'look-alikes': {
    group: 'doubles',
    name: 'Look-alikes',
    what: 'Pictures that show the same in other bytes. Sizes of one picture are a family and no fault.',
    why: 'Nobody knows any more which one is the good one.',
    sure: 'likely',
    remedy: 'merge',
    about: 'item',
  },
  unused: {
    group: 'use',
    name: 'Unused',
    what: 'No page refers to them and no text names them.',
    why: 'They weigh, they are found instead of what is meant, and setting them aside changes nothing for visitors.',
    sure: 'certain',
    remedy: 'set-aside',
    about: 'item',
  },
  mentioned: {
    group: 'use',
    name: 'Mentioned only',
    what: 'No reference was found, but a script, a data file or a text names them.',
    why: 'A script may show them: read the place before one is set aside.',
    sure: 'judgement',
    remedy: 'set-aside',
    about: 'item',
  },
  broken: {
    group: 'references',
    name: 'Broken references',
    what: 'Pages refer to files that are not there.',
    why: 'Visitors see a gap.',
    sure: 'certain',
    remedy: 'repair',
    about: 'reference',
  },
  'idle-redirects': {
    group: 'references',
    name: 'Redirects nobody needs',
    what: 'Redirects that lead nowhere, or whose old address is a file again.',
    why: 'They are never followed to anything.',
    sure: 'certain',
    remedy: 'redirects',
    about: 'redirect',
  },
  'redirect-chains': {
    group: 'references',
    name: 'Redirect chains',
    what: 'Redirects that lead to another redirect.',
    why: 'Each step costs visitors time, and some readers follow none but the first.',
    sure: 'certain',
    remedy: 'redirects',
    about: 'redirect',
  },
  'no-alt': {
    group: 'words',
    name: 'Alt text missing',
    what: 'Pictures without alt text that are not called decorative.',
    why: 'Who does not see them, people and search engines, learns nothing of them.',
    sure: 'certain',
    remedy: 'describe',
    about: 'item',
  },
  'poor-alt': {
    group: 'words',
    name: 'Alt text poor',
    what: 'Alt texts that say a file name, a placeholder, or more than is read out well.',
    why: 'They are read out as they are.',
    sure: 'likely',
    remedy: 'describe',
    about: 'item',
  },
  'same-alt': {
    group: 'words',
    name: 'Same alt text',
    what: 'Different pictures with one alt text.',
    why: 'They cannot be told apart by it.',
    sure: 'judgement',
    remedy: 'describe',
    about: 'item',
  },
  'page-words': {
    group: 'words',
    name: 'Page and record disagree',
    what: 'A page shows another alt text than the record has.',
    why: 'One of the two is out of date.',
    sure: 'judgement',
    remedy: 'describe',
    about: 'item',
  },
  'no-title': {
    group: 'words',
    name: 'Title missing',
    what: 'Films, sounds and documents without a title.',
    why: 'Links to them fall back to the file’s name.',
    sure: 'certain',
    remedy: 'describe',
    about: 'item',
  },
  'no-language': {
    group: 'words',
    name: 'Language missing',
    what: 'Described items without a language, in a library where others have one.',
    why: 'Their words are read out and searched in the wrong language.',
    sure: 'certain',
    remedy: 'write',
    field: 'language',
    about: 'item',
  },
  names: {
    group: 'names',
    name: 'Poor names',
    what: 'Names that say nothing, or hold signs that addresses do not like.',
    why: 'Names are read in addresses, downloads and search results.',
    sure: 'certain',
    remedy: 'rename',
    about: 'item',
  },
  rules: {
    group: 'names',
    name: 'Against the folder’s rule',
    what: 'They do not fit what their folder is for.',
    why: 'Pages that take from this folder look uneven.',
    sure: 'certain',
    remedy: 'gather',
    advice: 'Open each and prepare it anew, or move it to where it belongs.',
    about: 'item',
  },
  'no-folder': {
    group: 'names',
    name: 'Outside any folder',
    what: 'Items that lie in the site’s root.',
    why: 'The root fills up with what nobody finds again.',
    sure: 'judgement',
    remedy: 'gather',
    advice: 'Gather them, then move what you have gathered into a folder: every reference follows.',
    about: 'item',
  },
  'near-tags': {
    group: 'names',
    name: 'Nearly the same tags',
    what: 'Tags that differ in case, accents, an ending or one letter.',
    why: 'Half of what is looked for stands under the other one.',
    sure: 'judgement',
    remedy: 'tags',
    about: 'tag',
  },
  'lone-tags': {
    group: 'names',
    name: 'Tags used once',
    what: 'Tags that only one item bears.',
    why: 'They find nothing that its name does not.',
    sure: 'judgement',
    remedy: 'tags',
    about: 'tag',
  },
  'too-large': {
    group: 'weight',
    name: 'Larger than ever shown',
    what: 'Pictures with more than twice the width at which any page shows them.',
    why: 'Visitors load pixels that no screen draws.',
    sure: 'likely',
    remedy: 'lighter',
    about: 'item',
  },
  format: {
    group: 'weight',
    name: 'Wrong format',
    what: 'Photographs as PNG, drawings as JPEG.',
    why: 'Photographs weigh several times as much as PNG; drawings get dirty edges as JPEG.',
    sure: 'likely',
    remedy: 'convert',
    about: 'item',
  },
  'no-sizes': {
    group: 'weight',
    name: 'No smaller sizes',
    what: 'Large pictures that pages offer in one size only.',
    why: 'Phones load what a wide screen needs.',
    sure: 'likely',
    remedy: 'offer',
    about: 'item',
  },
  'heavy-film': {
    group: 'weight',
    name: 'Heavy films',
    what: 'Films of more than 8 megabits a second.',
    why: 'They stall where the network is slow.',
    sure: 'likely',
    remedy: 'lighter',
    advice: 'Encoding takes many times as long as the film; it goes on in the background and can be stopped.',
    about: 'item',
  },
  'heavy-pdf': {
    group: 'weight',
    name: 'Heavy PDFs',
    what: 'PDFs of more than 1.5 MB a page.',
    why: 'They are opened on phones, too.',
    sure: 'likely',
    remedy: 'lighter',
    about: 'item',
  },
  'no-licence': {
    group: 'rights',
    name: 'No licence',
    what: 'Items whose record names no licence although somebody else is named, or the site’s other items have one.',
    why: 'Nobody can say later whether they may be shown.',
    sure: 'judgement',
    remedy: 'write',
    field: 'licence',
    about: 'item',
  },
  'no-credit': {
    group: 'rights',
    name: 'No credit',
    what: 'Items under a licence, without creator or credit.',
    why: 'Most licences ask for the name.',
    sure: 'likely',
    remedy: 'write',
    field: 'credit',
    about: 'item',
  },
  'licence-over': {
    group: 'rights',
    name: 'Licence over',
    what: 'The licence has ended.',
    why: 'They must not be shown any more.',
    sure: 'certain',
    remedy: 'write',
    field: 'licenceEnd',
    advice:
      'Renewed: write the day on which it ends now into all of them. Not renewed: exchange each where it is shown, then set it aside.',
    about: 'item',
  },
  'licence-ending': {
    group: 'rights',
    name: 'Licence ending',
    what: 'The licence ends within 30 days.',
    why: 'There is time to renew it, or to show something else.',
    sure: 'certain',
    remedy: 'write',
    field: 'licenceEnd',
    advice:
      'Renewed: write the day on which it ends now into all of them. Not renewed: exchange each where it is shown before that day.',
    about: 'item',
  },
  unreadable: {
    group: 'files',
    name: 'Unreadable',
    what: 'Files that cannot be read as what they are.',
    why: 'Visitors get a broken file.',
    sure: 'certain',
    remedy: 'kept',
    advice: 'Where no other bytes are kept, open each and replace it by a whole file; its address stays.',
    about: 'item',
  },
  'other-type': {
    group: 'files',
    name: 'Another type than the name says',
    what: 'The content is of another type than the extension.',
    why: 'Some browsers refuse to show it.',
    sure: 'certain',
    remedy: 'right-endings',
    about: 'item',
  },
  private: {
    group: 'files',
    name: 'Place still inside',
    what: 'Files that tell where they were taken.',
    why: 'Anyone who saves them can read the coordinates.',
    sure: 'certain',
    remedy: 'without-place',
    about: 'item',
  },
  outside: {
    group: 'files',
    name: 'Changed by others',
    what: 'Files whose bytes were changed outside Iconomos.',
    why: 'Words and crops were made for what they showed before.',
    sure: 'certain',
    remedy: 'kept',
    advice:
      'Look whether words and crop still fit what it shows now. If they do, leave the finding alone; if not, bring back what is kept of before.',
    about: 'item',
  },
  missing: {
    group: 'files',
    name: 'Record without file',
    what: 'Records whose file is not there any more.',
    why: 'What is written in them waits for a file that may never come back.',
    sure: 'certain',
    remedy: 'forget',
    advice:
      'Bring the file back under its name and the record joins it again. If it came back under another name, choose that file. Records are only removed when you delete them here; the Ledger can bring them back.',
    about: 'item',
  },
  moved: {
    group: 'files',
    name: 'Moved by others',
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
