import { text } from 'node:stream/consumers';
import { expect, test } from 'vitest';
import { largeJson } from './large-json.ts';

test.each([
  {},
  { a: undefined },
  { a: [], b: null, c: { d: [1, 2] }, 'e"': 'ä\n' },
  { few: [1, undefined, 'x'], many: Array.from({ length: 1001 }, (_, at) => ({ at, of: [at] })), last: true },
  { none: undefined, many: Array.from({ length: 501 }, () => undefined) },
])('an object written in parts reads as it does written at once (%#)', async (value) => {
  expect(await text(largeJson(value))).toBe(JSON.stringify(value));
});
