import { expect, test } from 'vitest';
import { PART, readLargeJson } from './json.ts';

const bytesOf = (text: string) => new TextEncoder().encode(text);
/** In blocks that part it anywhere, within characters too. */
const blocksOf = (text: string, size: number) => {
  const bytes = bytesOf(text);
  return Array.from({ length: Math.ceil(bytes.length / size) }, (_, at) =>
    bytes.slice(at * size, (at + 1) * size),
  );
};

test.each([
  null,
  7,
  [],
  Array.from({ length: PART }, (_, at) => at),
  Array.from({ length: 2 * PART + 1 }, (_, at) => ({ at, words: 'Ölbild – 月' })),
  {
    none: [],
    long: Array.from({ length: PART + 1 }, (_, at) => [at]),
    below: { long: Array.from({ length: 3 * PART }, (_, at) => `${at}`), ['__proto__x']: 1 },
    last: 'x',
  },
])('a value comes over whole and in its order (%#)', async (value) => {
  expect(await readLargeJson(blocksOf(JSON.stringify(value), 777))).toEqual({ value });
});

test('values that are read at the same time do not get into each other', async () => {
  const values = Array.from({ length: 5 }, (_, one) => ({
    one,
    list: Array.from({ length: 4 * PART }, (_, at) => at * one),
  }));
  const read = await Promise.all(
    values.map((value) => readLargeJson(blocksOf(JSON.stringify(value), 50_000))),
  );
  expect(read).toEqual(values.map((value) => ({ value })));
});

test('what is no JSON, and what is no body of its kind, is told, and the thread goes on', async () => {
  expect(await readLargeJson([bytesOf('{"a":')])).toEqual({ invalid: true });
  expect(await readLargeJson([bytesOf('['.repeat(3_000_000))])).toEqual({ invalid: true });
  const read = await readLargeJson([bytesOf('{"ids":[1,"two"]}')], 'ManyItems');
  expect(read).toMatchObject({ issues: [{ path: ['ids', 1] }] });
  expect(await readLargeJson([bytesOf('{"ids":[1,2]}')], 'ManyItems')).toEqual({ value: { ids: [1, 2] } });
});
