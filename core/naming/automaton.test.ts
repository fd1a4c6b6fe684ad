import { expect, test } from 'vitest';
import { seeded, type Chance } from '../test/chance.ts';
import { BEGIN, either, literal, matcher, maybe, more, row, type Part } from './automaton.ts';

/** A pattern of some depth, and the regular expression that says the same. */
function made(chance: Chance, depth: number): [Part, string] {
  const inner = () => made(chance, depth - 1);
  switch (depth === 0 ? 0 : chance.below(6)) {
    case 1: {
      const [[a, x], [b, y]] = [inner(), inner()];
      return [row(a, b), `${x}${y}`];
    }
    case 2: {
      const [[a, x], [b, y]] = [inner(), inner()];
      return [either(a, b), `(?:${x}|${y})`];
    }
    case 3: {
      const [a, x] = inner();
      return [maybe(a), `(?:${x})?`];
    }
    case 4: {
      const [a, x] = inner();
      return [more(a), `(?:${x})+`];
    }
    case 5:
      return [BEGIN, '(?<=^)'];
    default: {
      const text = chance.pick(['a', 'b', 'ab', '']);
      return [literal(text), text];
    }
  }
}

test('says of every text what a regular expression of the same pattern says', () => {
  for (let seed = 1; seed <= 400; seed++) {
    const chance = seeded(seed);
    const [part, source] = made(chance, 4);
    const matches = matcher(part);
    const expression = new RegExp(`^(?:${source})$`);
    for (let i = 0; i < 20; i++) {
      const text = Array.from({ length: chance.below(7) }, () => chance.pick(['a', 'b'])).join('');
      expect(matches(text), `${source} on “${text}”`).toBe(expression.test(text));
    }
  }
});

test('letters of both cases are the same where that is wished', () => {
  expect(matcher(literal('É1', true))('é1')).toBe(true);
  expect(matcher(literal('É1'))('é1')).toBe(false);
});
