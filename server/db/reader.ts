import { Worker } from 'node:worker_threads';
import { builtFile } from '../built.ts';
import { Fault } from '../fault.ts';
import type { Value } from './database.ts';

export interface Asked {
  id: number;
  shape: 'rows' | 'ids' | 'json' | 'found' | 'many' | 'list';
  sql: string;
  values: Record<string, Value>;
  /** For 'many' and 'list': the others that are asked at once, with values of the same names. */
  more?: readonly string[];
}
export interface Answer {
  id: number;
  output?: unknown;
  error?: string;
}

/** Every item of a query, in its order, with all that laying out a contact sheet needs. */
export interface Found {
  ids: Uint32Array;
  /** Width to height of pictures, in thousandths; 1000 for everything else. */
  ratios: Uint16Array;
  /** Weight of all. */
  bytes: number;
  /** Where each group begins, when they are grouped. */
  groups: { name: string; from: number }[];
  /** How many different items: one may stand in several groups. */
  items: number;
}

type Waiting = { done: (output: never) => void; failed: (error: Error) => void };

/** What a thread says first, instead of the number of a question. */
export const READY = 0;

/** Milliseconds that one question may take. */
const LIMIT = 15_000;

/** One thread that reads, and what it has been asked. */
class ReaderThread {
  private thread: Worker | undefined;
  private readonly waiting = new Map<number, Waiting & { asked: Asked }>();
  private timer: NodeJS.Timeout | undefined;
  /** The thread has started and asks for questions: until then no time runs. */
  private ready = false;

  constructor(
    private readonly file: string,
    private readonly limit: number,
    private readonly recounts: boolean,
  ) {}

  get busy(): number {
    return this.waiting.size;
  }

  ask(asked: Asked, waiting: Waiting): void {
    const thread = (this.thread ??= this.start());
    this.waiting.set(asked.id, { ...waiting, asked });
    thread.ref();
    thread.postMessage(asked);
    if (this.waiting.size === 1) this.watch();
  }

  /** Questions are answered one after the other: the time runs for the first. */
  private watch(): void {
    clearTimeout(this.timer);
    if (this.waiting.size === 0 || !this.ready) return;
    this.timer = setTimeout(() => this.giveUp(), this.limit);
    this.timer.unref();
  }

  /** The first takes too long. SQLite cannot be stopped within a step: the thread is left to its end, and the others get a new one. */
  private giveUp(): void {
    const [first, ...others] = this.waiting.values();
    this.waiting.clear();
    this.thread?.removeAllListeners();
    this.thread?.on('error', () => undefined);
    this.thread?.terminate().catch(() => undefined);
    this.thread = undefined;
    first?.failed(
      new Fault('busy', 'This search takes too long.', 'Search for less: fewer words or conditions.'),
    );
    for (const { asked, ...one } of others) this.ask(asked, one);
  }

  private start(): Worker {
    const thread = new Worker(builtFile('reader.js'), {
      workerData: { file: this.file, recounts: this.recounts },
    });
    this.ready = false;
    thread.on('message', ({ id, output, error }: Answer) => {
      if (id === READY) {
        this.ready = true;
        this.watch();
        return;
      }
      const one = this.waiting.get(id);
      this.waiting.delete(id);
      this.watch();
      // A thread without a question does not keep the program running.
      if (this.waiting.size === 0) thread.unref();
      if (error === undefined) one?.done((typeof output === 'string' ? JSON.parse(output) : output) as never);
      else one?.failed(new Error(error));
    });
    thread.on('error', (error) => {
      this.thread = undefined;
      for (const one of this.waiting.values()) one.failed(error);
      this.waiting.clear();
      this.watch();
    });
    return thread;
  }

  async close(): Promise<void> {
    clearTimeout(this.timer);
    await this.thread?.terminate();
  }
}

/**
 * Asks the database on threads of its own what may take longer than the server's thread can wait: whole queries, counts
 * of many choices. They see what has been committed. Two, so that a window need not wait for the counts beside it.
 */
export class Reader {
  private readonly threads: readonly ReaderThread[];
  private nextId = 1;

  /** @param recounts counts for each window anew, to see what that costs */
  constructor(file: string, limit = LIMIT, recounts = false) {
    this.threads = [0, 1].map(() => new ReaderThread(file, limit, recounts));
  }

  /** @param sql selects id, width, height, kind, bytes, and the group if they are grouped */
  found(sql: string, values: Record<string, Value>): Promise<Found> {
    return this.ask('found', sql, values);
  }

  rows<Row>(sql: string, values: Record<string, Value>): Promise<Row[]> {
    return this.ask('rows', sql, values);
  }

  /** The first column of each row, which is a number. */
  ids(sql: string, values: Record<string, Value>): Promise<Uint32Array> {
    return this.ask('ids', sql, values);
  }

  /** Rows as JSON, to be sent as they are. */
  json(sql: string, values: Record<string, Value>): Promise<Uint8Array> {
    return this.ask('json', sql, values);
  }

  /** Several questions about the same values in one go: going to and fro takes longer than answering a short one. */
  many(sqls: readonly string[], values: Record<string, Value>): Promise<unknown[][]> {
    const [sql = '', ...more] = sqls;
    return this.ask('many', sql, values, more);
  }

  /**
   * A window of items with how many there are in all: an ItemList as JSON, put together on the reader's thread, so that the
   * server's has only to send it.
   */
  list(
    sql: { totals: string; rows: string; ids: string },
    values: Record<string, Value>,
  ): Promise<Uint8Array> {
    return this.ask('list', sql.totals, values, [sql.rows, sql.ids]);
  }

  private ask<Output>(
    shape: Asked['shape'],
    sql: string,
    values: Record<string, Value>,
    more: readonly string[] = [],
  ): Promise<Output> {
    const free = this.threads.reduce((best, one) => (one.busy < best.busy ? one : best));
    return new Promise<Output>((done, failed) => {
      free.ask({ id: this.nextId++, shape, sql, values, more }, { done, failed });
    });
  }

  async close(): Promise<void> {
    await Promise.all(this.threads.map((one) => one.close()));
  }
}
