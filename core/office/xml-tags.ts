/** A tag of XML, by its place in the text: from its “<” to behind its “>”. */
export interface XmlTag {
  name: string;
  is: 'open' | 'close' | 'empty';
  from: number;
  to: number;
}

/**
 * The tags of a part, one after the other, with their places: to change some of it and leave the rest as it is, byte for byte. Comments, CDATA
 * and instructions are passed over. The part must have been read without a fault.
 */
export function* xmlTags(text: string, start = 0, end = text.length): Generator<XmlTag> {
  for (let from = text.indexOf('<', start); from >= 0 && from < end; from = text.indexOf('<', from)) {
    const skip = PASSED_OVER.find(([begin]) => text.startsWith(begin, from));
    if (skip) {
      const over = text.indexOf(skip[1], from);
      if (over < 0) return;
      from = over + skip[1].length;
      continue;
    }
    let to = from + 1;
    for (let quote = ''; to < text.length; to++) {
      const sign = text[to]!;
      if (quote) {
        if (sign === quote) quote = '';
      } else if (sign === '"' || sign === "'") quote = sign;
      else if (sign === '>') break;
    }
    to++;
    const closing = text[from + 1] === '/';
    NAME.lastIndex = from + (closing ? 2 : 1);
    const name = NAME.exec(text)?.[0] ?? '';
    yield { name, is: closing ? 'close' : text[to - 2] === '/' ? 'empty' : 'open', from, to };
    from = to;
  }
}
const NAME = /[^\s/>]+/y;
const PASSED_OVER = [
  ['<!--', '-->'],
  ['<![CDATA[', ']]>'],
  ['<?', '?>'],
  ['<!', '>'],
] as const;

const attribute = (name: string) => new RegExp(String.raw`\s${name}\s*=\s*(?:"([^"]*)"|'([^']*)')`);

/** An attribute of a tag, with its entities resolved; undefined: it has none. */
export function attributeOf(tag: string, name: string): string | undefined {
  const found = attribute(name).exec(tag);
  return found ? fromXml(found[1] ?? found[2] ?? '') : undefined;
}

/** A tag with an attribute set, or without it. */
export function withAttribute(tag: string, name: string, value: string | undefined): string {
  const there = attribute(name);
  const now = value === undefined ? '' : ` ${name}="${toXml(value).replaceAll('"', '&quot;')}"`;
  if (there.test(tag)) return tag.replace(there, () => now);
  const end = tag.endsWith('/>') ? '/>' : '>';
  return tag.slice(0, -end.length).trimEnd() + now + end;
}

/** The tag that opens an element, of one that may be empty. */
export const openTag = (tag: string): string => (tag.endsWith('/>') ? `${tag.slice(0, -2).trimEnd()}>` : tag);

/** Text as it stands in XML; signs that XML can't have are left out (XML 1.0, 2.2). */
export const toXml = (text: string): string =>
  text
    // eslint-disable-next-line no-control-regex -- they are what is left out
    .replace(/[\u0000-\u0008\u000b\u000c\u000e-\u001f\ufffe\uffff]/g, '')
    .replaceAll('&', '&amp;')
    .replaceAll('<', '&lt;')
    .replaceAll('>', '&gt;');

const ENTITIES: Readonly<Record<string, string>> = { amp: '&', lt: '<', gt: '>', quot: '"', apos: "'" };

export const fromXml = (text: string): string =>
  text.replace(
    /&(?:#x([\da-f]+)|#(\d+)|(\w+));/gi,
    (whole, hex?: string, decimal?: string, name?: string) => {
      if (name !== undefined) return ENTITIES[name] ?? whole;
      const code = hex === undefined ? Number(decimal) : parseInt(hex, 16);
      return code <= 0x10ffff ? String.fromCodePoint(code) : whole;
    },
  );

/**
 * XML with the texts of some elements made into others; these hold nothing but text.
 * @param changeOf by the name and the tag of an element, what makes another text of its own; undefined: it stays
 */
export function withTexts(
  xml: string,
  changeOf: (name: string, tag: string) => ((text: string) => string) | undefined,
): string {
  let done = '';
  let at = 0;
  let open: { to: number; change: (text: string) => string } | undefined;
  for (const { name, is, from, to } of xmlTags(xml)) {
    if (is === 'open') {
      const change = changeOf(name, xml.slice(from, to));
      open = change && { to, change };
    } else if (is === 'close' && open) {
      const before = fromXml(xml.slice(open.to, from));
      const now = open.change(before);
      if (now !== before) {
        done += xml.slice(at, open.to) + toXml(now);
        at = from;
      }
      open = undefined;
    }
  }
  return done + xml.slice(at);
}
