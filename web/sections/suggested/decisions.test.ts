import { describe, expect, test } from 'vitest';
import type { SuggestedTagsView } from '../../../api/suggested-tags.ts';
import { decisionOn, keyOf, nextDecision, offeredAt, outcomeOf, type Decision } from './decisions.ts';

const one = (id: number, confidence: number) => ({ id, confidence, because: [], reason: '' });
const view: SuggestedTagsView = {
  images: 4,
  unseen: 0,
  toSend: 0,
  unread: { total: 0, first: [] },
  items: [],
  groups: [
    { tag: 'Moon', known: true, of: [one(1, 0.9), one(2, 0.6), one(3, 0.4)] },
    { tag: 'dome', known: true, of: [one(4, 0.61), one(1, 0.55)] },
    { tag: 'fog', known: false, of: [one(2, 0.5)] },
  ],
};

describe('what is offered at a threshold', () => {
  test('is what is at least so sure; what is less sure is counted, and empty groups fall out', () => {
    expect(
      offeredAt(view, 0.6).map(({ tag, of, lessSure }) => [tag, of.map(({ id }) => id), lessSure]),
    ).toEqual([
      ['Moon', [1, 2], 1],
      ['dome', [4], 1],
    ]);
    expect(offeredAt(view, 0.95)).toEqual([]);
    expect(offeredAt(view, 0.3).map(({ of }) => of.length)).toEqual([3, 2, 1]);
  });

  test('groups with most that is sure come first, whatever is less sure', () => {
    const other = {
      ...view,
      groups: [{ tag: 'a', known: true, of: [one(1, 0.9), one(2, 0.3), one(3, 0.3)] }, view.groups[0]!],
    };
    expect(offeredAt(other, 0.6).map(({ tag }) => tag)).toEqual(['Moon', 'a']);
  });
});

describe('what comes of decisions', () => {
  test('tags of the site are taken unless somebody says otherwise, new ones are not; each item is named once, with all of its tags', () => {
    const outcome = outcomeOf(offeredAt(view, 0.3), new Map());
    expect(outcome).toMatchObject({ taken: 5, refused: 0, items: 4 });
    expect(outcome.suggestions.find(({ itemId }) => itemId === 1)).toEqual({
      itemId: 1,
      take: ['Moon', 'dome'],
      refuse: [],
    });
  });

  test('a new tag that somebody wants is added', () => {
    const decided = new Map<string, Decision>([[keyOf('fog', 2), 'take']]);
    expect(outcomeOf(offeredAt(view, 0.3), decided)).toMatchObject({ taken: 6, items: 4 });
    const fresh = {
      ...view,
      groups: [...view.groups, { tag: 'new', known: false, of: [1, 2, 3, 4].map((id) => one(id, 1)) }],
    };
    expect(offeredAt(fresh, 0.3).map(({ tag }) => tag)).toEqual(['Moon', 'dome', 'new', 'fog']);
  });

  test('what is left stays out; what is refused is told; what is not offered any more does not count', () => {
    const decided = new Map<string, Decision>([
      [keyOf('Moon', 1), 'refuse'],
      [keyOf('dome', 4), 'leave'],
      [keyOf('fog', 2), 'refuse'],
    ]);
    const outcome = outcomeOf(offeredAt(view, 0.6), decided);
    expect(outcome).toEqual({
      suggestions: [
        { itemId: 1, take: [], refuse: ['Moon'] },
        { itemId: 2, take: ['Moon'], refuse: [] },
      ],
      taken: 1,
      refused: 1,
      items: 1,
    });
  });

  test('tags that look alike in a key are told apart', () => {
    expect(keyOf('1 x', 1)).not.toBe(keyOf('x', 11));
    const decided = new Map<string, Decision>([[keyOf('x', 11), 'leave']]);
    expect(decisionOn(decided, { tag: '1 x', known: true }, 1)).toBe('take');
  });

  test('a click goes on to refusing, then to leaving, then back', () => {
    const all: Decision[] = ['take'];
    for (let at = 0; at < 3; at++) all.push(nextDecision(all.at(-1)!));
    expect(all).toEqual(['take', 'refuse', 'leave', 'take']);
  });
});
