import type { RichNode } from '../document/rich.ts';

/** A document as it is put on paper. */
export interface PrintDocument {
  title: string;
  /** BCP 47, as “en-GB”; '': not known. */
  language: string;
  /** Of a page, in points of 1/72 inch. */
  page: { width: number; height: number; margin: number };
  /** Headings, paragraphs, lists, tables, images and horizontal lines, as an editor holds them. */
  doc: RichNode;
  /** What isn't in it as it is in the document, each as a sentence. */
  notes: readonly string[];
}

/** ISO 216, in points. */
export const A4 = { width: 595.28, height: 841.89, margin: 56.69 };

/** A run of letters that look the same. */
export interface PrintRun {
  text: string;
  bold: boolean;
  italic: boolean;
  underline: boolean;
  strike: boolean;
  code: boolean;
  href: string;
}

/** The letters of a block; images stand by themselves. */
export function runsIn(node: RichNode): (PrintRun | RichNode)[] {
  const runs: (PrintRun | RichNode)[] = [];
  for (const one of node.content ?? []) {
    if (one.type === 'image') {
      runs.push(one);
      continue;
    }
    const has = (type: string) => one.marks?.some((mark) => mark.type === type) ?? false;
    const href = one.marks?.find(({ type }) => type === 'link')?.attrs?.['href'];
    const text = one.type === 'hardBreak' ? '\n' : (one.text ?? String(one.attrs?.['says'] ?? ''));
    const last = runs.at(-1);
    // A line ends with what stands in it.
    if (one.type === 'hardBreak' && last && isRun(last)) last.text += text;
    else if (text !== '')
      runs.push({
        text,
        bold: has('bold'),
        italic: has('italic'),
        underline: has('underline'),
        strike: has('strike'),
        code: has('code'),
        href: typeof href === 'string' ? href : '',
      });
  }
  return runs;
}

export const isRun = (one: PrintRun | RichNode): one is PrintRun => 'href' in one;
