/** Choices that look random and are the same in every run, so that a failure can be repeated. */
export interface Chance {
  /** A whole number from 0, below a bound. */
  below(bound: number): number;
  /** A whole number between two, both included. */
  whole(from: number, to: number): number;
  pick<Value>(values: readonly Value[]): Value;
}

/** From a seed (xorshift, Marsaglia 2003). */
export function seeded(seed: number): Chance {
  let state = Math.imul(seed, 2654435761) | 1;
  const below = (bound: number) => {
    state ^= state << 13;
    state ^= state >>> 17;
    state ^= state << 5;
    return (state >>> 0) % bound;
  };
  return {
    below,
    whole: (from, to) => from + below(to - from + 1),
    pick: (values) => values[below(values.length)]!,
  };
}
