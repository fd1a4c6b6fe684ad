import { fork, type ChildProcess } from 'node:child_process';
import { readFileSync } from 'node:fs';
import { availableParallelism, setPriority } from 'node:os';
import { builtFile } from '../built.ts';
import { LIMITS } from '../limits.ts';
import { FairQueue } from './fair.ts';
import { limited } from './limited.ts';
import { OUT_OF_MEMORY, type SharedTask, type TaskName, type Tasks } from './tasks.ts';

/** What became of one task. */
export type Outcome<Name extends TaskName> = { output: Tasks[Name]['out'] } | { error: Error };

/** A task that did not come to its end: its worker was lost, or it took too long. Tried again, it may well succeed. */
export class Unended extends Error {}

/** What comes in time; undefined: its worker was ended. */
export async function inTime<Result>(work: () => Promise<Result>): Promise<Result | undefined> {
  try {
    return await work();
  } catch (error) {
    if (error instanceof Unended) return undefined;
    throw error;
  }
}

/** How a task is run. */
export interface Running {
  /**
   * Milliseconds of work after which its worker is ended and it fails; where the system does not tell how long a process has worked, of
   * waiting. On a busy machine it may wait SLACK times as long.
   */
  limit?: number;
  /** Ends its worker with it. */
  signal?: AbortSignal | undefined;
  /** How much of it is done, 0 to 1; only long tasks tell. */
  progress?: ((share: number) => void) | undefined;
}
const LIMIT = 120_000;
const SLACK = 6;

interface Waiting {
  task: TaskName;
  /** Tasks that one worker does one after the other: going to and fro takes longer than a short one. */
  inputs: readonly unknown[];
  done: (outcomes: { output?: never; error?: string }[]) => void;
  /** The worker was lost with all of them. */
  lost: (error: Error) => void;
  how: Running;
}

interface Member {
  process: ChildProcess;
  /** `spent`: the time that its process had worked before. */
  current?: { id: number; work: Waiting; timer: NodeJS.Timeout; spent: number };
}

/**
 * Worker processes for the heavy part: hashing, decoding, parsing, searching. A task that crashes its decoder, outlives
 * its time or takes too much memory ends its worker, fails alone, and a new worker takes the place. Processes, not
 * threads: a fault in a native decoder would end a thread's whole program. They start when there is work for them.
 */
export class Pool {
  private readonly members: Member[] = [];
  private readonly queue = new FairQueue<Waiting>();
  /** What many tasks need, told to each worker once, by version: several sites may be worked on at once. */
  private readonly shared = new Map<string, { task: SharedTask; input: { version: number } }>();
  private nextId = 1;
  private closed = false;
  private watch: NodeJS.Timeout | undefined;

  /** @param taskMemory MB that one task may take */
  constructor(
    readonly size = Math.max(2, availableParallelism()),
    private readonly taskMemory: number = LIMITS.taskMemory,
  ) {}

  /** Runs a task on the next free worker. @throws Error with the worker's reason */
  run<Name extends TaskName>(
    task: Name,
    input: Tasks[Name]['in'],
    how: Running = {},
  ): Promise<Tasks[Name]['out']> {
    return this.together(task, [input], how).then(([outcome]) => {
      if ('error' in outcome!) throw outcome.error;
      return outcome!.output;
    });
  }

