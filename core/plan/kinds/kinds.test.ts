import { expect, test } from 'vitest';
import { RIGHTS } from '../../people/rights.ts';
import { VERBS } from '../verbs.ts';
import { KINDS_OF_PLAN, PlanRequest, type KindName } from './index.ts';

const names = Object.keys(KINDS_OF_PLAN) as KindName[];

test('each kind of plan is called by its name, and names who may ask for it', () => {
  for (const name of names) {
    expect(KINDS_OF_PLAN[name].name).toBe(name);
    expect(Object.keys(RIGHTS)).toContain(KINDS_OF_PLAN[name].right);
  }
});

test('a request is read by its kind, and refused where it says what that does not know', () => {
  expect(PlanRequest.parse({ kind: 'undo', entryId: 3 })).toEqual({
    kind: 'undo',
    entryId: 3,
    withLater: false,
  });
  for (const wrong of [
    { kind: 'undo', entryId: 3, itemIds: [1] },
    { kind: 'undo' },
    { kind: 'nothing' },
    { kind: 'set-aside', itemIds: [1, 1] },
    { kind: 'set-aside', itemIds: [] },
    { kind: 'lighten', itemIds: Array.from({ length: 501 }, (_, at) => at + 1) },
  ])
    expect(PlanRequest.safeParse(wrong).success, JSON.stringify(wrong)).toBe(false);
});

test.each([
  ['rename', { items: 1, pages: 0 }, 'Rename 1 item'],
  ['rename', { items: 1200, pages: 1 }, 'Rename 1,200 items, update 1 page'],
  ['describe', { items: 0, pages: 0 }, 'Apply'],
  ['describe', { items: 2, pages: 0 }, 'Change 2 items'],
  ['place', { items: 1, pages: 2 }, 'Write 2 pages'],
  ['place', { items: 1, pages: 0 }, 'Apply'],
  ['merge', { items: 3, pages: 2 }, 'Merge and set aside 3 items, update 2 pages'],
] as const)('the button of %s with %j says what it does', (kind, totals, says) => {
  expect(VERBS[kind]({ title: '', totals: { ...totals, spans: 0 }, writes: true })).toBe(says);
});

test('the button of an undo says whether it takes back or does again', () => {
  const totals = { items: 1, pages: 0, spans: 0 };
  expect(VERBS.undo({ title: 'Undo: Rename a', totals, writes: true })).toBe('Undo');
  expect(VERBS.undo({ title: 'Redo: Rename a', totals, writes: true })).toBe('Redo');
});
