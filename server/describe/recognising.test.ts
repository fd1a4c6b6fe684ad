import { expect, test } from 'vitest';
import type { Item } from '../db/item-rows.ts';
import { Recognising } from './recognising.ts';

const picture = (id: number) => ({ id }) as Item;
const never = () => new AbortController().signal;

function held() {
  const begun: number[] = [];
  const go: (() => void)[] = [];
  const recognising = new Recognising((item) => {
    begun.push(item.id);
    return new Promise((done, failed) =>
      go.push(() => (item.id === 13 ? failed(new Error('unlucky')) : done(`text ${item.id}`))),
    );
  });
  return { recognising, begun, finish: () => go.shift()!() };
}
const settled = () => new Promise((done) => setTimeout(done));

test('one image at a time is read, the one asked for last first', async () => {
  const { recognising, begun, finish } = held();
  const texts = [1, 2, 3].map((id) => recognising.text(picture(id), never()));
  expect(begun).toEqual([1]);
  for (let left = 3; left > 0; left--) {
    finish();
    await settled();
  }
  expect(begun).toEqual([1, 3, 2]);
  expect(await Promise.all(texts)).toEqual(['text 1', 'text 2', 'text 3']);
});

test('what was called off before its turn is never read; what had begun is read to its end', async () => {
  const { recognising, begun, finish } = held();
  const looking = [1, 2, 3].map(() => new AbortController());
  const texts = looking.map((one, index) => recognising.text(picture(index + 1), one.signal));
  looking[0]!.abort();
  looking[2]!.abort();
  finish();
  await settled();
  finish();
  expect(await Promise.all(texts)).toEqual(['text 1', 'text 2', undefined]);
  expect(begun).toEqual([1, 2]);
  expect(await recognising.text(picture(4), AbortSignal.abort())).toBeUndefined();
});

test('an image that cannot be read fails alone', async () => {
  const { recognising, finish } = held();
  const unlucky = recognising.text(picture(13), never());
  const next = recognising.text(picture(14), never());
  finish();
  await expect(unlucky).rejects.toThrow('unlucky');
  finish();
  expect(await next).toBe('text 14');
});
