import { ThreadClient } from '../workers/thread.ts';
import type { Archived } from './write.ts';

/** What the thread is asked: to write the archive of a library into a folder, and to pack it. */
export interface ArchiveQuestion {
  root: string;
  data: string;
  /** A folder that isn't there yet; it is removed in the end. */
  folder: string;
  /** The ZIP, and what the folder is called in it. */
  to: string;
  name: string;
  /** ISO 8601. */
  at: string;
  /** About how many files there are. */
  files: number;
}

/**
 * Writes the archive of a library as a ZIP, on a thread of its own. When it fails or is stopped, what is written of it stays, to be removed.
 * @param progress how many files were copied or packed, of twice as many as there are
 * @throws Fault; Error of the file system; the reason of the signal
 */
export async function writePackedArchive(
  question: ArchiveQuestion,
  progress: (done: number, total: number) => void,
  signal: AbortSignal,
): Promise<Archived> {
  const thread = new ThreadClient<ArchiveQuestion, Archived>('archive-packer.js');
  const stop = () => {
    thread.close().catch(() => undefined);
  };
  signal.addEventListener('abort', stop);
  try {
    return await thread.ask(question, [], progress);
  } catch (error) {
    throw signal.aborted ? signal.reason : error;
  } finally {
    signal.removeEventListener('abort', stop);
    await thread.close();
  }
}
