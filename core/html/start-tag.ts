/** A start tag as it is written, changed only where it has to be. */
import { parseFragment, type DefaultTreeAdapterTypes } from 'parse5';
import { escapeValue } from '../reference/markup.ts';

/** With another name; its attributes stay. */
export const renamed = (tag: string, name: string): string => tag.replace(/^<[^\s/>]+/, `<${name}`);

/** With an attribute of this value; null: without it. The others stay as they are written. */
export function withAttribute(tag: string, name: string, value: string | null): string {
  const before = valueOf(tag, name);
  if (before === (value ?? undefined)) return tag;
  const at = placeOf(tag, name);
  if (value === null) return at ? tag.slice(0, at.startOffset).trimEnd() + tag.slice(at.endOffset) : tag;
  const written = `${name}="${escapeValue(value)}"`;
  if (at) return tag.slice(0, at.startOffset) + written + tag.slice(at.endOffset);
  const end = /\/?>$/.exec(tag)?.[0] ?? '';
  return `${tag.slice(0, tag.length - end.length).trimEnd()} ${written}${end}`;
}

/** The name as some elements have it by which they are found: one of two has to go without. */
export const withoutId = (tag: string): string => withAttribute(tag, 'id', null);

const elementOf = (tag: string): DefaultTreeAdapterTypes.Element | undefined => {
  // The parser takes cells and rows only within tables; attributes are read alike in any element.
  const [node] = parseFragment(renamed(tag, 'span'), { sourceCodeLocationInfo: true }).childNodes;
  return node as DefaultTreeAdapterTypes.Element | undefined;
};
function placeOf(tag: string, name: string): { startOffset: number; endOffset: number } | undefined {
  const place = elementOf(tag)?.sourceCodeLocation?.attrs?.[name];
  if (!place) return undefined;
  const shift = tag.length - renamed(tag, 'span').length;
  return { startOffset: place.startOffset + shift, endOffset: place.endOffset + shift };
}
/** Of an attribute; undefined: it has none. */
export const valueOf = (tag: string, name: string): string | undefined =>
  elementOf(tag)?.attrs.find((one) => one.name === name)?.value;
