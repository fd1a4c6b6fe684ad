import { parentPort, workerData } from 'node:worker_threads';
import Database from 'better-sqlite3';
import { verify } from '../../core/picture/alike.ts';
import { Matcher, type MatchCandidate } from '../../core/picture/matcher.ts';
import { Prepared } from '../../core/picture/windows.ts';
import type { AlikePair } from '../store/alikes.ts';
import type { MatchAnswer, MatchQuestion } from './matching.ts';

/** Finds pictures that show the same, on a thread of its own: hashes are held in memory, planes are read where they are needed. */
const db = new Database((workerData as { file: string }).file, { readonly: true });

const matcher = new Matcher();
const numbers = new Map<string, number>();
const shas: string[] = [];

const all = db.prepare('select sha256, windows, oriented from content where windows is not null');
/** Those that nobody has asked for yet: they have come since. */
const unmatched = db.prepare(
  'select sha256, windows, oriented from content where matched = 0 and windows is not null',
);
const one = db.prepare(
  'select sha256, windows, oriented from content where sha256 = ? and windows is not null',
);
const seen = db.prepare(
  `select plane, chroma, aspect,
     coalesce((select width from item where item.sha256 = content.sha256 and width is not null limit 1),
       (select json_extract(facts, '$.width') from arrival where arrival.sha256 = content.sha256 limit 1)) as width,
     coalesce((select height from item where item.sha256 = content.sha256 and height is not null limit 1),
       (select json_extract(facts, '$.height') from arrival where arrival.sha256 = content.sha256 limit 1)) as height
   from content where sha256 = ?`,
);

interface HashRow {
  sha256: string;
  windows: Buffer;
  oriented: Buffer;
}
const words = (bytes: Buffer) => new Int32Array(Uint8Array.from(bytes).buffer);

function add({ sha256, windows, oriented }: HashRow): void {
  if (numbers.has(sha256)) return;
  numbers.set(sha256, matcher.add({ windows: words(windows), oriented: words(oriented) }));
  shas.push(sha256);
}

/** Pictures made ready for verifying, the latest used: one takes 150 kB. */
const READY = 400;
const ready = new Map<number, Prepared | undefined>();
function prepared(id: number): Prepared | undefined {
  let picture = ready.get(id);
  if (!ready.delete(id)) {
    const row = seen.get(shas[id]) as
      | { plane: Buffer; chroma: Buffer; aspect: number; width: number | null; height: number | null }
      | undefined;
    picture =
      row &&
      new Prepared({
        plane: row.plane,
        chroma: new Int8Array(row.chroma),
        width: row.width ?? Math.round(row.aspect * 1000),
        height: row.height ?? 1000,
      });
    if (ready.size >= READY) ready.delete(ready.keys().next().value!);
  }
  ready.set(id, picture);
  return picture;
}

/** Pairs of which one is asked for and both are there now. */
function match({ id, sha256s }: MatchQuestion): AlikePair[] {
  // Contents that have come since are among those that are looked through.
  for (const row of (matcher.size === 0 ? all : unmatched).iterate() as IterableIterator<HashRow>) add(row);
  for (const sha256 of sha256s) {
    const row = one.get(sha256) as HashRow | undefined;
    if (row) add(row);
  }
  const asked = sha256s.map((sha256) => numbers.get(sha256)).filter((number) => number !== undefined);
  const candidates = matcher.candidates(asked);
  // Those of one picture stand together, so that it is made ready once.
  candidates.sort((a, b) => a.one - b.one || a.bits - b.bits);
  const found = new Map<string, AlikePair>();
  candidates.forEach((candidate, at) => {
    if (at % 50 === 0) tell({ id, done: at, total: candidates.length });
    const pair = verified(candidate);
    if (!pair) return;
    const key = `${pair.one} ${pair.other}`;
    if ((found.get(key)?.sure ?? -1) < pair.sure) found.set(key, pair);
  });
  return [...found.values()];
}

function verified(candidate: MatchCandidate): AlikePair | undefined {
  const [a, b] = [prepared(candidate.one), prepared(candidate.other)];
  const alike = a && b && verify(a, b, candidate);
  if (!alike) return undefined;
  const [first, second] = [shas[candidate.one]!, shas[candidate.other]!];
  const { relation, sure, weak } = alike;
  return {
    one: first < second ? first : second,
    other: first < second ? second : first,
    relation,
    sure,
    weak,
  };
}

const tell = (answer: MatchAnswer) => parentPort!.postMessage(answer);

parentPort!.on('message', (question: MatchQuestion) => {
  try {
    tell({ id: question.id, pairs: match(question) });
  } catch (error) {
    tell({ id: question.id, error: (error as Error).message });
  }
});
