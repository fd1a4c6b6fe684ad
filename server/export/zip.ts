import type { ZipEntry } from '../files/zip-writer.ts';
import { ThreadClient } from '../workers/thread.ts';

/** What the thread is asked, in this order: to begin an archive, to write a text and files into it, and to end it. */
export type ZipQuestion =
  { open: string } | { name: string; text: string } | { entries: readonly ZipEntry[] } | { end: true };

/** So many files are named to the thread at once. */
const AT_ONCE = 200;

/**
 * Writes a ZIP archive (APPNOTE 6.3) on a thread of its own. When it fails or is stopped, what is written of it stays, to be removed.
 * @param target path of the file; @param text written before the files, under its name
 * @throws Error of the file system, also for a file that is not there or changes meanwhile; the reason of the signal
 */
export async function writeZip(
  target: string,
  text: { name: string; text: string },
  entries: readonly ZipEntry[],
  progress: (done: number) => void,
  signal: AbortSignal,
): Promise<void> {
  const thread = new ThreadClient<ZipQuestion, null>('zip.js');
  const stop = () => {
    thread.close().catch(() => undefined);
  };
  signal.addEventListener('abort', stop);
  try {
    await thread.ask({ open: target });
    await thread.ask(text);
    for (let at = 0; at < entries.length; at += AT_ONCE) {
      signal.throwIfAborted();
      await thread.ask({ entries: entries.slice(at, at + AT_ONCE) }, [], (done) => progress(at + done));
    }
    await thread.ask({ end: true });
  } catch (error) {
    throw signal.aborted ? signal.reason : error;
  } finally {
    signal.removeEventListener('abort', stop);
    await thread.close();
  }
}
