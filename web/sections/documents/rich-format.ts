import type { Extensions } from '@tiptap/core';
import type { ItemView } from '../../../api/items.ts';
import type { RichNode } from '../../../core/document/rich.ts';

/** What can be done in a text beside writing: not every kind of file can hold everything. */
export type RichTool =
  | 'Bold'
  | 'Italic'
  | 'Underline'
  | 'Strikethrough'
  | 'Code'
  | 'Bulleted list'
  | 'Numbered list'
  | 'Quotation'
  | 'Horizontal line'
  | 'Link …'
  | 'Image …'
  | 'Table';

/** How the running text of a kind of file is read into an editor, and put into words again. */
export interface RichFormat {
  doc: RichNode;
  nodes: Extensions;
  tools: readonly RichTool[];
  /** The file's own language, as people name it. */
  language: string;
  /** What the editor can't change, as a sentence; '': nothing. */
  told: string;
  /** `differs`: what would be read as something else than it looks like, in words. */
  write(doc: RichNode): { text: string; differs: string | undefined };
  /** An image of the library, as a node has it; undefined: it can't be put in. */
  image(item: ItemView): Promise<{ src: string; alt: string; width?: number; height?: number } | undefined>;
}
