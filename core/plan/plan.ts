import type { SitePath } from '../address/path.ts';
import type { Words } from '../describe/fields.ts';
import type { PlanKind } from './verbs.ts';

/** Where the file of a record is: on the site, not there yet or set aside (in the data folder), or nowhere (taken away by others, undone). */
export const ITEM_STATES = ['here', 'draft', 'aside', 'absent'] as const;
export type ItemState = (typeof ITEM_STATES)[number];
/** What is asked for: items in one state, or in any in which they have a file. */
export type StateAsked = ItemState | 'any';

/** What is to be done with an item: nothing, look it through, bring it up to date. */
export const REVIEW_STATES = ['', 'in-review', 'to-update'] as const;
export type ReviewState = (typeof REVIEW_STATES)[number];

/** The permissions of a file, and the numbers of the user and the group that it belongs to; left out: as new files have them. */
export interface FileRights {
  mode?: number | undefined;
  owner?: readonly [number, number] | undefined;
}

/** One change of a file. Hashes are SHA-256 in lower-case hex. */
export type FileStep =
  | { do: 'move'; from: SitePath; to: SitePath; sha256: string }
  /** New bytes for a file; `before` null: there is none yet; `after` null: it is removed again. */
  | { do: 'write'; path: SitePath; before: string | null; after: string | null }
  /** Off the site, into the content store. Who may do what with the file is noted when it is applied. */
  | ({ do: 'remove'; path: SitePath; sha256: string } & FileRights)
  /** From the content store onto the site. */
  | ({ do: 'create'; path: SitePath; sha256: string } & FileRights)
  | { do: 'make-folder'; path: SitePath }
  /** Only an empty one. */
  | { do: 'drop-folder'; path: SitePath };

/** What a record step can change: where the item is, who looks after it, and its words. */
export interface RecordValues extends Words {
  path: SitePath;
  state: ItemState;
  /** Name of a person; null: nobody. */
  owner: string | null;
  /** Others have changed the file, or, when it is not there, taken it away. */
  outside: boolean;
  /** Where it lay before others moved it, until that has been seen; null: they have not. */
  movedFrom: SitePath | null;
  /** What must be seen of an image, as percents from the left and from the top: '31.5 40'; '': its middle. */
  focal: string;
  /** How its file was made of its original, as JSON (see recipe/edit.ts); '': it was not. */
  edit: string;
  /** Of a draft, or of a record that gets another file: its bytes and what they are, as JSON (see draft-content.ts). */
  content: string;
  /** What people have to do with it: it is looked through, or has to be brought up to date; '': nothing. */
  review: ReviewState;
  /** By when, as a date (2027-03-01); '': whenever. */
  due: string;
  /** What a person has said of its family: null: as it is found; 0: it stands for itself; else the image that it is a size of. */
  family: number | null;
}

/** One change of a record. Only fields that change stand in before and after. */
export interface RecordStep {
  itemId: number;
  /** The row version that the change was computed from. */
  rowVersion: number;
  before: Partial<RecordValues>;
  after: Partial<RecordValues>;
}

/** What is kept beside the records: how folders and tags are meant, and the queries that people keep. */
export const SETTING_NAMESPACES = [
  'folder-rule',
  'tag-spelling',
  'tag-above',
  'kept-query',
  'name-pattern',
  'treatment',
  'own-field',
  'layout',
  'dismissal',
  'comment',
  'person',
  'proposal',
  'proposer',
  'service',
  'suggested-tags',
  'link-form',
  'upkeep',
] as const;
export type SettingNamespace = (typeof SETTING_NAMESPACES)[number];
/** A value of JSON; null: there is none. */
export type SettingValue = string | { readonly [key: string]: unknown } | null;

/** One change of a setting. Its key: the folder, the spelling, the tag, the name of the query, pattern or field. */
export interface SettingStep {
  namespace: SettingNamespace;
  key: string;
  before: SettingValue;
  after: SettingValue;
}

/** One replaced address in a page, as it is shown. */
export interface ShownChange {
  line: number;
  place: string;
  oldUrl: string;
  newUrl: string;
}

export interface PageChange {
  page: SitePath;
  changes: ShownChange[];
}

/** Something that stands in the way: the plan cannot be applied while there is one. */
export interface Clash {
  path: SitePath;
  why: string;
}

/** An image as its file is. */
export interface ImageFacts {
  /** In pixels. */
  width: number;
  height: number;
  bytes: number;
  mime: string;
  /** Of its bytes; of entries from before it was kept: not known. */
  sha256?: string;
}
/** An image that a plan makes anew, as it is shown. */
export interface ChangedImage {
  /** Of entries from before it was kept: not known. */
  itemId?: number;
  path: SitePath;
  /** Where it lies then, where that is elsewhere. */
  to?: SitePath;
  before: ImageFacts;
  after: ImageFacts;
  /** What was not done as asked, in sentences. */
  notes: string[];
}

/** A proposed change of the site and its records. */
export interface Plan {
  kind: PlanKind;
  /** What it does, in a few words: 'Rename “IMG_1.jpg” to “dome.jpg”'. */
  title: string;
  files: FileStep[];
  records: RecordStep[];
  settings?: SettingStep[];
  pages: PageChange[];
  clashes: Clash[];
  /** What the person should know before applying. */
  warnings: string[];
  /** Old addresses that will lead on to new ones; `was`: where an older redirect led, which is pointed on. */
  redirects: { from: string; to: string; was?: string }[];
  /** Folders that the plan makes, the outermost first. */
  folders: SitePath[];
  /** Those that were really made, noted when it is applied: taking it back removes them. */
  makes?: SitePath[];
  /** Folders that are removed when the plan leaves them empty, the innermost first. */
  leaves?: SitePath[];
  /** Images that are made anew, before and after. */
  images?: ChangedImage[];
  /** What words go into files and beside them, in words, by path. */
  written?: Record<SitePath, string>;
  totals: { items: number; pages: number; spans: number; bytesFreed: number };
  /** For an undo: the ledger entry it undoes. */
  undoes?: number;
  /** Later entries that it takes back with it. */
  undoesToo?: number[];
  /** For an undo that cannot be: with so many later changes it can. */
  undoTogether?: number;
}

/** A plan that does nothing yet; the compute functions fill it. */
export function emptyPlan(kind: PlanKind, title: string): Plan {
  return {
    kind,
    title,
    files: [],
    records: [],
    pages: [],
    clashes: [],
    warnings: [],
    redirects: [],
    folders: [],
    totals: { items: 0, pages: 0, spans: 0, bytesFreed: 0 },
  };
}

/** True when applying would change nothing. */
export function isEmpty(plan: Plan): boolean {
  return plan.files.length === 0 && plan.records.length === 0 && (plan.settings ?? []).length === 0;
}
