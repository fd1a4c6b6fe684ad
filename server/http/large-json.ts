import { Readable } from 'node:stream';
import { breathe } from '../workers/breathe.ts';

/** So many elements of an array are put into words at once. */
const AT_ONCE = 250;

/** An object or an array as JSON (RFC 8259), for an answer of any length: arrays are written in parts, and others go on between them. */
export function largeJson(value: object): Readable {
  return Readable.from(Array.isArray(value) ? arrayParts(value) : objectParts(value), { objectMode: false });
}

async function* objectParts(value: object): AsyncGenerator<string> {
  let before = '{';
  for (const [key, one] of Object.entries(value) as [string, unknown][]) {
    if (one === undefined) continue;
    yield `${before}${JSON.stringify(key)}:`;
    before = ',';
    if (Array.isArray(one)) yield* arrayParts(one);
    else yield JSON.stringify(one);
  }
  yield before === '{' ? '{}' : '}';
}

async function* arrayParts(list: readonly unknown[]): AsyncGenerator<string> {
  for (let at = 0; at < list.length; at += AT_ONCE) {
    const part = JSON.stringify(list.slice(at, at + AT_ONCE));
    yield (at === 0 ? '[' : ',') + part.slice(1, -1);
    await breathe();
  }
  yield list.length === 0 ? '[]' : ']';
}
