import { expect, test } from 'vitest';
import { grantOf, may, mayDraft, RIGHTS, rightsOf, ROLES, whoMay, type Right } from './rights.ts';

test('each role may do all that the one below it may, and more', () => {
  for (const [at, role] of ROLES.entries()) {
    if (at === 0) continue;
    const below = rightsOf(ROLES[at - 1]!);
    expect(rightsOf(role)).toEqual(expect.arrayContaining([...below]));
    expect(rightsOf(role).length).toBeGreaterThan(below.length);
  }
  expect([...rightsOf('steward')].sort()).toEqual(Object.keys(RIGHTS).sort());
});

test('a role that nobody knows may do nothing, not even look', () => {
  for (const right of Object.keys(RIGHTS) as Right[]) expect(may('owner', right)).toBe(false);
  expect(may('', 'look')).toBe(false);
});

test('says who may', () => {
  expect(whoMay('empty')).toBe('a steward');
  expect(whoMay('clean')).toBe('an editor or a steward');
  expect(whoMay('describe')).toBe('a contributor, an editor or a steward');
});

test('drafts of one’s own are for contributors, those of others for who may do with any of them', () => {
  expect(ROLES.map((role) => [mayDraft(role, true), mayDraft(role, false)])).toEqual([
    [false, false],
    [true, false],
    [true, true],
    [true, true],
  ]);
  expect(grantOf('contributor', 'drafts')).toBe('own');
  // What only one's own is for is nothing that a role may do as such.
  expect(may('contributor', 'drafts')).toBe(false);
});
