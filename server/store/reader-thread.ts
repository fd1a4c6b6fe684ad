import { parentPort, workerData } from 'node:worker_threads';
import Database from 'better-sqlite3';
import type { Asked, Answer } from './reader.ts';

/** Answers questions to the database on a thread of its own: nothing is ever written here. */
const db = new Database((workerData as { file: string }).file, { readonly: true });

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

function found({ sql, values }: Asked): { ids: Uint32Array; ratios: Uint16Array; bytes: number } {
  const rows = prepare(sql).raw().all(values) as [number, number | null, number | null, string, number][];
  const ids = new Uint32Array(rows.length);
  const ratios = new Uint16Array(rows.length);
  let bytes = 0;
  rows.forEach(([id, width, height, kind, weight], at) => {
    ids[at] = id;
    const ratio = kind === 'image' && width && height ? width / height : 1;
    ratios[at] = Math.round(1000 * Math.min(60, ratio));
    bytes += weight;
  });
  return { ids, ratios, bytes };
}

parentPort!.on('message', (asked: Asked) => {
  let answer: Answer;
  try {
    answer = {
      id: asked.id,
      output: asked.shape === 'found' ? found(asked) : prepare(asked.sql).raw(false).all(asked.values),
    };
  } catch (error) {
    answer = { id: asked.id, error: (error as Error).message };
  }
  parentPort!.postMessage(answer);
});
