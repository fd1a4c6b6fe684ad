import { xmlTags } from '../office/xml-tags.ts';

/** An element of a part by its places in the text, so that what is not touched stays as it is written. */
export interface Placed {
  name: string;
  /** From its “<” to behind its end. */
  from: number;
  to: number;
  /** What lies within its tags; the same place twice, where it is empty. */
  inner: { from: number; to: number };
  children: Placed[];
}

/** How deep elements may lie in each other. */
const DEEPEST = 500;

/** The elements of a part. @throws RangeError when its tags don't belong together, or lie too deep */
export function placedTree(xml: string): Placed {
  const top: Placed = {
    name: '',
    from: 0,
    to: xml.length,
    inner: { from: 0, to: xml.length },
    children: [],
  };
  const open = [top];
  for (const { name, is, from, to } of xmlTags(xml)) {
    if (is === 'close') {
      const last = open.pop()!;
      if (last.name !== name || open.length === 0)
        throw new RangeError(`“${name}” ends where it did not begin`);
      last.inner.to = from;
      last.to = to;
      continue;
    }
    const one: Placed = { name, from, to, inner: { from: to, to }, children: [] };
    open.at(-1)!.children.push(one);
    if (is === 'empty') continue;
    if (open.length > DEEPEST) throw new RangeError('elements lie too deep in each other');
    open.push(one);
  }
  if (open.length > 1) throw new RangeError(`“${open.at(-1)!.name}” has no end`);
  return top;
}

export const childOf = (of: Placed | undefined, name: string): Placed | undefined =>
  of?.children.find((one) => one.name === name);

/** Every element with a name, however deep. */
export function* within(of: Placed, name: string): Generator<Placed> {
  for (const one of of.children) {
    if (one.name === name) yield one;
    yield* within(one, name);
  }
}

/** The tag that opens an element. */
export const tagOf = (xml: string, of: Placed): string => xml.slice(of.from, of.inner.from);
export const sliceOf = (xml: string, { from, to }: { from: number; to: number }): string =>
  xml.slice(from, to);
