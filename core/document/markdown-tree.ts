import type { Root, RootContent } from 'mdast';
import { fromMarkdown } from 'mdast-util-from-markdown';
import { gfmFromMarkdown } from 'mdast-util-gfm';
import { gfm } from 'micromark-extension-gfm';

/** A block of a text, with where it stands in it. */
export interface PlacedBlock {
  node: RootContent;
  from: number;
  to: number;
}
/** Sections that have been read, by their text and what they may refer to: what nobody touches need not be read again. */
export type ReadSections = Map<string, readonly PlacedBlock[]>;

/** Sections that are kept. */
const MOST_KEPT = 4000;
/** Characters that a section has at least, so that not too many are read one by one. */
const LEAST = 2000;
/** Characters of definitions with which it is worth while to read sections alone. */
const MOST_DEFINITIONS = 4000;

/** Markdown as a tree: CommonMark with the tables, strike-through, footnotes and boxes to tick of GitHub Flavored Markdown. */
export const treeOf = (text: string): Root =>
  fromMarkdown(text, { extensions: [gfm()], mdastExtensions: [gfmFromMarkdown()] });

/** The blocks of a text. A long one is read section by section, which says the same as reading it whole. */
export function placedBlocks(text: string, kept: ReadSections): PlacedBlock[] {
  const sections = sectionsOf(text);
  if (!sections) return placed(text, 0);
  const { definitions, starts } = sections;
  // A heading ends a footnote, which would take what stands further in for its own.
  const before = definitions === '' ? '' : `${definitions}\n\n#\n\n`;
  const blocks: PlacedBlock[] = [];
  if (kept.size > MOST_KEPT) kept.clear();
  for (const [at, start] of starts.entries()) {
    const source = text.slice(start, starts[at + 1] ?? text.length);
    const key = `${before}\0${source}`;
    const read = kept.get(key) ?? placed(before + source, before.length);
    kept.set(key, read);
    for (const { node, from, to } of read) blocks.push({ node, from: from + start, to: to + start });
  }
  return blocks;
}

/** @param before characters in front that are no part of the text */
function placed(text: string, before: number): PlacedBlock[] {
  return treeOf(text).children.flatMap((node) => {
    const { start, end } = node.position!;
    return start.offset! < before ? [] : [{ node, from: start.offset! - before, to: end.offset! - before }];
  });
}

const HEADING = /^#{1,6}(?:[ \t]|$)/;
const FENCE = /^(`{3,}|~{3,})/;
/** HTML that may go on past empty lines (CommonMark, 4.6, kinds 1 to 5). */
const LONG_HTML = /^ {0,3}<(?:script|pre|style|textarea|!|\?)/i;
const DEFINITION = /^ {0,3}\[[^\]\n]+\]:/;
/** Definitions that can be read alone: on one line, with their address. */
const PLAIN_DEFINITION = /^\[[^\]\n]+\]:[ \t]*\S[^\n]*$/;

/**
 * Where the sections of a text begin: at headings, which end every list and quotation, and can't stand within a paragraph. Undefined: it is
 * short, or something in it may reach past them.
 */
function sectionsOf(text: string): { definitions: string; starts: number[] } | undefined {
  if (text.length < 2 * LEAST) return undefined;
  const starts = [0];
  const definitions: string[] = [];
  let fence = '';
  let empty = true;
  let at = 0;
  for (const line of text.split('\n')) {
    if (fence !== '') {
      const end = FENCE.exec(line)?.[1];
      if (end?.startsWith(fence) && line.trim() === end) fence = '';
      empty = false;
    } else {
      // Within lists and quotations, it can't be told without reading where such a thing ends.
      if (LONG_HTML.test(line) || /^[ \t>]+(?:[-*+>]\s+|\d+[.)]\s+)*(?:`{3}|~{3})/.test(line))
        return undefined;
      if (/^(?:[-*+]|\d+[.)])\s+(?:`{3}|~{3})/.test(line)) return undefined;
      if (/\[[^[\]\n]+\]:/.test(line)) {
        if (DEFINITION.test(line) && !PLAIN_DEFINITION.test(line)) return undefined;
        if (PLAIN_DEFINITION.test(line)) definitions.push(line);
        else if (/^[\s>*+\d.)-]*\[[^\]\n]+\]:/.test(line)) return undefined;
      }
      fence = FENCE.exec(line)?.[1] ?? '';
      if (empty && HEADING.test(line) && at - starts.at(-1)! >= LEAST) starts.push(at);
      empty = line.trim() === '';
    }
    at += line.length + 1;
  }
  const all = definitions.join('\n\n');
  // What refers to nothing yet may do so once it is defined, wherever that stands.
  return starts.length < 2 || all.length > MOST_DEFINITIONS ? undefined : { definitions: all, starts };
}