  /**
   * Runs tasks of one kind on one worker. One that fails fails alone; when the worker is lost with them, each is tried by
   * itself, so that only the guilty one fails.
   */
  private together<Name extends TaskName>(
    task: Name,
    inputs: readonly Tasks[Name]['in'][],
    how: Running = {},
  ): Promise<Outcome<Name>[]> {
    const closed = new Unended('the worker pool is closed');
    if (this.closed) return Promise.resolve(inputs.map(() => ({ error: closed })));
    if (how.signal?.aborted) return Promise.resolve(inputs.map(() => ({ error: stopped() })));
    return new Promise((done) => {
      const work: Waiting = {
        task,
        inputs,
        how,
        done: (outcomes) =>
          done(
            outcomes.map(({ output, error }) =>
              error === undefined ? { output: output as never } : { error: new Error(error) },
            ),
          ),
        lost: (error) => {
          if (inputs.length === 1 || this.closed) done(inputs.map(() => ({ error })));
          else
            Promise.all(inputs.map((input) => this.together(task, [input], how))).then(
              (outcomes) => done(outcomes.flat()),
              (failed: Error) => done(inputs.map(() => ({ error: failed }))),
            );
        },
      };
      this.queue.push(work);
      how.signal?.addEventListener('abort', () => this.stop(work), { once: true });
      this.feed();
    });
  }

  /** Starts workers for work that is about to come. */
  wake(): void {
    while (!this.closed && this.members.length < this.size) this.start();
  }

  /** Tells every worker, also one started later, what the tasks of a version need. */
  share<Name extends SharedTask>(task: Name, input: Tasks[Name]['in']): void {
    this.shared.set(`${task} ${input.version}`, { task, input });
    for (const member of this.members) tell(member, task, input);
  }

  /** No task of this version follows. */
  drop(task: SharedTask, version: number): void {
    this.shared.delete(`${task} ${version}`);
    for (const member of this.members) tell(member, task, { version });
  }

  /**
   * Runs a task for each input, as many at once as there are workers, and yields outcomes as they come.
   * @param together so many go to a worker at once; more than one where a task is short
   * @param limit milliseconds of work that they may take, as in `Running`
   */
  async each<Name extends TaskName, Key>(
    task: Name,
    inputs: Iterable<readonly [Key, Tasks[Name]['in']]>,
    onOutcome: (key: Key, outcome: Outcome<Name>) => void | Promise<void>,
    {
      signal,
      together = 1,
      limit,
    }: { signal?: AbortSignal | undefined; together?: number; limit?: number } = {},
  ): Promise<void> {
    const iterator = inputs[Symbol.iterator]();
    const lane = async () => {
      for (;;) {
        signal?.throwIfAborted();
        const taken: (readonly [Key, Tasks[Name]['in']])[] = [];
        for (let next = iterator.next(); !next.done; next = iterator.next()) {
          taken.push(next.value);
          if (taken.length >= together) break;
        }
        if (taken.length === 0) return;
        const outcomes = await this.together(
          task,
          taken.map(([, input]) => input),
          limit === undefined ? {} : { limit },
        );
        for (const [at, [key]] of taken.entries()) await onOutcome(key, outcomes[at]!);
      }
    };
    await Promise.all(Array.from({ length: this.size * 2 }, lane));
  }

  async close(): Promise<void> {
    this.closed = true;
    for (const work of this.queue.clear()) work.lost(new Unended('the worker pool is closed'));
    clearInterval(this.watch);
    await Promise.all(this.members.map(end));
  }

  private start(): Member {
    const { command, args } = limited(
      LIMITS.workerBase + LIMITS.workerUnused + this.taskMemory,
      process.execPath,
      [`--max-old-space-size=${LIMITS.workerMemory}`],
    );
    const child = fork(builtFile('worker.js'), [String(this.taskMemory)], {
      serialization: 'advanced',
      execPath: command,
      execArgv: args,
      stdio: ['ignore', 'ignore', 'inherit', 'ipc'],
    });
    // Whoever waits for an answer comes before the work in the background.
    if (child.pid !== undefined) setPriority(child.pid, 5);
    const member: Member = { process: child };
    child.on('message', (answer: Answer) => {
      const current = member.current;
      if (!current || current.id !== answer.id) return;
      if ('share' in answer) {
        current.work.how.progress?.(answer.share);
        return;
      }
      clearTimeout(current.timer);
      delete member.current;
      // The next work first: the worker need not wait until this thread has dealt with the outcome.
      this.feed();
      current.work.done(answer.outcomes);
    });
    child.on('error', (error) => this.remove(member, error));
    child.on('exit', (code) =>
      this.remove(member, new Unended(code === OUT_OF_MEMORY ? TOO_MUCH : 'what reads it failed on it')),
    );
    rest(child);
    this.members.push(member);
    for (const { task, input } of this.shared.values()) tell(member, task, input);
    return member;
  }

