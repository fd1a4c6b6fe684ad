import { Readable } from 'node:stream';

/** So many elements of an array are put into words at once. */
const AT_ONCE = 250;

/** An object as JSON (RFC 8259), for an answer of any length: its arrays are written in parts, and others go on between them. */
export function largeJson(value: object): Readable {
  return Readable.from(partsOf(value), { objectMode: false });
}

async function* partsOf(value: object): AsyncGenerator<string> {
  let before = '{';
  for (const [key, one] of Object.entries(value) as [string, unknown][]) {
    if (one === undefined) continue;
    yield `${before}${JSON.stringify(key)}:`;
    before = ',';
    if (Array.isArray(one) && one.length > AT_ONCE) {
      for (let at = 0; at < one.length; at += AT_ONCE) {
        const part = JSON.stringify(one.slice(at, at + AT_ONCE));
        yield (at === 0 ? '[' : ',') + part.slice(1, -1);
        await new Promise(setImmediate);
      }
      yield ']';
    } else yield JSON.stringify(one);
  }
  yield before === '{' ? '{}' : '}';
}
