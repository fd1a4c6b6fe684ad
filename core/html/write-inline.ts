/** Running text of an editor as HTML. In a text that was there, each word, blank and tag that stayed is written as it was. */
import { diffArrays } from 'diff';
import { KEPT_INLINE, type Mark, type RichNode } from '../document/rich.ts';
import { escapeText, escapeValue } from '../reference/markup.ts';
import { endKey, startKey, type ReadInline, type Sources, type Token } from './read-inline.ts';
import { isBlank } from './placed-tree.ts';
import { withAttribute, withoutId } from './start-tag.ts';

type Written = Pick<Token, 'key' | 'source'>;

const TAGS: Readonly<Record<string, string>> = {
  bold: 'strong',
  italic: 'em',
  underline: 'u',
  strike: 's',
  code: 'code',
};

export class InlineWriter {
  private readonly sources: Sources;
  /** Tags that have been written: a second one has no right to the same id. */
  private readonly used = new Set<number>();
  constructor(sources: Sources) {
    this.sources = sources;
  }

  /** Tags of what is written as it was. */
  seen(node: RichNode): void {
    for (const of of [node, ...(node.marks ?? [])]) {
      const tag = of.attrs?.['tag'];
      if (typeof tag === 'number') this.used.add(tag);
    }
    node.content?.forEach((one) => this.seen(one));
  }

  /** @param before as it stood in the file */
  write(node: RichNode, before: ReadInline | undefined): string {
    const now: Written[] = this.nested(trimmed(node.content ?? []), []);
    if (!before) return now.map(({ source }) => source).join('');
    const written: string[] = [before.head];
    let at = 0;
    /** Blanks after what others have come for. */
    let unseen = '';
    for (const { added, removed, value } of diffArrays<Written>(before.tokens, now, {
      comparator: (a, b) => a.key === b.key,
    })) {
      if (removed) {
        at += value.length;
        unseen = before.tokens[at - 1]!.unseen;
        continue;
      }
      if (added) written.push(...value.map(({ source }) => source), unseen);
      else
        for (const stop = at + value.length; at < stop; at++) {
          const { source, unseen: blanks } = before.tokens[at]!;
          written.push(source, blanks);
        }
      unseen = '';
    }
    return written.join('');
  }

  /** @param open marks that are around it */
  private nested(nodes: readonly RichNode[], open: readonly Mark[]): Written[] {
    const all: Written[] = [];
    for (let at = 0; at < nodes.length;) {
      const mark = this.outermost(nodes[at]!, open);
      if (!mark) {
        all.push(...this.leaf(nodes[at]!));
        at++;
        continue;
      }
      let end = at + 1;
      while (end < nodes.length && nodes[end]!.marks?.some((one) => isSame(one, mark))) end++;
      const [start, close] = this.tagOf(mark);
      all.push(start, ...this.nested(nodes.slice(at, end), [...open, mark]), close);
      at = end;
    }
    return all;
  }

  /** As deep as it was; a new link is around all, everything else that is new within all. */
  private outermost(node: RichNode, open: readonly Mark[]): Mark | undefined {
    const depth = ({ type, attrs }: Mark) => {
      const tag = attrs?.['tag'];
      const was = typeof tag === 'number' ? this.sources.tags[tag]?.depth : undefined;
      return was ?? (type === 'link' ? -1 : Infinity);
    };
    return (node.marks ?? [])
      .filter((mark) => !open.some((one) => isSame(one, mark)))
      .reduce<Mark | undefined>(
        (best, mark) => (!best || depth(mark) < depth(best) ? mark : best),
        undefined,
      );
  }

