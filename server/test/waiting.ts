import { monitorEventLoopDelay } from 'node:perf_hooks';

/** Milliseconds for which nothing else may be kept waiting; the aim is 50, a busy machine takes more. */
export const LONGEST = 1000;

/** Answers, once the work is done, for how many milliseconds this thread did nothing else at most. */
export function longestWait(): () => number {
  const delay = monitorEventLoopDelay({ resolution: 5 });
  delay.enable();
  return () => {
    delay.disable();
    return delay.max / 1e6;
  };
}

export const get = async (address: string): Promise<[number, unknown]> => {
  const answer = await fetch(address);
  const text = await answer.text();
  return [answer.status, answer.headers.get('content-type')?.includes('json') ? JSON.parse(text) : text];
};
