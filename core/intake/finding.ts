import type { SitePath } from '../address/path.ts';
import type { Recipe } from '../picture/recipe/recipe.ts';
import type { FolderRule } from './rules.ts';

/** What the door can find about a file, in the order it is told. */
export const FINDING_CODES = [
  'archive',
  'edited',
  'same',
  'twin',
  'alike',
  'clash',
  'namesake',
  'kind',
  'small',
  'shape',
  'treat',
  'heavy',
  'place',
  'name',
  'type',
  'note',
  'given',
  'undescribed',
] as const;

export type FindingCode = (typeof FINDING_CODES)[number];

/** The remedies that a person chooses between. */
export const CHOICES = {
  archive: ['keep', 'unpack'],
  same: ['use', 'keep'],
  twin: ['one', 'keep'],
  alike: ['keep', 'replace', 'skip'],
  clash: ['number', 'replace'],
  small: ['keep', 'skip'],
  treat: ['treat', 'keep'],
  heavy: ['shrink', 'keep'],
  place: ['remove', 'keep', 'skip'],
  type: ['convert', 'keep'],
} as const;

export type ChoiceCode = keyof typeof CHOICES;

export type Choices = { [Code in ChoiceCode]?: (typeof CHOICES)[Code][number] | undefined };

export interface Remedy {
  key: string;
  text: string;
}

export interface Finding {
  code: FindingCode;
  /** A sentence for the person. */
  text: string;
  /** 'asks': nothing happens before an answer. 'warns': likely a mistake. 'tells': for knowledge. */
  weight: 'asks' | 'warns' | 'tells';
  remedies: Remedy[];
  /** The remedy that is taken as it stands. */
  chosen?: string;
  /** The item it speaks of. */
  itemId?: number;
  path?: SitePath;
}

/** An item that a file is compared with. */
export interface Known {
  itemId: number;
  path: SitePath;
  width?: number | null;
  height?: number | null;
  bytes?: number;
}

/** What an archive holds: files worth unpacking, their bytes; or in a sentence why it cannot be unpacked. */
export interface Archive {
  files: number;
  bytes: number;
  fault?: string;
}

/** What the findings are computed from. */
export interface Checked {
  givenName: string;
  /** The name it will have. */
  name: string;
  /** The name it would have had without a proposal made of words, if that differs. */
  plainName: string;
  folder: SitePath;
  kind: string;
  mime: string;
  /** It was sent as this media type, which browsers do not show, and can be decoded here; null: any other. */
  convertible: string | null;
  bytes: number;
  /** Of the copy that was made for the site, once there is one. */
  readyBytes: number | null;
  width: number | null;
  height: number | null;
  frames: number;
  /** It contains the place where it was taken, or serial numbers and owner names; `stays`: that could not be taken out. */
  private: { place: boolean; device: boolean; stays: boolean };
  /** The site's setting: such facts stay unless a person takes them out. */
  keepPrivate: boolean;
  archive: Archive | null;
  /** Sentences from reading its content. */
  notes: readonly string[];
  described: boolean;
  same: readonly Known[];
  /** The name of a file further up on the list with the same bytes. */
  twin: string | null;
  /** The name of a file further up on the list that will have the same address, with other bytes. */
  namesake: string | null;
  alike: readonly (Known & { turned: boolean })[];
  /** The item that has the address already, with other content. */
  clash: Known | null;
  rule: FolderRule;
  choices: Choices;
  /** What a person has made of it on the bench; null: nothing. */
  recipe: Recipe | null;
}

/** What will become of a file when it is brought in. */
export type Outcome =
  | { do: 'bring-in' }
  | { do: 'replace'; itemId: number; path: SitePath }
  | { do: 'leave-out'; instead: Known | null }
  | { do: 'unpack' }
  | { do: 'ask' };
