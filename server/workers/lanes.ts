/** So many at once: most of the time each waits for the disk. */
const LANES = 8;

/**
 * Does some work for each value, a few at once, begun in order. When one fails, no further is begun, those under way come
 * to their end, and the first failure is thrown: afterwards nothing is going on any more.
 */
export async function inLanes<Value>(
  values: Iterable<Value>,
  work: (value: Value) => Promise<void>,
  lanes = LANES,
): Promise<void> {
  const iterator = values[Symbol.iterator]();
  const failures: unknown[] = [];
  const lane = async () => {
    for (let next = iterator.next(); !next.done && failures.length === 0; next = iterator.next()) {
      try {
        await work(next.value);
      } catch (error) {
        failures.push(error);
      }
    }
  };
  await Promise.all(Array.from({ length: lanes }, lane));
  if (failures.length > 0) throw failures[0];
}

/**
 * The results of some work for each value, in their order, while that for the next is under way. However it ends, nothing is going on
 * afterwards.
 */
export async function* inOrder<Value, Result>(
  values: Iterable<Value>,
  work: (value: Value) => Promise<Result>,
  lanes = LANES,
): AsyncGenerator<Result> {
  const going: Promise<Result>[] = [];
  try {
    for (const value of values) {
      const one = work(value);
      // Told when its turn comes.
      one.catch(() => undefined);
      going.push(one);
      if (going.length >= lanes) yield await going.shift()!;
    }
    while (going.length > 0) yield await going.shift()!;
  } finally {
    await Promise.allSettled(going);
  }
}
