import type Database from 'better-sqlite3';

/** What is put in the place of a parameter. */
export type Value = string | number;

/** What stands for the parameters of a statement: in their order, or one object with their names. */
type Parameters = readonly unknown[];

/** How rows are told: as objects, as arrays, or only their first column. */
type Mode = 'rows' | 'tuples' | 'values';

/** So many prepared statements are kept of each mode; queries built from conditions could make any number. */
const KEPT_STATEMENTS = 400;

/**
 * A database, with the one way to write into it. Preparing costs more than most queries, so each text is prepared once for each mode in which
 * it is asked: no caller can change how another one's rows are told.
 */
export class Db {
  private readonly kept: Record<Mode, Map<string, Database.Statement>> = {
    rows: new Map(),
    tuples: new Map(),
    values: new Map(),
  };

  constructor(private readonly db: Database.Database) {}

  all<Row = unknown>(sql: string, ...parameters: Parameters): Row[] {
    return this.statement('rows', sql).all(...parameters) as Row[];
  }
  get<Row = unknown>(sql: string, ...parameters: Parameters): Row | undefined {
    return this.statement('rows', sql).get(...parameters) as Row | undefined;
  }
  /** The first column of each row. */
  values<Value = unknown>(sql: string, ...parameters: Parameters): Value[] {
    return this.statement('values', sql).all(...parameters) as Value[];
  }
  /** The first column of the first row. */
  value<Value = unknown>(sql: string, ...parameters: Parameters): Value | undefined {
    return this.statement('values', sql).get(...parameters) as Value | undefined;
  }
  /** Each row as an array. */
  tuples<Row extends readonly unknown[]>(sql: string, ...parameters: Parameters): Row[] {
    return this.statement('tuples', sql).all(...parameters) as Row[];
  }
  /** A walk over rows, each told when it is asked for. */
  each<Row>(sql: string, ...parameters: Parameters): IterableIterator<Row> {
    // Of its own: one that is walked over cannot be asked again meanwhile.
    return this.db.prepare(sql).iterate(...parameters) as IterableIterator<Row>;
  }
  /** A statement that tells no rows. */
  run(sql: string, ...parameters: Parameters): { changes: number; lastInsertRowid: number | bigint } {
    return this.statement('rows', sql).run(...parameters);
  }

  /** Does all of it or, when it throws, nothing: also within another one. @returns what `work` returns */
  write<Result>(work: () => Result): Result {
    // eslint-disable-next-line no-restricted-syntax -- This is the one place.
    return this.db.transaction(work)();
  }

  /** Statements without parameters, one after the other. */
  exec(sql: string): void {
    this.db.exec(sql);
  }
  pragma(text: string): unknown {
    return this.db.pragma(text, { simple: true });
  }
  close(): void {
    this.db.close();
  }

  private statement(mode: Mode, sql: string): Database.Statement {
    const kept = this.kept[mode];
    let statement = kept.get(sql);
    if (!statement) {
      if (kept.size >= KEPT_STATEMENTS) kept.delete(kept.keys().next().value!);
      statement = this.db.prepare(sql);
      if (mode === 'values') statement.pluck();
      if (mode === 'tuples') statement.raw();
      kept.set(sql, statement);
    }
    return statement;
  }
}
