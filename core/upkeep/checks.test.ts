import { describe, expect, test } from 'vitest';
import { TEXT_FIELDS } from '../describe/fields.ts';
import { takes, TESTS, type Facts } from '../find/tests.ts';
import {
  adviceOf,
  CHECK_GROUPS,
  CHECK_NAMES,
  CHECKS,
  checksOf,
  fieldOf,
  ITEM_CHECKS,
  LINES,
  REMEDIES,
  SURENESS,
} from './checks.ts';

describe('the table of checks', () => {
  test('each says what it finds, why that matters and how sure it is, in sentences, and has a remedy', () => {
    for (const name of CHECK_NAMES) {
      const { what, why, sure, remedy, group } = CHECKS[name];
      for (const sentence of [what, why, adviceOf(name) ?? 'None.'])
        expect(sentence, name).toMatch(/^[A-Z].+\.$/);
      expect(Object.keys(SURENESS), name).toContain(sure);
      expect(Object.keys(REMEDIES), name).toContain(remedy);
      expect(Object.keys(CHECK_GROUPS), name).toContain(group);
    }
    expect(new Set(CHECK_NAMES.map((name) => CHECKS[name].name)).size).toBe(CHECK_NAMES.length);
  });
  test('no remedy and no group is there for nothing', () => {
    for (const remedy of Object.keys(REMEDIES))
      expect(
        CHECK_NAMES.some((name) => CHECKS[name].remedy === remedy),
        remedy,
      ).toBe(true);
    for (const group of Object.keys(CHECK_GROUPS))
      expect(
        CHECK_NAMES.some((name) => CHECKS[name].group === group),
        group,
      ).toBe(true);
  });
  test('a text is written into many exactly where a text is what lacks', () => {
    for (const name of CHECK_NAMES) {
      expect(fieldOf(name) !== undefined, name).toBe(CHECKS[name].remedy === 'write');
      if (fieldOf(name)) expect(TEXT_FIELDS[fieldOf(name)!].name).not.toBe('');
    }
  });
  test('a group that stands in the order of the list stands there once', () => {
    const order = CHECK_NAMES.map((name) => CHECKS[name].group);
    const firsts = order.filter((group, at) => group !== order[at - 1]);
    expect(new Set(firsts).size).toBe(firsts.length);
  });
});

describe('asking the library for what upkeep finds', () => {
  const item = (found: Facts['found']) => ({ found }) as Facts;
  test('a line stands for all of its checks, and for no other', () => {
    for (const line of LINES) {
      expect(checksOf(line).length, line).toBeGreaterThan(1);
      for (const name of ITEM_CHECKS)
        expect(TESTS.found.holds(item([name]), line), `${line} ${name}`).toBe(CHECKS[name].group === line);
      expect(TESTS.found.holds(item([]), line)).toBe(false);
    }
  });
  test('a check stands for itself; what is no check is no condition', () => {
    expect(TESTS.found.holds(item(['format', 'no-alt']), 'no-alt')).toBe(true);
    expect(TESTS.found.holds(item(['format']), 'no-alt')).toBe(false);
    expect(takes('found', 'too-large')).toBe(true);
    expect(takes('found', 'weight')).toBe(true);
    expect(takes('found', 'broken')).toBe(false);
    expect(takes('found', 'constructor')).toBe(false);
  });
  test('it is said in words', () => {
    expect(TESTS.found.says('too-large')).toBe('upkeep finds “Larger than displayed”');
    expect(TESTS.found.denies('rights')).toBe('upkeep does not find a problem with its rights');
  });
});
