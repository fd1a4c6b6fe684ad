import type { PictureHashes } from '../picture/windows.ts';

/** Longer side, in pixels, of the two images made of every item that can be seen: contact sheet, and one item. */
export const THUMBNAIL_SIZES = [320, 1280] as const;

/** What an image is compared by (core/picture/windows). */
export interface Signature extends PictureHashes {
  plane: Uint8Array;
  chroma: Int8Array;
  /** Width by height. */
  aspect: number;
}

/** What is computed from bytes beside their hash and measures. */
export interface Analysis {
  /** The two small images lie in the thumbnail folder. */
  preview: boolean;
  /** ThumbHash of the image, base64: what is shown until the thumbnail has come. */
  placeholder: string | null;
  colours: string[];
  /** For look-alikes: images only. */
  signature: Signature | null;
  /** Different colours in the small image, as a share of its pixels; null: there is none. */
  shades: number | null;
  /** Nothing shines through. */
  opaque: boolean;
  frames: number;
  pages: number | null;
  text: string;
  /** Sentences for the person. */
  notes: string[];
  /** In a sentence, why it cannot be read to its end; null: it can, or nobody has tried. */
  damaged: string | null;
}

/** Of what cannot be seen or read. */
export const NOTHING: Analysis = {
  preview: false,
  placeholder: null,
  colours: [],
  signature: null,
  shades: null,
  opaque: true,
  frames: 1,
  pages: null,
  text: '',
  notes: [],
  damaged: null,
};
