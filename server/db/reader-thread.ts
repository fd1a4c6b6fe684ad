import { workerData } from 'node:worker_threads';
import Database from 'better-sqlite3';
import type { ItemList } from '../../api/items.ts';
import { Db } from './database.ts';
import { BY_IDS, itemsOf, type Item } from './item-rows.ts';
import { viewOf } from './item-view.ts';
import { answerQuestions } from '../workers/thread.ts';
import type { Asked, Found } from './reader.ts';

/** Answers questions to the database on a thread of its own: nothing is ever written here. */
const { file, recounts } = workerData as { file: string; recounts: boolean };
const db = new Db(new Database(file, { readonly: true }));

type Row = [number, number | null, number | null, string, number, string?];
function found({ sql, values }: Asked): Found {
  const rows = db.tuples<Row>(sql, values);
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
/** What is known of a query: how many items it has, and when it was asked before, which ones in their order. */
interface Known {
  sums: Sums;
  ids?: Uint32Array;
}
/** The latest queries: every window of one asks for the same again. */
const latest = new Map<string, Known>();
let version: unknown;
/** So many queries are known at one time, with so many ids of each at most. */
const MOST_KNOWN = 40;
const MOST_IDS = 200_000;

/**
 * A window of a query. What it has in all is counted once for the database as it is (PRAGMA data_version tells when others have changed it);
 * from its second window on, its order is known too, and only the window itself is read.
 */
function list({ sql, values, more: [rows = '', ids = ''] = [] }: Asked): Uint8Array {
  const now = db.pragma('data_version');
  if (now !== version || recounts) latest.clear();
  version = now;
  const { limit, offset, ...asked } = values;
  const key = `${ids} ${JSON.stringify(asked)}`;
  let known = latest.get(key);
  let items: Item[];
  if (!known) {
    if (latest.size >= MOST_KNOWN) latest.delete(latest.keys().next().value!);
    latest.set(key, (known = { sums: db.get<Sums>(sql, values)! }));
    items = itemsOf(db, rows, values);
  } else if (known.sums.total > MOST_IDS) items = itemsOf(db, rows, values);
  else {
    known.ids ??= Uint32Array.from(db.values<number>(ids, values));
    const wanted = known.ids.subarray(Number(offset), Number(offset) + Number(limit));
    items = itemsOf(db, BY_IDS, { ids: JSON.stringify([...wanted]) });
  }
  const list = { ...known.sums, items: items.map(viewOf) } satisfies ItemList;
  return new TextEncoder().encode(JSON.stringify(list));
}

function outputOf(asked: Asked): unknown {
  const rows = (sql: string) => db.all(sql, asked.values);
  switch (asked.shape) {
    case 'found':
      return found(asked);
    case 'list':
      return list(asked);
    case 'ids':
      return Uint32Array.from(db.values<number>(asked.sql, asked.values));
    case 'json':
      return new TextEncoder().encode(JSON.stringify(rows(asked.sql)));
    // As JSON: writing and reading it takes half the time of copying objects from thread to thread.
    case 'rows':
      return JSON.stringify(rows(asked.sql));
    case 'many':
      return JSON.stringify([asked.sql, ...(asked.more ?? [])].map(rows));
  }
}

answerQuestions<Asked, unknown>(outputOf, (output) =>
  output instanceof Uint8Array || output instanceof Uint32Array ? [output.buffer as ArrayBuffer] : [],
);