  /** Looks what those at work take: a task that leaves its worker no breath cannot look itself. */
  private look(): void {
    const most = (LIMITS.workerBase + this.taskMemory) * 1e6;
    for (const member of [...this.members]) {
      const { current } = member;
      if (!current) continue;
      const { limit = LIMIT } = current.work.how;
      if (held(member.process) > most) this.remove(member, new Unended(TOO_MUCH));
      else if (worked(member.process) - current.spent > limit) this.remove(member, tooLong(limit));
    }
    if (!this.members.some((one) => one.current)) {
      clearInterval(this.watch);
      this.watch = undefined;
    }
  }

  private remove(member: Member, error: Error): void {
    const index = this.members.indexOf(member);
    if (index < 0 || this.closed) return;
    this.members.splice(index, 1);
    const { current } = member;
    // What it still says on its way out is for nobody.
    delete member.current;
    if (current) {
      clearTimeout(current.timer);
      current.work.lost(error);
    }
    // It is being ended: what it says of that is of no use.
    end(member).catch(() => undefined);
    this.feed();
  }

  /** Nobody waits for it any more: it is taken off the list, or its worker is ended. */
  private stop(work: Waiting): void {
    if (this.queue.remove(work)) work.lost(stopped());
    else {
      const member = this.members.find((one) => one.current?.work === work);
      if (member) this.remove(member, stopped());
    }
  }

  private feed(): void {
    while (this.queue.length > 0) {
      const member =
        this.members.find((one) => !one.current) ??
        (this.members.length < this.size ? this.start() : undefined);
      if (!member) return;
      const work = this.queue.shift()!;
      const id = this.nextId++;
      const { limit = LIMIT } = work.how;
      const spent = worked(member.process);
      const timer = setTimeout(
        () => this.remove(member, tooLong(limit)),
        Number.isNaN(spent) ? limit : limit * SLACK,
      );
      member.current = { id, work, timer, spent };
      member.process.ref();
      member.process.channel?.ref();
      member.process.send({ id, task: work.task, inputs: work.inputs });
      this.watch ??= setInterval(() => this.look(), 50).unref();
    }
    for (const member of this.members) if (!member.current) rest(member.process);
  }
}

/** What a worker says: how far it is with something, or what came out of it. */
export type Answer =
  { id: number; share: number } | { id: number; outcomes: { output?: never; error?: string }[] };

const TOO_MUCH = 'it takes more memory than one file may';

/** Bytes of memory that a process holds (proc(5)); 0 where the system does not tell. */
function held({ pid }: ChildProcess): number {
  try {
    return Number(readFileSync(`/proc/${pid}/statm`, 'utf8').split(' ')[1]) * PAGE_BYTES;
  } catch {
    // It has ended, or there is no such file system.
    return 0;
  }
}
const PAGE_BYTES = 4096;

/** Milliseconds that a process has worked, all its threads together (proc(5)); NaN where the system does not tell. */
function worked({ pid }: ChildProcess): number {
  try {
    const stat = readFileSync(`/proc/${pid}/stat`, 'utf8');
    // Behind the name, which may hold anything: the 14th and 15th of all, in hundredths of a second.
    const [user, system] = stat
      .slice(stat.lastIndexOf(')') + 2)
      .split(' ')
      .slice(11, 13);
    return (Number(user) + Number(system)) * 10;
  } catch {
    return NaN;
  }
}

const tooLong = (limit: number) => new Unended(`took longer than ${limit / 1000} s`);

const stopped = () => new Unended('it was stopped');

function tell(member: Member, task: SharedTask, input: { version: number }): void {
  member.process.send({ id: 0, task, inputs: [input] });
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
