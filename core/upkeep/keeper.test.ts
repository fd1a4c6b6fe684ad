import { describe, expect, test } from 'vitest';
import { NO_WORDS, type Words } from '../describe/fields.ts';
import { keeperOf, wordsToTakeOver, type KeeperFacts } from './keeper.ts';

const item = (
  id: number,
  more: Partial<Omit<KeeperFacts, 'words'>> & { words?: Partial<Words> } = {},
): KeeperFacts => ({
  id,
  path: `f/${id}.jpg`,
  bytes: 1000,
  width: 100,
  height: 100,
  use: 'unused',
  placements: 0,
  nameFaults: [],
  addedAt: '2026-01-01T00:00:00.000Z',
  ...more,
  words: { ...NO_WORDS, ...more.words },
});

describe('which of a group stays', () => {
  test('the most used, before what is larger, better described, better named, older', () => {
    const placed = item(1, { use: 'placed', placements: 2, nameFaults: ['camera'], width: 50 });
    const once = item(2, { use: 'placed', placements: 1, width: 4000, words: { alt: 'A', title: 'B' } });
    const mentioned = item(3, { use: 'mentioned', width: 8000 });
    expect(keeperOf([mentioned, once, placed], 'placed')).toEqual({ id: 1, reason: 'used most (2 times)' });
    expect(keeperOf([mentioned, item(4)], 'placed')).toEqual({
      id: 3,
      reason: 'the only one mentioned',
    });
    expect(keeperOf([mentioned, once, placed], 'largest')?.id).toBe(3);
    expect(keeperOf([mentioned, once, placed], 'words')?.id).toBe(2);
  });
  test('where the rule does not decide, the next measure does, and its reason is told', () => {
    const small = item(1, { width: 10, height: 10 });
    const large = item(2, { width: 20, height: 10 });
    expect(keeperOf([small, large], 'placed')).toEqual({ id: 2, reason: 'the largest (20 × 10)' });
    expect(keeperOf([item(1, { nameFaults: ['camera'] }), item(2)], 'placed')).toEqual({
      id: 2,
      reason: 'the best named',
    });
    expect(keeperOf([item(1), item(2, { addedAt: '2025-12-31T23:00:00.000Z' })], 'placed')).toEqual({
      id: 2,
      reason: 'added first',
    });
    expect(keeperOf([item(2), item(1)], 'placed')).toEqual({
      id: 1,
      reason: 'first by name; otherwise identical',
    });
  });
  test('what has no pixels is as large as its bytes', () => {
    const of = (id: number, bytes: number) => item(id, { width: null, height: null, bytes });
    expect(keeperOf([of(1, 10), of(2, 20)], 'largest')).toEqual({ id: 2, reason: 'the largest file' });
  });
  test('by folder: the one in it; of several the best; of none nothing stays', () => {
    const group = [
      item(1, { path: 'a/1.jpg' }),
      item(2, { path: 'b/2.jpg' }),
      item(3, { path: 'b/c/3.jpg', width: 900 }),
    ];
    expect(keeperOf(group, 'folder', 'a')).toEqual({ id: 1, reason: 'in “a”' });
    expect(keeperOf(group, 'folder', 'b')?.id).toBe(3);
    expect(keeperOf(group, 'folder', 'bb')).toBeUndefined();
  });
});

describe('words that are taken over', () => {
  test('what is lacking, the fullest there is; what is there stays', () => {
    const keeper = { ...NO_WORDS, alt: 'Kept' };
    const others = [
      { ...NO_WORDS, alt: 'Other', title: 'Short' },
      { ...NO_WORDS, title: 'A longer title', caption: 'Said once' },
    ];
    expect(wordsToTakeOver(keeper, others)).toEqual({ title: 'A longer title', caption: 'Said once' });
    expect(wordsToTakeOver({ ...NO_WORDS, decorative: true }, others).alt).toBeUndefined();
  });
  test('rights come from one record or not at all: half of each would say something wrong', () => {
    const half = { ...NO_WORDS, creator: 'Ben' };
    const whole = { ...NO_WORDS, creator: 'Ottilie', licence: 'CC BY 4.0', source: 'Archive' };
    expect(wordsToTakeOver(NO_WORDS, [half, whole])).toEqual({
      creator: 'Ottilie',
      licence: 'CC BY 4.0',
      source: 'Archive',
    });
    expect(wordsToTakeOver({ ...NO_WORDS, credit: 'Ines' }, [whole])).toEqual({});
  });
  test('all tags, once each whatever their case; own fields that are empty', () => {
    const keeper = { ...NO_WORDS, tags: ['Dome'], own: { room: '', shelf: '3' } };
    const other = { ...NO_WORDS, tags: ['dome', 'night'], own: { room: 'Cellar', shelf: '9' } };
    expect(wordsToTakeOver(keeper, [other, other])).toEqual({
      tags: ['Dome', 'night'],
      own: { room: 'Cellar', shelf: '3' },
    });
  });
});
