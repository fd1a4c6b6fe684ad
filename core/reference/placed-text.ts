/** A text in a page and the bytes that hold it. */
export interface Span {
  text: string;
  /** Byte offsets of what is replaced with it; end is exclusive. */
  start: number;
  end: number;
}

/** The words that stand with one reference, and around it. Null: there is no such attribute or text. */
export interface PlacedWords {
  /** Byte offset of the reference, by which it is known. */
  start: number;
  place: string;
  alt: string | null;
  /** False where there is no alt text by nature: a link, a video, a style sheet. */
  takesAlt: boolean;
  /** The hover text. */
  title: string | null;
  /** The whole text of a link to the item itself, when there is nothing else in the link. */
  linkText: string | null;
  heading: string;
  figcaption: string;
  before: string;
  after: string;
  /** What a reader sees near it: its caption, and some lines each way. */
  near: string;
  neighbours: string[];
  link: { href: string; alone: boolean } | null;
}

/** How the words of a place are written. */
export type Writing = 'attribute' | 'text' | 'md text' | 'md title';

export interface Place extends PlacedWords {
  spans: Partial<
    Record<'alt' | 'title' | 'linkText', Span & { writing: Writing; quote?: string; name?: string }>
  >;
  /** Where an attribute can be added. */
  room?: number;
}
