import { open } from './library.ts';

/** Requests that are under way at one time, and how many in all. */
const AT_ONCE = 200;
const REQUESTS = 2000;
/** Windows of queries as people have them open: everything, a folder's, a condition's, a search's. */
const QUERIES = [
  '',
  '&where=kind:image',
  '&where=no:alt',
  '&q=moon',
  '&sort=bytes',
  '&where=kind:image,no:title',
];

/** Windows of the library asked for by many at once: with what they have in all counted anew for each, and counted once. */
export async function benchRequests(say: (text: string) => void): Promise<void> {
  const rates: number[] = [];
  for (const recounts of [true, false]) {
    const bench = await open(100_000, recounts);
    try {
      const times: number[] = [];
      let next = 0;
      const lane = async () => {
        for (let number = next++; number < REQUESTS; number = next++) {
          const query = QUERIES[number % QUERIES.length]!;
          const start = performance.now();
          const answer = await fetch(
            `${bench.address}/api/items?offset=${(number * 60) % 3000}&limit=60${query}`,
          );
          await answer.arrayBuffer();
          if (!answer.ok) throw new Error(`${answer.status} for ${query}`);
          times.push(performance.now() - start);
        }
      };
      const start = performance.now();
      await Promise.all(Array.from({ length: AT_ONCE }, lane));
      const rate = (1000 * REQUESTS) / (performance.now() - start);
      rates.push(rate);
      times.sort((a, b) => a - b);
      say(
        `Windows, ${AT_ONCE} at a time, ${recounts ? 'counted for each' : 'counted once'}: ${rate.toFixed(0)} a second, 99 of 100 within ${Math.round(times[Math.floor(0.99 * times.length)]!)} ms.`,
      );
    } finally {
      await bench.close();
    }
  }
  say(`Counted once, ${(rates[1]! / rates[0]!).toFixed(1)} x as many windows are answered in the same time.`);
}
