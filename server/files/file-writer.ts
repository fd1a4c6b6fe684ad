import type { SitePath } from '../../core/address/path.ts';
import type { FileRights, FileStep } from '../../core/plan/plan.ts';
import { ThreadClient } from '../workers/thread.ts';

/**
 * One act on the site's files. Each leaves the same result however often it is done, and none ever overwrites or removes
 * bytes other than those it names: a file that is not as expected ends the act with a Fault 'moved-on'. A staged file lies
 * beside the place it is for, under a name of ours.
 *
 * `mark` is what ActFacts told of the file when it was compared with the plan: as long as it is the same, its bytes are
 * not read again.
 */
export type Act =
  /** Size, time and mark of a file; null when there is none. */
  | { do: 'facts'; path: SitePath }
  /** Copies a file's bytes into the content store, before it is replaced or taken away. */
  | { do: 'keep'; path: SitePath; sha256: string }
  /** Drops what `keep` made, when the change is taken back. */
  | { do: 'unkeep'; sha256: string }
  /**
   * Writes and syncs a new file: from new bytes, else from the content store. Answers its size and time.
   * `like`: its mode and owner are those of this file; else those that are said.
   */
  | ({
      do: 'stage';
      path: SitePath;
      name: string;
      sha256: string;
      new?: { bytes: Uint8Array } | { file: string } | undefined;
      like?: SitePath;
    } & FileRights)
  | { do: 'unstage'; path: SitePath; name: string }
  /** Puts what is staged in its place: where nothing is (`before` null), or for a file with these bytes. */
  | {
      do: 'place';
      path: SitePath;
      name: string;
      before: string | null;
      after: string;
      mark?: string | undefined;
    }
  /** Moves a file out of the way, beside the place it goes to. */
  | {
      do: 'aside';
      from: SitePath;
      path: SitePath;
      name: string;
      sha256: string;
      mark?: string | undefined;
    }
  /**
   * Takes one step of a plan back, if it has been done: files that others have changed or put there meanwhile stay.
   * `staged`, `back`: names beside its place, of what it puts there and of what is put back; `aside`: a move that clears
   * the way first, and does so again; `movedFrom`: where a file stood that the plan moves before it writes to it.
   */
  | {
      do: 'back';
      step: Exclude<FileStep, { do: 'make-folder' | 'drop-folder' }>;
      staged: string;
      back: string;
      aside: boolean;
      movedFrom: SitePath | undefined;
    }
  /** Moves what lies aside back to where it was. */
  | { do: 'return'; path: SitePath; name: string; to: SitePath }
  | { do: 'move'; from: SitePath; to: SitePath; sha256: string; mark?: string | undefined }
  /** Removes a file with these bytes; another one is left where it is. */
  | { do: 'delete'; path: SitePath; sha256: string; mark?: string | undefined }
  /** Takes a file over into the content store. */
  | { do: 'adopt'; path: SitePath; sha256: string; mark?: string | undefined }
  /** Waits until a folder's entries are on disk; '' is the root. */
  | { do: 'sync'; folder: SitePath }
  /** The same for the part of the content store in which hashes begin so. */
  | { do: 'sync-kept'; start: string };

/** So many threads wait for the disk at once. */
const AT_ONCE = 3;

export type ActFacts = {
  bytes: number;
  mtimeMs: number;
  /** Changes with every change of the file: device, inode, size, times of change. */
  mark: string;
  mode: number;
  /** User and group. */
  owner: [number, number];
} | null;

export interface WriterData {
  /** Absolute path of the site's folder. */
  root: string;
  blobs: string;
  arrivals: string;
}
/**
 * Does the ledger's acts on files, on threads of their own, many in a go: going to and fro for each takes most of the time
 * with thousands of small files.
 */
export class FileWriter {
  private readonly threads: readonly ThreadClient<readonly Act[], ActFacts[]>[];

  constructor(data: WriterData) {
    this.threads = Array.from({ length: AT_ONCE }, () => new ThreadClient('file-writer.js', data));
  }

  /**
   * Does acts in their order; the first that fails ends them.
   * @returns what each found
   * @throws Fault 'outside' when a path leads through a link, 'moved-on' when a file is not as expected; the system's error with its code
   */
  do(acts: readonly Act[]): Promise<ActFacts[]> {
    return this.threads[0]!.ask(acts);
  }

  /** The same for acts that do not hang together: several wait for the disk at once. When one fails, the others end first. */
  async doApart(acts: readonly Act[]): Promise<ActFacts[]> {
    const share = Math.ceil(acts.length / AT_ONCE);
    const parts = await Promise.allSettled(
      this.threads.map((thread, at) => thread.ask(acts.slice(at * share, (at + 1) * share))),
    );
    return parts.flatMap((part) => {
      if (part.status === 'rejected') throw part.reason;
      return part.value;
    });
  }

  async close(): Promise<void> {
    await Promise.all(this.threads.map((one) => one.close()));
  }
}
