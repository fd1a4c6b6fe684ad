import { fork, type ChildProcess } from 'node:child_process';
import { availableParallelism, setPriority } from 'node:os';
import { builtFile } from '../built.ts';
import { LIMITS } from '../intake/limits.ts';
import { OUT_OF_MEMORY, type TaskName, type Tasks } from './tasks.ts';

interface Waiting {
  task: TaskName;
  input: unknown;
  done: (output: never) => void;
  failed: (error: Error) => void;
  /** Milliseconds after which the worker is ended and the task fails. */
  limit: number;
}

interface Member {
  process: ChildProcess;
  current?: { id: number; work: Waiting; timer: NodeJS.Timeout };
}

/**
 * Worker processes for the heavy part: hashing, decoding, parsing, searching. A task that crashes its decoder, outlives
 * its time or takes too much memory ends its worker, fails alone, and a new worker takes the place. Processes, not
 * threads: a fault in a native decoder would end a thread's whole program. They start when there is work for them.
 */
export class Pool {
  private readonly members: Member[] = [];
  private readonly queue: Waiting[] = [];
  private namesMessage: Tasks['names']['in'] | undefined;
  private nextId = 1;
  private closed = false;

  /** @param taskMemory MB that one task may take */
  constructor(
    readonly size = Math.max(2, availableParallelism()),
    private readonly taskMemory: number = LIMITS.taskMemory,
  ) {}

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
    await Promise.all(this.members.map(end));
  }

  private start(): Member {
    const child = fork(builtFile('worker.js'), [String(this.taskMemory)], {
      serialization: 'advanced',
      execArgv: [`--max-old-space-size=${LIMITS.workerMemory}`],
      stdio: ['ignore', 'ignore', 'inherit', 'ipc'],
    });
    // Whoever waits for an answer comes before the work in the background.
    if (child.pid !== undefined) setPriority(child.pid, 5);
    const member: Member = { process: child };
    child.on('message', (answer: { id: number; output?: never; error?: string }) => {
      const current = member.current;
      if (!current || current.id !== answer.id) return;
      clearTimeout(current.timer);
      delete member.current;
      if (answer.error === undefined) current.work.done(answer.output as never);
      else current.work.failed(new Error(answer.error));
      this.feed();
    });
    child.on('error', (error) => this.remove(member, error));
    child.on('exit', (code) =>
      this.remove(
        member,
        new Error(
          code === OUT_OF_MEMORY ? 'it takes more memory than one file may' : 'what reads it failed on it',
        ),
      ),
    );
    rest(child);
    this.members.push(member);
    if (this.namesMessage) this.sendNames(member);
    return member;
  }

  private remove(member: Member, error: Error): void {
    const index = this.members.indexOf(member);
    if (index < 0 || this.closed) return;
    this.members.splice(index, 1);
    if (member.current) {
      clearTimeout(member.current.timer);
      member.current.work.failed(error);
    }
    void end(member);
    this.feed();
  }

  private sendNames(member: Member): void {
    member.process.send({ id: 0, task: 'names', input: this.namesMessage });
  }

  private feed(): void {
    while (this.queue.length > 0) {
      const member =
        this.members.find((one) => !one.current) ??
        (this.members.length < this.size ? this.start() : undefined);
      if (!member) return;
      const work = this.queue.shift()!;
      const id = this.nextId++;
      const timer = setTimeout(
        () => this.remove(member, new Error(`took longer than ${work.limit / 1000} s`)),
        work.limit,
      );
      member.current = { id, work, timer };
      member.process.ref();
      member.process.channel?.ref();
      member.process.send({ id, task: work.task, input: work.input });
    }
    for (const member of this.members) if (!member.current) rest(member.process);
  }
}

/** A worker without work does not keep the program running. */
function rest(child: ChildProcess): void {
  child.unref();
  child.channel?.unref();
}

function end({ process: child }: Member): Promise<void> {
  if (child.exitCode !== null || child.signalCode !== null) return Promise.resolve();
  child.ref();
  const ended = new Promise<void>((done) => child.once('exit', () => done()));
  child.kill('SIGKILL');
  return ended;
}
