import { z } from 'zod';
import { ORIGIN, sameRich, type RichNode } from '../document/rich.ts';

/** Why a text can't be written into its document, as a sentence for people. */
export class NoSuchText extends Error {}

/** What somebody has written in a document and not saved yet. */
export interface WordDraft {
  /** The version that it is made of, by its hash; undefined: the one on the site when it was opened. */
  from: string | undefined;
  /** The blocks of the text: a number is one of that version, as it is there; undefined: nothing has changed. */
  blocks: readonly (RichNode | number)[] | undefined;
}

/** How deep nodes may lie in each other: lists in lists, in cells of tables. */
const DEEPEST = 100;
const Attributes = z.record(z.string(), z.union([z.string(), z.number(), z.boolean(), z.null()]));
const Node: z.ZodType<RichNode> = z.lazy(() =>
  z.strictObject({
    type: z.string().max(40),
    attrs: Attributes.optional(),
    content: z.array(Node).optional(),
    marks: z
      .array(
        z.strictObject({
          type: z.enum(['bold', 'italic', 'underline', 'strike', 'code', 'link']),
          attrs: Attributes.optional(),
        }),
      )
      .optional(),
    text: z.string().optional(),
  }),
) as z.ZodType<RichNode>;
const Kept = z.strictObject({
  from: z
    .string()
    .regex(/^[0-9a-f]{64}$/)
    .optional(),
  blocks: z.array(z.union([Node, z.int().min(0)])).optional(),
});

/** As it is kept; '': nothing is changed. */
export const wordDraftAsText = ({ from, blocks }: WordDraft): string =>
  from === undefined && blocks === undefined ? '' : JSON.stringify({ from, blocks });

/** @throws NoSuchText when the text is none of `wordDraftAsText` */
export function wordDraftOf(text: string): WordDraft {
  if (text === '') return { from: undefined, blocks: undefined };
  try {
    if (depthOf(text) > DEEPEST * 4) throw new RangeError('too deep');
    const { from, blocks } = Kept.parse(JSON.parse(text));
    return { from, blocks };
  } catch {
    throw new NoSuchText('The changes to this document can’t be read. Reload it.');
  }
}

/** How deep brackets lie in each other in a text of JSON. */
function depthOf(json: string): number {
  let [depth, most] = [0, 0];
  for (const [sign] of json.matchAll(/"(?:[^"\\]|\\.)*"|[[\]{}]/g)) {
    if (sign === '[' || sign === '{') most = Math.max(most, ++depth);
    else if (sign === ']' || sign === '}') depth--;
  }
  return most;
}

/** The blocks of an edited text; those that are as they were by their number. @param was as it was read */
export function blocksOf(was: RichNode, doc: RichNode): WordDraft['blocks'] {
  const old = was.content ?? [];
  const now = withoutRoom(doc.content ?? []);
  let next = 0;
  const blocks = now.map((node) => {
    const at = [next, next + 1].find((one) => old[one] !== undefined && sameRich(old[one], node));
    if (at === undefined) {
      // One in its place: those after it are where they were.
      if (now.length === old.length) next++;
      return node;
    }
    next = at + 1;
    return at;
  });
  const isSame = blocks.length === old.length && blocks.every((one, at) => one === at);
  return isSame ? undefined : blocks;
}

/** Without the empty line that editors keep after the last block, to write in. */
function withoutRoom(nodes: readonly RichNode[]): readonly RichNode[] {
  const last = nodes.at(-1);
  const isRoom =
    last?.type === 'paragraph' && !last.content?.length && typeof last.attrs?.[ORIGIN] !== 'number';
  return isRoom && nodes.length > 1 ? nodes.slice(0, -1) : nodes;
}

/** The text of a draft. @param was the version that it is made of, as it was read @throws NoSuchText */
export function docOf(was: RichNode, blocks: WordDraft['blocks']): RichNode {
  if (!blocks) return was;
  return {
    type: 'doc',
    content: blocks.map((one) => {
      const node = typeof one === 'number' ? was.content?.[one] : one;
      if (!node) throw new NoSuchText('The changes to this document are of another version. Reload it.');
      return node;
    }),
  };
}

/** Images that come into the document, by their `src`. */
export function newImagesOf(blocks: WordDraft['blocks']): string[] {
  const found = new Set<string>();
  const walk = (node: RichNode | number) => {
    if (typeof node === 'number') return;
    const src = node.type === 'image' ? node.attrs?.['src'] : undefined;
    if (typeof src === 'string' && src.startsWith(NEW_IMAGE)) found.add(src);
    node.content?.forEach(walk);
  };
  blocks?.forEach(walk);
  return [...found];
}
/** How an image of the library is named in a text that it was put into: by its item. */
export const NEW_IMAGE = 'item:';