  private tagOf(mark: Mark): [Written, Written] {
    const number = mark.attrs?.['tag'];
    const tag = typeof number === 'number' ? this.sources.tags[number] : undefined;
    const href = String(mark.attrs?.['href'] ?? '');
    if (!tag) {
      const title = mark.attrs?.['title'];
      const written =
        mark.type === 'link'
          ? `<a href="${escapeValue(href)}"${typeof title === 'string' && title ? ` title="${escapeValue(title)}"` : ''}>`
          : `<${TAGS[mark.type] ?? 'span'}>`;
      const name = /[a-z]+/.exec(written)![0];
      return [
        { key: written, source: written },
        { key: `</${name}>`, source: `</${name}>` },
      ];
    }
    const start = this.once(
      number as number,
      mark.type === 'link' ? withAttribute(tag.source, 'href', href) : tag.source,
    );
    return [
      { key: this.keyOf(number as number, start), source: start },
      { key: endKey(number as number), source: tag.end || `</${/[^\s<>/]+/.exec(tag.source)![0]}>` },
    ];
  }

  private once(number: number, source: string): string {
    const again = this.used.has(number);
    this.used.add(number);
    return again ? withoutId(source) : source;
  }
  /** As it was, it is the same tag; else another. */
  private readonly keyOf = (number: number, source: string): string =>
    source === this.sources.tags[number]!.source ? startKey(number) : source;

  private leaf(node: RichNode): Written[] {
    const { attrs = {} } = node;
    if (node.type === 'hardBreak') return [{ key: '<br', source: '<br>' }];
    if (node.type === KEPT_INLINE) {
      const source = this.sources.kept[Number(attrs['key'])] ?? '';
      return [{ key: `kept ${source}`, source }];
    }
    if (node.type === 'image') return [this.image(attrs)];
    return (node.text ?? '').split(/([ \t\n\f\r]+|\u00a0)/).flatMap((piece) => {
      if (piece === '') return [];
      return [isBlank(piece) ? { key: ' ', source: ' ' } : { key: piece, source: written(piece) }];
    });
  }

  private image(attrs: Record<string, unknown>): Written {
    const number = attrs['tag'];
    const tag = typeof number === 'number' ? this.sources.tags[number] : undefined;
    const [src, alt] = [String(attrs['src'] ?? ''), String(attrs['alt'] ?? '')];
    if (tag) {
      // One without an alt text gets none by being read.
      const hadNone = alt === '' && withAttribute(tag.source, 'alt', null) === tag.source;
      const source = this.once(
        number as number,
        hadNone ? tag.source : withAttribute(tag.source, 'alt', alt),
      );
      return { key: this.keyOf(number as number, source), source };
    }
    const size = ['width', 'height']
      .map((name) => (attrs[name] ? ` ${name}="${Number(attrs[name])}"` : ''))
      .join('');
    const source = `<img src="${escapeValue(src)}" alt="${escapeValue(alt)}"${size}>`;
    return { key: source, source };
  }
}

const isSame = (one: Mark, other: Mark): boolean =>
  one.type === other.type &&
  ['tag', 'href'].every((name) => (one.attrs?.[name] ?? null) === (other.attrs?.[name] ?? null));

/** Words as HTML has them; a blank that must not break is written so that it is seen. */
const written = (word: string): string => escapeText(word).replace(/\u00a0/g, '&nbsp;');

/** Without blanks at its ends and beside others, which nobody sees. */
export function trimmed(nodes: readonly RichNode[]): RichNode[] {
  const all: RichNode[] = [];
  let afterBlank = true;
  for (const node of nodes) {
    if (node.text === undefined) {
      if (node.type === 'hardBreak') dropBlank(all);
      all.push(node);
      afterBlank = node.type === 'hardBreak';
      continue;
    }
    const text = node.text.replace(/[ \t\n\f\r]+/g, ' ');
    const shown = afterBlank ? text.replace(/^ /, '') : text;
    if (shown === '') continue;
    all.push({ ...node, text: shown });
    afterBlank = shown.endsWith(' ');
  }
  dropBlank(all);
  return all;
}
function dropBlank(nodes: RichNode[]): void {
  const last = nodes.at(-1);
  if (!last?.text?.endsWith(' ')) return;
  const text = last.text.slice(0, -1);
  if (text === '') nodes.pop();
  else nodes[nodes.length - 1] = { ...last, text };
}
