/**
 * Loops that let the thread's other work go on: what is done with each is short, however many there are.
 */

/** Called again and again in long loops, and awaited when it answers something: then others have their turn. */
export type Breathe = () => Promise<void> | undefined;

/** For those that hold nobody up: workers, tests, and what is known to be short. */
export const WITHOUT_PAUSE: Breathe = () => undefined;

export async function each<One>(
  all: Iterable<One>,
  breathe: Breathe,
  act: (one: One, at: number) => unknown,
): Promise<void> {
  let at = 0;
  for (const one of all) {
    const pause = breathe();
    if (pause) await pause;
    act(one, at++);
  }
}

/** What is made of each, all in one list. */
export async function flatMap<One, Made>(
  all: Iterable<One>,
  breathe: Breathe,
  make: (one: One, at: number) => readonly Made[],
): Promise<Made[]> {
  const made: Made[] = [];
  await each(all, breathe, (one, at) => {
    for (const each of make(one, at)) made.push(each);
  });
  return made;
}

export async function map<One, Made>(
  all: Iterable<One>,
  breathe: Breathe,
  make: (one: One, at: number) => Made,
): Promise<Made[]> {
  const made: Made[] = [];
  await each(all, breathe, (one, at) => made.push(make(one, at)));
  return made;
}

export async function filter<One>(
  all: Iterable<One>,
  breathe: Breathe,
  keeps: (one: One) => boolean,
): Promise<One[]> {
  const kept: One[] = [];
  await each(all, breathe, (one) => {
    if (keeps(one)) kept.push(one);
  });
  return kept;
}

/** A map of what is told of each: its key and value; undefined: nothing. */
export async function mapOf<One, Key, Value>(
  all: Iterable<One>,
  breathe: Breathe,
  tell: (one: One, at: number) => readonly [Key, Value] | undefined,
): Promise<Map<Key, Value>> {
  const told = new Map<Key, Value>();
  await each(all, breathe, (one, at) => {
    const pair = tell(one, at);
    if (pair) told.set(pair[0], pair[1]);
  });
  return told;
}

/** What of each is told, each once; undefined: nothing. */
export async function setOf<One, Value>(
  all: Iterable<One>,
  breathe: Breathe,
  tell: (one: One) => Value | undefined,
): Promise<Set<Value>> {
  const told = new Set<Value>();
  await each(all, breathe, (one) => {
    const value = tell(one);
    if (value !== undefined) told.add(value);
  });
  return told;
}

/** So many are ordered at once. */
const ORDERED_AT_ONCE = 2000;

/** Ordered, the order of equals kept: parts of it, which are then merged two by two. */
export async function sorted<One>(
  all: readonly One[],
  breathe: Breathe,
  compare: (one: One, other: One) => number,
): Promise<One[]> {
  let parts: One[][] = [];
  for (let at = 0; at < all.length; at += ORDERED_AT_ONCE) {
    parts.push(all.slice(at, at + ORDERED_AT_ONCE).sort(compare));
    await breathe();
  }
  while (parts.length > 1) {
    const merged: One[][] = [];
    for (let at = 0; at < parts.length; at += 2)
      merged.push(await merge(parts[at]!, parts[at + 1] ?? [], breathe, compare));
    parts = merged;
  }
  return parts[0] ?? [];
}

async function merge<One>(
  left: readonly One[],
  right: readonly One[],
  breathe: Breathe,
  compare: (one: One, other: One) => number,
): Promise<One[]> {
  const merged: One[] = [];
  let [a, b] = [0, 0];
  while (a < left.length || b < right.length) {
    const pause = breathe();
    if (pause) await pause;
    if (b >= right.length || (a < left.length && compare(left[a]!, right[b]!) <= 0)) merged.push(left[a++]!);
    else merged.push(right[b++]!);
  }
  return merged;
}
