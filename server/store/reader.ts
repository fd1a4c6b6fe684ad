import { Worker } from 'node:worker_threads';
import { builtFile } from '../built.ts';
import type { Value } from './item-query.ts';

export interface Asked {
  id: number;
  shape: 'rows' | 'found' | 'many' | 'list';
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

/** One thread that reads, and what it has been asked. */
class ReaderThread {
  private thread: Worker | undefined;
  private readonly waiting = new Map<number, Waiting>();

  constructor(private readonly file: string) {}

  get busy(): number {
    return this.waiting.size;
  }

  ask(asked: Asked, waiting: Waiting): void {
    const thread = (this.thread ??= this.start());
    this.waiting.set(asked.id, waiting);
    thread.ref();
    thread.postMessage(asked);
  }

  private start(): Worker {
    const thread = new Worker(builtFile('reader.js'), { workerData: { file: this.file } });
    thread.on('message', ({ id, output, error }: Answer) => {
      const one = this.waiting.get(id);
      this.waiting.delete(id);
      // A thread without a question does not keep the program running.
      if (this.waiting.size === 0) thread.unref();
      if (error === undefined) one?.done((typeof output === 'string' ? JSON.parse(output) : output) as never);
      else one?.failed(new Error(error));
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
 * Asks the database on threads of its own what may take longer than the server's thread can wait: whole queries, counts
 * of many choices. They see what has been committed. Two, so that a window need not wait for the counts beside it.
 */
export class Reader {
  private readonly threads: readonly ReaderThread[];
  private nextId = 1;

  constructor(file: string) {
    this.threads = [new ReaderThread(file), new ReaderThread(file)];
  }

  /** @param sql selects id, width, height, kind, bytes, and the group if they are grouped */
  found(sql: string, values: Record<string, Value>): Promise<Found> {
    return this.ask('found', sql, values);
  }

  rows<Row>(sql: string, values: Record<string, Value>): Promise<Row[]> {
    return this.ask('rows', sql, values);
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
  list(totals: string, rows: string, values: Record<string, Value>): Promise<Uint8Array> {
    return this.ask('list', totals, values, [rows]);
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
