import type { DefaultTreeAdapterTypes as Tree } from 'parse5';

export interface Attribute {
  name: string;
  start: number;
  end: number;
  valueStart: number;
  valueEnd: number;
  quoted: boolean;
  /** Raw text of the value. */
  text: string;
}

/** An element as it is written in the source of a page. */
export interface PageElement {
  name: string;
  parent: string;
  /** The start tag's bytes. */
  tag: { start: number; end: number };
  /** The whole element, where the source closes it. */
  whole: { start: number; end: number } | undefined;
  attributes: Attribute[];
  node: Tree.Element;
}
