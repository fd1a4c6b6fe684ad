import { type SitePath } from '../address/path.ts';
import type { PageReading } from '../reference/model.ts';
/** What content tells of an item: everything that takes reading the whole file. */
export interface ItemFacts {
  sha256: string;
  /** The media type of the content, where it can be told; undefined for plain text and unknown formats. */
  contentMime?: string;
  /** Pixels after orientation, for images and videos. */
  width?: number;
  height?: number;
  /** Seconds, for videos and sounds. */
  duration?: number;
  /** Formats of the tracks, for videos and sounds: 'AVC, AAC'. */
  codecs?: string;
  /** Why the content could not be read by its kind, in a sentence. */
  unreadable?: string;
}

/** No file has this time, so it counts as changed, and is read again. */
export const UNSURE = -1;

/** What is known of one file of the site. */
export interface FileFacts {
  path: SitePath;
  bytes: number;
  /** When it was changed last, in milliseconds since 1970; or UNSURE. */
  mtimeMs: number;
  sha256: string;
  hidden: boolean;
  /** For items. */
  item?: Omit<ItemFacts, 'sha256'>;
  /** For every file whose bytes are text. */
  isText: boolean;
  /** It may hold references or names, and could not even be searched for them. */
  unsearched?: true;
  /** For pages. */
  reading?: PageReading;
}
