import { askWorker, NotDone } from './ask-worker.ts';
import type { FromReader, Opened, ToReader } from './reading-worker.ts';
import type { FindOptions } from '../../../core/document/find.ts';
import type { ReadingKind } from '../../../core/document/reading.ts';
import type { FoundCell } from '../../../core/sheet/book.ts';
import type { Row } from '../../../core/sheet/sheet.ts';

export { NotDone as UnreadableDocument };

/** A document that is read by a worker of its own, for as long as the component stands. */
export function useReader() {
  const ask = askWorker<ToReader, FromReader>(
    new Worker(new URL('./reading-worker.ts', import.meta.url), { type: 'module' }),
    'It could not be read here. Download it instead.',
  );
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
