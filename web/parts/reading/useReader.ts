import { onScopeDispose } from 'vue';
import type { FromReader, Opened, ToReader } from './reading-worker.ts';
import type { FindOptions } from '../../../core/document/find.ts';
import type { ReadingKind } from '../../../core/document/reading.ts';
import type { FoundCell } from '../../../core/sheet/book.ts';
import type { Row } from '../../../core/sheet/sheet.ts';

/** Why a document can't be read, as a sentence. */
export class UnreadableDocument extends Error {}

type Question<Of> = Of extends unknown ? Omit<Of, 'number'> : never;

/** A document that is read by a worker of its own, for as long as the component stands. */
export function useReader() {
  const worker = new Worker(new URL('./reading-worker.ts', import.meta.url), { type: 'module' });
  const waiting = new Map<
    number,
    { done: (answer: FromReader) => void; failed: (why: Error) => void; progress: (share: number) => void }
  >();
  let asked = 0;
  worker.onmessage = ({ data }: MessageEvent<FromReader>) => {
    const one = waiting.get(data.number);
    if (!one) return;
    if ('progress' in data) return one.progress(data.progress);
    waiting.delete(data.number);
    if ('fault' in data) one.failed(new UnreadableDocument(data.fault));
    else one.done(data);
  };
  worker.onerror = () => {
    for (const { failed } of waiting.values())
      failed(new UnreadableDocument('It could not be read here. Download it instead.'));
    waiting.clear();
  };
  const ask = <Answer extends FromReader>(
    question: Question<ToReader>,
    progress: (share: number) => void = () => undefined,
  ) =>
    new Promise<Answer>((done, failed) => {
      const number = ++asked;
      waiting.set(number, { done: (answer) => done(answer as Answer), failed, progress });
      worker.postMessage({ number, ...question } satisfies ToReader);
    });
  onScopeDispose(() => worker.terminate());
  return {
    /** @param progress from 0 to 1 @throws UnreadableDocument */
    open: async (
      document: { address: string; kind: ReadingKind; name: string },
      progress?: (share: number) => void,
    ): Promise<Opened> =>
      (await ask<{ number: number; opened: Opened }>({ open: document }, progress)).opened,
    rows: async (sheet: number, from: number, count: number): Promise<(Row | undefined)[]> =>
      (await ask<{ number: number; rows: (Row | undefined)[] }>({ rows: { sheet, from, count } })).rows,
    find: async (sheet: number, words: string, options: FindOptions): Promise<FoundCell[]> =>
      (await ask<{ number: number; found: FoundCell[] }>({ find: { sheet, words, options } })).found,
  };
}
