import { createHash, randomUUID } from 'node:crypto';
import { readdir, readFile, rename, rm, stat, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { contentsOf } from '../../core/plan/draft-content.ts';
import type { Plan } from '../../core/plan/plan.ts';
import { setOf } from '../../core/paced.ts';
import { Fault } from '../fault.ts';
import { copySynced } from '../files/site-folder.ts';
import { breathe } from '../workers/breathe.ts';

/** New bytes: what a plan writes by, and how many there are. */
export interface NewBytes {
  /** SHA-256, 64 lower-case hex digits. */
  sha256: string;
  bytes: number;
}

/** Where new bytes are until they are written. */
export type BytesAt = { bytes: Uint8Array } | { file: string };

interface Kept {
  at: BytesAt;
  bytes: number;
  /** How many plans that are at hand or being applied write them. */
  holders: number;
  /** The moment at which they were kept last. */
  kept: number;
}

interface Limits {
  /** Bytes of all plans together, in memory and on disk. */
  total: number;
  /** Bytes of all plans together in memory. */
  memory: number;
  /** Bytes above this always go to disk. */
  small: number;
}
const LIMITS: Limits = { total: 20e9, memory: 64e6, small: 256e3 };

/**
 * The new bytes of plans that are being computed or are at hand, by their SHA-256. Pages and the like stay in memory while there is room for
 * them, all else lies in the data folder, so the server's memory does not grow with a plan; in total they are bounded. What no plan holds goes
 * once the computation that kept it is over.
 */
export class PlanBytes {
  /** Makes room when there is none, by letting go of a plan at hand; false: there is no other. */
  makeRoom: () => Promise<boolean> = () => Promise.resolve(false);

  private readonly all = new Map<string, Kept>();
  private readonly limits: Limits;
  private total = 0;
  private memory = 0;
  private moment = 0;
  /** The moments at which the computations that are going on have begun. */
  private readonly running = new Set<number>();

  /** @param folder of its own, on the file system of the data folder */
  constructor(
    private readonly folder: string,
    limits: Partial<Limits> = {},
  ) {
    this.limits = { ...LIMITS, ...limits };
  }

  /** Bytes that are kept: in all, and of these in memory. */
  get size(): { total: number; memory: number } {
    return { total: this.total, memory: this.memory };
  }

  /** Removes what a server before this one has left: its plans ended with it. */
  async empty(): Promise<void> {
    for (const name of await readdir(this.folder)) await rm(join(this.folder, name), { force: true });
  }

  /** Runs a computation that keeps bytes; those that no plan holds afterwards go. */
  async during<Result>(compute: () => Promise<Result> | Result): Promise<Result> {
    const begun = ++this.moment;
    this.running.add(begun);
    try {
      return await compute();
    } finally {
      this.running.delete(begun);
      await this.sweep();
    }
  }

  /** @throws Fault 'too-large' when all plans together would weigh too much */
  async keep(bytes: Uint8Array, sha256 = sha256Of(bytes)): Promise<string> {
    if (this.again(sha256)) return sha256;
    await this.needRoom(bytes.length);
    if (bytes.length <= this.limits.small && this.memory + bytes.length <= this.limits.memory)
      await this.note(sha256, bytes.length, { bytes });
    else {
      const file = this.newFile();
      await writeFile(file, bytes);
      await this.note(sha256, bytes.length, { file });
    }
    return sha256;
  }

  /** Takes a file over; it is gone from where it was. @throws as `keep` */
  async take(from: string, { sha256, bytes }: NewBytes): Promise<NewBytes> {
    try {
      await this.needRoom(bytes);
      const file = this.newFile();
      await rename(from, file);
      await this.note(sha256, bytes, { file });
    } finally {
      await rm(from, { force: true });
    }
    return { sha256, bytes };
  }

  /** Keeps a copy of a file whose hash is known. @throws as `keep` */
  async copy(from: string, sha256: string): Promise<NewBytes> {
    const { size: bytes } = await stat(from);
    if (!this.again(sha256)) {
      await this.needRoom(bytes);
      const file = this.newFile();
      await copySynced(from, file);
      await this.note(sha256, bytes, { file });
    }
    return { sha256, bytes };
  }

  /** How many there are; undefined: none of these are kept. */
  sizeOf(sha256: string): number | undefined {
    return this.all.get(sha256)?.bytes;
  }

  /** Where they are; undefined: a plan that writes them takes them from elsewhere. */
  at(sha256: string): BytesAt | undefined {
    return this.all.get(sha256)?.at;
  }

  async read(sha256: string): Promise<Uint8Array | undefined> {
    const at = this.at(sha256);
    return at && ('bytes' in at ? at.bytes : await readFile(at.file));
  }

  /** Keeps what a plan writes, as it stands now; the answer lets go of it. */
  async hold(plan: Plan): Promise<() => Promise<void>> {
    const hashes = await setOf(plan.files, breathe, (step) =>
      step.do === 'write' ? (step.after ?? undefined) : step.do === 'create' ? step.sha256 : undefined,
    );
    for (const step of plan.records) for (const sha256 of contentsOf(step)) hashes.add(sha256);
    const held = [...hashes].flatMap((sha256) => this.all.get(sha256) ?? []);
    for (const kept of held) kept.holders++;
    return async () => {
      for (const kept of held) kept.holders--;
      await this.sweep();
    };
  }

  private again(sha256: string): boolean {
    const kept = this.all.get(sha256);
    if (kept) kept.kept = ++this.moment;
    return kept !== undefined;
  }

  private async note(sha256: string, bytes: number, at: BytesAt): Promise<void> {
    // The same may have been kept while these were written.
    if (this.again(sha256)) return 'file' in at ? rm(at.file, { force: true }) : undefined;
    this.total += bytes;
    if ('bytes' in at) this.memory += bytes;
    this.all.set(sha256, { at, bytes, holders: 0, kept: ++this.moment });
  }

  private async needRoom(bytes: number): Promise<void> {
    while (this.total + bytes > this.limits.total) {
      if (await this.makeRoom()) continue;
      throw new Fault(
        'too-large',
        `The new files add up to more than ${Math.round(this.limits.total / 1e9)} GB, which is the limit.`,
        'Choose fewer items.',
      );
    }
  }

  /** Drops what no plan holds and no computation that is going on can have kept. */
  private async sweep(): Promise<void> {
    const first = Math.min(...this.running, Infinity);
    const files: string[] = [];
    for (const [sha256, { holders, kept, bytes, at }] of this.all) {
      if (holders > 0 || kept > first) continue;
      this.all.delete(sha256);
      this.total -= bytes;
      if ('bytes' in at) this.memory -= bytes;
      else files.push(at.file);
    }
    for (const file of files) await rm(file, { force: true });
  }

  /** A name of its own for each: one that is just being removed is nobody else's. */
  private newFile(): string {
    return join(this.folder, randomUUID());
  }
}

export function sha256Of(bytes: Uint8Array): string {
  return createHash('sha256').update(bytes).digest('hex');
}
