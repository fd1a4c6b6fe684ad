import { onScopeDispose } from 'vue';

/** Why a worker could not do something, as a sentence. */
export class NotDone extends Error {}

export type Question<Of> = Of extends unknown ? Omit<Of, 'number'> : never;

/** What a worker answers: with the number of its question, and how far it is, or what went wrong. */
type Answer = { number: number } & ({ progress: number } | { fault: string } | object);

/**
 * Asks a worker questions, for as long as the component stands.
 * @param broken a sentence, for when it ends of itself
 */
export function askWorker<To extends { number: number }, From extends Answer>(
  worker: Worker,
  broken: string,
) {
  const waiting = new Map<
    number,
    { done: (answer: From) => void; failed: (why: Error) => void; progress: (share: number) => void }
  >();
  let asked = 0;
  worker.onmessage = ({ data }: MessageEvent<From>) => {
    const one = waiting.get(data.number);
    if (!one) return;
    if ('progress' in data) return one.progress(data.progress as number);
    waiting.delete(data.number);
    if ('fault' in data) one.failed(new NotDone(data.fault as string));
    else one.done(data);
  };
  worker.onerror = () => {
    for (const { failed } of waiting.values()) failed(new NotDone(broken));
    waiting.clear();
  };
  onScopeDispose(() => worker.terminate());
  /** @param progress is told from 0 to 1 @throws NotDone */
  return <Wanted extends From>(
    question: Question<To>,
    progress: (share: number) => void = () => undefined,
  ): Promise<Wanted> =>
    new Promise((done, failed) => {
      const number = ++asked;
      waiting.set(number, { done: (answer) => done(answer as Wanted), failed, progress });
      worker.postMessage({ number, ...question });
    });
}
