import { parentPort, workerData } from 'node:worker_threads';
import Database from 'better-sqlite3';
import type { ItemList } from '../../api/items.ts';
import { itemsOf } from './item-rows.ts';
import { viewOf } from './item-view.ts';
import { READY, type Answer, type Asked, type Found } from './reader.ts';

/** Answers questions to the database on a thread of its own: nothing is ever written here. */
const { file, recounts } = workerData as { file: string; recounts: boolean };
const db = new Database(file, { readonly: true });

/** Preparing a long question takes longer than answering a short one: the latest are kept. */
const kept = new Map<string, Database.Statement>();
function prepare(sql: string): Database.Statement {
  let statement = kept.get(sql);
  if (!statement) {
    if (kept.size >= 200) kept.delete(kept.keys().next().value!);
    kept.set(sql, (statement = db.prepare(sql)));
  }
  return statement;
}

type Row = [number, number | null, number | null, string, number, string?];
function found({ sql, values }: Asked): Found {
  const rows = prepare(sql).raw().all(values) as Row[];
  const ids = new Uint32Array(rows.length);
  const ratios = new Uint16Array(rows.length);
  const groups: Found['groups'] = [];
  const seen = new Set<number>();
  let bytes = 0;
  rows.forEach(([id, width, height, kind, weight, group], at) => {
    ids[at] = id;
    const ratio = kind === 'image' && width && height ? width / height : 1;
    ratios[at] = Math.round(1000 * Math.min(60, ratio));
    if (group === undefined) bytes += weight;
    else {
      if (groups.at(-1)?.name !== group) groups.push({ name: group, from: at });
      if (!seen.has(id)) bytes += weight;
      seen.add(id);
    }
  });
  return { ids, ratios, bytes, groups, items: groups.length > 0 ? seen.size : rows.length };
}

type Sums = Omit<ItemList, 'items'>;
/** How many items the latest queries have: every window of one asks for that again. */
const counted = new Map<string, Sums>();
let version: unknown;

/** What a query has in all, counted once for the database as it is (PRAGMA data_version tells when others have changed it). */
function sumsOf(sql: string, values: Asked['values']): Sums {
  const now = db.pragma('data_version', { simple: true });
  if (now !== version || recounts || counted.size >= 200) counted.clear();
  version = now;
  const { limit: _limit, offset: _offset, ...asked } = values;
  const key = `${sql} ${JSON.stringify(asked)}`;
  let sums = counted.get(key);
  if (!sums) counted.set(key, (sums = prepare(sql).raw(false).get(values) as Sums));
  return sums;
}

function list({ sql, values, more: [rows = ''] = [] }: Asked): Uint8Array {
  const sums = sumsOf(sql, values);
  const list = { ...sums, items: itemsOf(prepare(rows), values).map(viewOf) } satisfies ItemList;
  return new TextEncoder().encode(JSON.stringify(list));
}

function outputOf(asked: Asked): unknown {
  const rows = (sql: string) => prepare(sql).raw(false).all(asked.values);
  switch (asked.shape) {
    case 'found':
      return found(asked);
    case 'list':
      return list(asked);
    // As JSON: writing and reading it takes half the time of copying objects from thread to thread.
    case 'rows':
      return JSON.stringify(rows(asked.sql));
    case 'many':
      return JSON.stringify([asked.sql, ...(asked.more ?? [])].map(rows));
  }
}

parentPort!.on('message', (asked: Asked) => {
  try {
    const output = outputOf(asked);
    // Bytes are handed over, not copied.
    parentPort!.postMessage(
      { id: asked.id, output } satisfies Answer,
      output instanceof Uint8Array ? [output.buffer as ArrayBuffer] : [],
    );
  } catch (error) {
    parentPort!.postMessage({ id: asked.id, error: (error as Error).message } satisfies Answer);
  }
});
parentPort!.postMessage({ id: READY } satisfies Answer);
