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
