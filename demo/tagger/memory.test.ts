import { appendFile, mkdtemp, readFile, rm } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { afterEach, beforeEach, expect, test } from 'vitest';
import { DETAIL_SIDE, lookOf } from '../../core/tagging/computed.ts';
import { Memory } from './memory.ts';

let folder: string;
let file: string;
beforeEach(async () => {
  folder = await mkdtemp(join(tmpdir(), 'iconomos-memory-'));
  file = join(folder, 'known.jsonl');
});
afterEach(() => rm(folder, { recursive: true }));

const failed = (error: Error) => {
  throw error;
};
const grey = (level: number) => lookOf(new Uint8Array(3 * DETAIL_SIDE * DETAIL_SIDE).fill(level), 1);
async function opened(): Promise<Memory> {
  const memory = new Memory(file, failed);
  await memory.open();
  return memory;
}
/** Until so many lines are kept. */
const kept = (lines: number) =>
  expect
    .poll(async () => (await readFile(file, 'utf8').catch(() => '')).split('\n').filter(Boolean).length)
    .toBe(lines);

test('what it has seen and was told is there when it is opened again', async () => {
  const memory = await opened();
  memory.keep('dark', grey(20));
  memory.keep('bright', grey(220));
  expect(memory.label('dark', ['night'])).toBe(true);
  expect(memory.label('never sent', ['day'])).toBe(false);
  await kept(3);

  const { known } = await opened();
  expect([...known.keys()]).toEqual(['dark', 'bright']);
  expect(known.get('dark')!.labels).toEqual(['night']);
  expect(known.get('bright')!.labels).toEqual([]);
  expect(known.get('dark')!.computed).toEqual(grey(20).computed);
  for (const [at, value] of known.get('dark')!.features.whole.entries())
    expect(value).toBeCloseTo(grey(20).features.whole[at]!, 3);
});

test('an image that is sent again keeps what people say of it', async () => {
  const memory = await opened();
  memory.keep('one', grey(20));
  memory.label('one', ['night']);
  memory.keep('one', grey(30));
  await kept(3);
  expect((await opened()).known.get('one')!.labels).toEqual(['night']);
});

test('half a line that it was stopped in costs that image, and no other', async () => {
  const memory = await opened();
  memory.keep('one', grey(20));
  await kept(1);
  await appendFile(file, '{"key":"two","seen":{"feat');

  const next = await opened();
  expect([...next.known.keys()]).toEqual(['one']);
  next.keep('three', grey(90));
  await kept(3);
  expect([...(await opened()).known.keys()]).toEqual(['one', 'three']);
});

test('what was said anew again and again does not pile up', async () => {
  const memory = await opened();
  memory.keep('one', grey(20));
  for (let at = 0; at < 10; at++) memory.label('one', [`tag ${at}`]);
  await kept(11);
  expect((await opened()).known.get('one')!.labels).toEqual(['tag 9']);
  await kept(1);
  expect((await opened()).known.get('one')!.labels).toEqual(['tag 9']);
});
