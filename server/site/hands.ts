import { Worker } from 'node:worker_threads';
import type { SitePath } from '../../core/address/path.ts';
import { builtFile } from '../built.ts';
import { Fault, type FaultCode } from '../fault.ts';

/**
 * One act on the site's files. Each leaves the same result however often it is done. A staged file lies beside the place it
 * is for, under a name of ours.
 */
export type Act =
  /** Size and time of a file; null when there is none. */
  | { do: 'facts'; path: SitePath }
  /** Keeps a file's bytes in the content store, before it is replaced or taken away. */
  | { do: 'keep'; path: SitePath; sha256: string }
  /** Takes that back, as long as the file stands where it stood. */
  | { do: 'unkeep'; path: SitePath; sha256: string }
  /** Writes and syncs a new file: from these bytes, else from the content store. Answers its size and time. */
  | {
      do: 'stage';
      path: SitePath;
      name: string;
      sha256: string;
      bytes?: Uint8Array | undefined;
      like?: SitePath;
    }
  | { do: 'unstage'; path: SitePath; name: string }
  /** Puts what is staged in its place. */
  | { do: 'place'; path: SitePath; name: string }
  /** Moves a file out of the way, beside the place it goes to. */
  | { do: 'aside'; from: SitePath; path: SitePath; name: string }
  | { do: 'move'; from: SitePath; to: SitePath }
  | { do: 'delete'; path: SitePath }
  /** Takes a file over into the content store. */
  | { do: 'adopt'; path: SitePath; sha256: string }
  /** Waits until a folder's entries are on disk; '' is the root. */
  | { do: 'sync'; folder: SitePath }
  /** The same for the part of the content store in which hashes begin so. */
  | { do: 'sync-kept'; start: string };

/** So many threads wait for the disk at once. */
const AT_ONCE = 3;

export type ActFacts = { bytes: number; mtimeMs: number } | null;

export interface HandsData {
  /** Absolute path of the site's folder. */
  root: string;
  blobs: string;
  arrivals: string;
}
export type Done =
  | { id: number; results: ActFacts[] }
  | { id: number; fault: { code: FaultCode; message: string; remedy: string } }
  | { id: number; error: string; code: string | undefined };

type Waiting = { done: (results: ActFacts[]) => void; failed: (error: unknown) => void };

class HandsThread {
  private thread: Worker | undefined;
  private readonly waiting = new Map<number, Waiting>();
  private nextId = 1;

  constructor(private readonly data: HandsData) {}

  do(acts: readonly Act[]): Promise<ActFacts[]> {
    const thread = (this.thread ??= this.start());
    const id = this.nextId++;
    return new Promise((done, failed) => {
      this.waiting.set(id, { done, failed });
      thread.ref();
      thread.postMessage({ id, acts });
    });
  }

  private start(): Worker {
    const thread = new Worker(builtFile('hands.js'), { workerData: this.data });
    thread.on('message', (answer: Done) => {
      const one = this.waiting.get(answer.id)!;
      this.waiting.delete(answer.id);
      if (this.waiting.size === 0) thread.unref();
      if ('results' in answer) one.done(answer.results);
      else if ('fault' in answer)
        one.failed(new Fault(answer.fault.code, answer.fault.message, answer.fault.remedy));
      else one.failed(Object.assign(new Error(answer.error), { code: answer.code }));
    });
    thread.on('error', (error) => {
      this.thread = undefined;
      for (const one of this.waiting.values()) one.failed(error);
      this.waiting.clear();
    });
    return thread;
  }

  async close(): Promise<void> {
    await this.thread?.terminate();
  }
}

/**
 * Does the ledger's acts on files, on threads of their own, many in a go: going to and fro for each takes most of the time
 * with thousands of small files.
 */
export class Hands {
  private readonly threads: readonly HandsThread[];

  constructor(data: HandsData) {
    this.threads = Array.from({ length: AT_ONCE }, () => new HandsThread(data));
  }

  /**
   * Does acts in their order; the first that fails ends them.
   * @returns what each found
   * @throws Fault 'outside' when a path leads through a link; the system's error with its code
   */
  do(acts: readonly Act[]): Promise<ActFacts[]> {
    return this.threads[0]!.do(acts);
  }

  /** The same for acts that do not hang together: several wait for the disk at once. When one fails, the others end first. */
  async doApart(acts: readonly Act[]): Promise<ActFacts[]> {
    const share = Math.ceil(acts.length / AT_ONCE);
    const parts = await Promise.allSettled(
      this.threads.map((thread, at) => thread.do(acts.slice(at * share, (at + 1) * share))),
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
