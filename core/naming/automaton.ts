/**
 * A pattern of characters that is matched without going back: time grows with the length of the text times the size of the pattern,
 * whatever both are (Thompson 1968, "Regular expression search algorithm").
 */
export type Part =
  | { is: 'char'; fits: (char: string) => boolean }
  | { is: 'row' | 'either'; of: readonly Part[] }
  | { is: 'maybe' | 'more'; of: Part }
  /** Nothing, where the text begins. */
  | { is: 'begin' };

export const char = (fits: (char: string) => boolean): Part => ({ is: 'char', fits });
export const row = (...of: Part[]): Part => ({ is: 'row', of });
export const either = (...of: Part[]): Part => ({ is: 'either', of });
export const maybe = (of: Part): Part => ({ is: 'maybe', of });
/** Once or more. */
export const more = (of: Part): Part => ({ is: 'more', of });
export const BEGIN: Part = { is: 'begin' };
export const times = (count: number, of: Part): Part => row(...Array.from({ length: count }, () => of));
/** @param folds both cases of a letter are the same */
export const literal = (text: string, folds = false): Part =>
  row(
    ...[...text].map((one) =>
      char(folds ? (other) => other.toLowerCase() === one.toLowerCase() : (other) => other === one),
    ),
  );

interface State {
  fits?: (char: string) => boolean;
  to: number[];
  onlyAtBegin?: true;
}

/** Says of texts whether they are, as a whole, what the pattern says. */
export function matcher(pattern: Part): (text: string) => boolean {
  const states: State[] = [{ to: [] }];
  const end = 0;
  const add = (state: State) => states.push(state) - 1;
  /** Makes the states of a part that lead to `next`. @returns where it begins */
  const build = (part: Part, next: number): number => {
    switch (part.is) {
      case 'char':
        return add({ fits: part.fits, to: [next] });
      case 'begin':
        return add({ to: [next], onlyAtBegin: true });
      case 'row':
        return part.of.reduceRight((then, one) => build(one, then), next);
      case 'either':
        return add({ to: part.of.map((one) => build(one, next)) });
      case 'maybe':
        return add({ to: [build(part.of, next), next] });
      case 'more': {
        const again = add({ to: [next] });
        const first = build(part.of, again);
        states[again]!.to.push(first);
        return first;
      }
    }
  };
  const first = build(pattern, end);
  return (text) => {
    let now = reach(states, [first], true);
    for (const one of text) {
      const next: number[] = [];
      for (const at of now) {
        const { fits, to } = states[at]!;
        if (fits?.(one)) next.push(...to);
      }
      if (next.length === 0) return false;
      now = reach(states, next, false);
    }
    return now.has(end);
  };
}

/** All states that are reached without reading a character. */
function reach(states: readonly State[], from: readonly number[], begin: boolean): Set<number> {
  const found = new Set(from);
  for (const at of found) {
    const { fits, to, onlyAtBegin } = states[at]!;
    if (!fits && (begin || !onlyAtBegin)) for (const next of to) found.add(next);
  }
  return found;
}
