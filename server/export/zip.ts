import type { ZipEntry } from '../files/zip-writer.ts';
import { ThreadClient } from '../workers/thread.ts';

/** What the thread is asked, in this order: to begin an archive, to write texts and files into it, and to end it. */
export type ZipQuestion =
  { open: string } | { name: string; text: string } | { entries: readonly ZipEntry[] } | { end: true };

/** So many files are named to the thread at once. */
const AT_ONCE = 200;

/**
 * Writes a ZIP archive (APPNOTE 6.3) on a thread of its own. When it fails or is stopped, what is written of it stays, to be removed.
 * @param target path of the file; @param entries each is made when it is asked for
 * @param texts are asked for when all files are packed, and written behind them
 * @param packed is told the entries that are in it now
 * @throws Error of the file system, also for a file that is not there or changes meanwhile; the reason of the signal
 */
export async function writeZip(
  target: string,
  entries: Iterable<ZipEntry> | AsyncIterable<ZipEntry>,
  texts: () => Promise<readonly { name: string; text: string }[]>,
  progress: (done: number) => void,
  signal: AbortSignal,
  packed: (entries: readonly ZipEntry[]) => Promise<void> = () => Promise.resolve(),
): Promise<void> {
  const thread = new ThreadClient<ZipQuestion, null>('zip.js');
  const stop = () => {
    thread.close().catch(() => undefined);
  };
  signal.addEventListener('abort', stop);
  let done = 0;
  const pack = async (some: readonly ZipEntry[]) => {
    signal.throwIfAborted();
    await thread.ask({ entries: some }, [], (now) => progress(done + now));
    done += some.length;
    await packed(some);
  };
  try {
    await thread.ask({ open: target });
    let some: ZipEntry[] = [];
    for await (const entry of entries) {
      signal.throwIfAborted();
      some.push(entry);
      if (some.length < AT_ONCE) continue;
      await pack(some);
      some = [];
    }
    await pack(some);
    for (const text of await texts()) await thread.ask(text);
    await thread.ask({ end: true });
  } catch (error) {
    throw signal.aborted ? signal.reason : error;
  } finally {
    signal.removeEventListener('abort', stop);
    await thread.close();
  }
}
