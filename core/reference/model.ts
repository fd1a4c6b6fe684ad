import type { SitePath } from '../address/path.ts';

/** How an address is written at its place, which decides how it is decoded and how a new one is encoded. */
export type Writing =
  /** A whole HTML, SVG or XML attribute value: character references. */
  | 'attribute'
  /** One candidate's address inside a srcset attribute. */
  | 'srcset'
  /** Inside url( ) without quotes. */
  | 'css-bare'
  /** A CSS string, also the quoted one inside url( ). */
  | 'css-string'
  /** A bare CSS url inside an HTML attribute: CSS escapes inside character references. */
  | 'attribute-css-bare'
  | 'attribute-css-string'
  /** A Markdown destination: backslash escapes and character references. */
  | 'markdown'
  /** Inside double quotes of JSON, YAML or TOML: backslash escapes. */
  | 'escaped'
  /** Inside single quotes of YAML: a quote is written twice. */
  | 'single-quoted'
  /** As it stands: plain YAML, single quotes of TOML. */
  | 'plain';

/** One reference: a span of source text that names a file. */
export interface Reference {
  /** Byte offsets of the address's own characters in the file; end is exclusive. */
  start: number;
  end: number;
  /** Line of `start`, from 1. */
  line: number;
  /** The address as decoded from the source (entities, CSS escapes), before any URL processing. */
  url: string;
  writing: Writing;
  /** Where it stands, in the language's own terms: 'img src', 'a href', 'css url()', 'md image'. */
  place: string;
  /** For `img`: the alt attribute's text, or null when the element has none. Undefined for all other places. */
  alt?: string | null;
  /** CSS pixels that an `img` is wide by its own attribute or style. */
  wide?: number;
  /** Of an element that offers one image in several sizes (srcset): where it starts, the same for all of them. */
  sizesOf?: number;
  /**
   * Its place does not say what it is relative to (data, front matter, Markdown that a generator builds elsewhere): from
   * the file it stands in, else from the site's root. Leading nowhere, it is no broken reference.
   */
  loose?: true;
  /** Base of this reference when it is not the page's own: from `base href`. */
  base?: string;
}

/** What one content file says. */
export interface PageReading {
  title: string;
  references: Reference[];
  /** Addresses by which the page says where it is published (rel=canonical, og:url). */
  canonical: string[];
  /** Why the file could not be read by its language, in a sentence; its raw text is searched for names instead. */
  unread?: string;
}

/** Where a reference leads. */
export type Target =
  | { to: 'file'; path: SitePath }
  /** Inside the site, but there is no such file. `near` is the file that differs only in case. */
  | { to: 'missing'; path: SitePath; near?: SitePath }
  | { to: 'above' }
  | { to: 'external' }
  | { to: 'none' };
