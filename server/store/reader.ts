import { Worker } from 'node:worker_threads';
import { builtFile } from '../built.ts';
import type { Value } from './item-query.ts';

export interface Asked {
  id: number;
  shape: 'rows' | 'found';
  sql: string;
  values: Record<string, Value>;
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
}

/**
 * Asks the database on a thread of its own what may take longer than the server's thread can wait: whole queries, counts
 * of many choices. It sees what has been committed.
 */
export class Reader {
  private thread: Worker | undefined;
  private readonly waiting = new Map<
    number,
    { done: (output: never) => void; failed: (error: Error) => void }
  >();
  private nextId = 1;

  constructor(private readonly file: string) {}

  /** @param sql selects id, width, height, kind, bytes */
  found(sql: string, values: Record<string, Value>): Promise<Found> {
    return this.ask('found', sql, values);
  }

  rows<Row>(sql: string, values: Record<string, Value>): Promise<Row[]> {
    return this.ask('rows', sql, values);
  }

  private ask<Output>(shape: Asked['shape'], sql: string, values: Record<string, Value>): Promise<Output> {
    const id = this.nextId++;
    const thread = (this.thread ??= this.start());
    return new Promise<Output>((done, failed) => {
      this.waiting.set(id, { done, failed });
      thread.ref();
      thread.postMessage({ id, shape, sql, values } satisfies Asked);
    });
  }

  private start(): Worker {
    const thread = new Worker(builtFile('reader.js'), { workerData: { file: this.file } });
    thread.on('message', ({ id, output, error }: Answer) => {
      const one = this.waiting.get(id);
      this.waiting.delete(id);
      // A thread without a question does not keep the program running.
      if (this.waiting.size === 0) thread.unref();
      if (error === undefined) one?.done(output as never);
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
