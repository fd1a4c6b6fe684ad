/** A part of a text: plain, or the name of somebody whom it calls. */
export interface TextPart {
  text: string;
  /** It is '@' and this name. */
  name?: string;
}

const LETTER = /[\p{L}\p{N}_]/u;

/**
 * A text with the people whom it calls by '@' and their name, in whatever case. Of names that begin alike the longest counts: '@Ann Marsh' is not
 * '@Ann'. A name ends where no letter follows, and an '@' within a word calls nobody.
 */
export function partsOf(text: string, names: readonly string[]): TextPart[] {
  const byLength = [...names].filter((name) => name !== '').sort((a, b) => b.length - a.length);
  const parts: TextPart[] = [];
  let plain = 0;
  for (let at = text.indexOf('@'); at >= 0; at = text.indexOf('@', at + 1)) {
    if (at > 0 && LETTER.test(text[at - 1]!)) continue;
    const name = byLength.find((one) => {
      const said = text.slice(at + 1, at + 1 + one.length);
      return said.toLowerCase() === one.toLowerCase() && !LETTER.test(text[at + 1 + one.length] ?? '');
    });
    if (name === undefined) continue;
    if (at > plain) parts.push({ text: text.slice(plain, at) });
    plain = at + 1 + name.length;
    parts.push({ text: text.slice(at, plain), name });
  }
  if (plain < text.length) parts.push({ text: text.slice(plain) });
  return parts;
}

/** Whom a text calls, each once. */
export const calledIn = (text: string, names: readonly string[]): string[] => [
  ...new Set(partsOf(text, names).flatMap(({ name }) => (name === undefined ? [] : [name]))),
];
