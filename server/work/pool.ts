import { availableParallelism } from 'node:os';
import { Worker } from 'node:worker_threads';
import { builtFile } from '../built.ts';
import { LIMITS } from '../intake/limits.ts';
import type { TaskName, Tasks } from './tasks.ts';

interface Waiting {
  task: TaskName;
  input: unknown;
  done: (output: never) => void;
  failed: (error: Error) => void;
  /** Milliseconds after which the worker is ended and the task fails. */
  limit: number;
}

interface Member {
  worker: Worker;
  current?: { id: number; work: Waiting; timer: NodeJS.Timeout };
}

/**
 * Worker threads for the heavy part: hashing, decoding, parsing, searching. A task that crashes or outlives its
 * time ends its worker, fails alone, and a new worker takes the place.
 */
export class Pool {
  private readonly members: Member[] = [];
  private readonly queue: Waiting[] = [];
  private namesMessage: Tasks['names']['in'] | undefined;
  private nextId = 1;
  private closed = false;

  constructor(readonly size = Math.max(2, availableParallelism())) {
    for (let i = 0; i < size; i++) this.members.push(this.start());
  }

  /** Runs a task on the next free worker. @throws Error with the worker's reason */
  run<Name extends TaskName>(
    task: Name,
    input: Tasks[Name]['in'],
    limit = 120_000,
  ): Promise<Tasks[Name]['out']> {
    if (this.closed) return Promise.reject(new Error('the worker pool is closed'));
    return new Promise((done, failed) => {
      this.queue.push({ task, input, done, failed, limit });
      this.feed();
    });
  }

  /** Gives every worker, also one started later, the names that searches look for. */
  setNames(version: number, paths: string[]): void {
    this.namesMessage = { version, paths };
    for (const member of this.members) this.sendNames(member);
  }

  /** Runs a task for each input, as many at once as there are workers, and yields outcomes as they come. */
  async each<Name extends TaskName, Key>(
    task: Name,
    inputs: Iterable<readonly [Key, Tasks[Name]['in']]>,
    onOutcome: (key: Key, outcome: { output: Tasks[Name]['out'] } | { error: Error }) => void | Promise<void>,
    signal?: AbortSignal,
  ): Promise<void> {
    const iterator = inputs[Symbol.iterator]();
    const lane = async () => {
      for (let next = iterator.next(); !next.done; next = iterator.next()) {
        signal?.throwIfAborted();
        const [key, input] = next.value;
        let outcome: { output: Tasks[Name]['out'] } | { error: Error };
        try {
          outcome = { output: await this.run(task, input) };
        } catch (error) {
          outcome = { error: error as Error };
        }
        await onOutcome(key, outcome);
      }
    };
    await Promise.all(Array.from({ length: this.size * 2 }, lane));
  }

  async close(): Promise<void> {
    this.closed = true;
    for (const work of this.queue.splice(0)) work.failed(new Error('the worker pool is closed'));
    await Promise.all(this.members.map((member) => member.worker.terminate()));
  }

  private start(): Member {
    const member: Member = {
      worker: new Worker(builtFile('worker.js'), {
        resourceLimits: { maxOldGenerationSizeMb: LIMITS.workerMemory },
      }),
    };
    member.worker.on('message', (answer: { id: number; output?: never; error?: string }) => {
      const current = member.current;
      if (!current || current.id !== answer.id) return;
      clearTimeout(current.timer);
      delete member.current;
      if (answer.error === undefined) current.work.done(answer.output as never);
      else current.work.failed(new Error(answer.error));
      this.feed();
    });
    member.worker.on('error', (error: Error) => this.replace(member, error));
    member.worker.unref();
    if (this.namesMessage) this.sendNames(member);
    return member;
  }

  private replace(member: Member, error: Error): void {
    const index = this.members.indexOf(member);
    if (index < 0 || this.closed) return;
    this.members[index] = this.start();
    if (member.current) {
      clearTimeout(member.current.timer);
      member.current.work.failed(error);
    }
    void member.worker.terminate();
    this.feed();
  }

  private sendNames(member: Member): void {
    member.worker.postMessage({ id: 0, task: 'names', input: this.namesMessage });
  }

  private feed(): void {
    for (const member of this.members) {
      if (member.current) continue;
      const work = this.queue.shift();
      if (!work) return;
      const id = this.nextId++;
      const timer = setTimeout(
        () => this.replace(member, new Error(`took longer than ${work.limit / 1000} s`)),
        work.limit,
      );
      member.current = { id, work, timer };
      member.worker.ref();
      member.worker.postMessage({ id, task: work.task, input: work.input });
    }
    for (const member of this.members) if (!member.current) member.worker.unref();
  }
}
