import type { SitePath } from '../address/path.ts';
import type { Words } from '../describe/record.ts';

/** Where the file of a record is: on the site, set aside in the data folder, or nowhere (taken away by others, undone). */
export const ITEM_STATES = ['here', 'aside', 'absent'] as const;
export type ItemState = (typeof ITEM_STATES)[number];

/** One change of a file. Hashes are SHA-256 in lower-case hex. */
export type FileStep =
  | { do: 'move'; from: SitePath; to: SitePath; sha256: string }
  /** New bytes for a file; `before` null: there is none yet; `after` null: it is removed again. */
  | { do: 'write'; path: SitePath; before: string | null; after: string | null }
  /** Off the site, into the content store. */
  | { do: 'remove'; path: SitePath; sha256: string }
  /** From the content store onto the site. */
  | { do: 'create'; path: SitePath; sha256: string };

/** What a record step can change: where the item is, who looks after it, and its words. */
export interface RecordValues extends Words {
  path: SitePath;
  state: ItemState;
  /** Name of a person; null: nobody. */
  owner: string | null;
}

/** One change of a record. Only fields that change stand in before and after. */
export interface RecordStep {
  itemId: number;
  /** The row version that the change was computed from. */
  rowVersion: number;
  before: Partial<RecordValues>;
  after: Partial<RecordValues>;
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

export const PLAN_KINDS = ['describe', 'rename', 'move', 'set-aside', 'restore', 'bring-in', 'undo'] as const;
export type PlanKind = (typeof PLAN_KINDS)[number];

/** A proposed change of the site and its records. */
export interface Plan {
  kind: PlanKind;
  /** What it does, in a few words: 'Rename “IMG_1.jpg” to “dome.jpg”'. */
  title: string;
  files: FileStep[];
  records: RecordStep[];
  pages: PageChange[];
  clashes: Clash[];
  /** What the person should know before applying. */
  warnings: string[];
  /** Old addresses that will lead on to new ones. */
  redirects: { from: string; to: string }[];
  /** Folders that the plan makes, the outermost first. */
  folders: SitePath[];
  /** Folders that are removed when the plan leaves them empty, the innermost first. */
  leaves?: SitePath[];
  totals: { items: number; pages: number; spans: number; bytesFreed: number };
  /** For an undo: the ledger entry it undoes. */
  undoes?: number;
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
  return plan.files.length === 0 && plan.records.length === 0;
}
