import { Fault } from '../fault.ts';
import { ThreadClient } from '../workers/thread.ts';
import type { Value } from './database.ts';

export interface Asked {
  shape: 'rows' | 'ids' | 'json' | 'found' | 'many' | 'list';
  sql: string;
  values: Record<string, Value>;
  /** For 'many' and 'list': the others that are asked at once, with values of the same names. */
  more?: readonly string[];
}
/** Every item of a query, in its order, with all that laying out a contact sheet needs. */
export interface Found {
  ids: Uint32Array;
  /** Width to height of images, in thousandths; 1000 for everything else. */
  ratios: Uint16Array;
  /** Weight of all. */
  bytes: number;
  /** Where each group begins, when they are grouped. */
  groups: { name: string; from: number }[];
  /** How many different items: one may stand in several groups. */
  items: number;
}

/** Milliseconds that one question may take. */
const LIMIT = 15_000;

/** Questions whose rows come as JSON. */
const AS_JSON = new Set<Asked['shape']>(['rows', 'many']);

/**
 * Asks the database on threads of its own what may take longer than the server's thread can wait: whole queries, counts
 * of many choices. They see what has been committed. Two, so that a window need not wait for the counts beside it.
 */
export class Reader {
  private readonly threads: readonly ThreadClient<Asked, unknown>[];

  /** @param recounts counts for each window anew, to see what that costs */
  constructor(file: string, limit = LIMIT, recounts = false) {
    const fault = () => new Fault('busy', 'This search takes too long.', 'Use fewer words or filters.');
    this.threads = [0, 1].map(
      () => new ThreadClient('reader.js', { file, recounts }, { time: { milliseconds: limit, fault } }),
    );
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

  private async ask<Output>(
    shape: Asked['shape'],
    sql: string,
    values: Record<string, Value>,
    more: readonly string[] = [],
  ): Promise<Output> {
    const free = this.threads.reduce((best, one) => (one.busy < best.busy ? one : best));
    const output = await free.ask({ shape, sql, values, more });
    return (AS_JSON.has(shape) ? JSON.parse(output as string) : output) as Output;
  }

  async close(): Promise<void> {
    await Promise.all(this.threads.map((one) => one.close()));
  }
}
