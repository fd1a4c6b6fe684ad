import { workerData } from 'node:worker_threads';
import Database from 'better-sqlite3';
import { verify } from '../../core/picture/alike.ts';
import { Likenesses } from '../../core/picture/likeness.ts';
import { Matcher } from '../../core/picture/matcher.ts';
import { Prepared, type PictureHashes } from '../../core/picture/windows.ts';
import type { AlikePair } from '../db/alikes.ts';
import { answerQuestions, type Progress } from '../workers/thread.ts';

/** An image that is not in the library, as it is compared. */
export interface OtherImage extends PictureHashes {
  plane: Uint8Array;
  chroma: Int8Array;
  /** In pixels; only their ratio counts. */
  width: number;
  height: number;
}
export type MatchQuestion = { match: readonly string[] } | { like: OtherImage };
export type MatchAnswer = { pairs: AlikePair[] } | { like: string[] };

/** Finds images that show the same, on a thread of its own: hashes are held in memory, planes are read where they are needed. */
const db = new Database((workerData as { file: string }).file, { readonly: true });

/** Whose hashes are held, and what is known of their likenesses. */
class Held {
  readonly matcher = new Matcher();
  readonly numbers = new Map<string, number>();
  readonly shas: string[] = [];
  readonly pixels: number[] = [];
  /** Those that have been asked for: when one of them comes as not matched, it was looked at anew. */
  readonly asked = new Set<string>();
  readonly likenesses = new Likenesses(
    (candidate) => {
      const [a, b] = [this.prepared(candidate.one), this.prepared(candidate.other)];
      return a && b && verify(a, b, candidate);
    },
    (id) => this.pixels[id]!,
  );
  /** Images made ready for verifying, the latest used: one takes up to 150 kB. */
  private readonly ready = new Map<number, Prepared | undefined>();

  /** All that are there, and what was found among them earlier. */
  constructor() {
    for (const row of all.iterate() as IterableIterator<HashRow>) this.add(row);
    for (const row of known.iterate() as IterableIterator<Omit<AlikePair, 'weak'> & { weak: number }>) {
      const [first, second] = [this.numbers.get(row.one), this.numbers.get(row.other)];
      if (first === undefined || second === undefined) continue;
      const { relation, sure, weak } = row;
      this.likenesses.know({ one: first, other: second, relation, sure, weak: weak === 1 });
    }
  }

  add(row: HashRow): void {
    if (this.numbers.has(row.sha256)) return;
    const hashes = { windows: words(row.windows), oriented: words(row.oriented) };
    if (row.matched === 1) this.asked.add(row.sha256);
    this.numbers.set(row.sha256, this.matcher.add(hashes, row.matched === 1));
    this.shas.push(row.sha256);
    this.pixels.push(row.pixels ?? 0);
  }

  prepared(id: number): Prepared | undefined {
    let picture = this.ready.get(id);
    if (!this.ready.delete(id)) {
      const row = seen.get(this.shas[id]) as
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
      if (this.ready.size >= READY) this.ready.delete(this.ready.keys().next().value!);
    }
    this.ready.set(id, picture);
    return picture;
  }
}
let held: Held | undefined;
const READY = 1000;

const columns = `sha256, windows, oriented, matched,
  (select max(width * height) from item where item.sha256 = content.sha256) as pixels`;
const all = db.prepare(`select ${columns} from content where windows is not null`);
/** Those that nobody has asked for yet: they have come since. */
const unmatched = db.prepare('select sha256 from content where matched = 0 and windows is not null').pluck();
const one = db.prepare(`select ${columns} from content where sha256 = ? and windows is not null`);
const known = db.prepare('select one, other, relation, sure, weak from alike');
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
  matched: number;
  pixels: number | null;
}
const words = (bytes: Buffer) => new Int32Array(Uint8Array.from(bytes).buffer);

/** Pairs of which one is asked for and both are there now. */
function match(sha256s: readonly string[], progress: Progress): AlikePair[] {
  const rows = sha256s.flatMap((sha256) => (one.get(sha256) as HashRow | undefined) ?? []);
  // Looked at anew since they were asked for: their hashes are others, and what was found of them is gone.
  if (!held || rows.some((row) => row.matched === 0 && held!.asked.has(row.sha256))) held = new Held();
  const { matcher, likenesses, numbers, shas, asked } = held;
  // Contents that have come since are among those that are looked through.
  for (const sha256 of unmatched.all() as string[])
    if (!numbers.has(sha256)) held.add(one.get(sha256) as HashRow);
  for (const row of rows) held.add(row);
  for (const { sha256 } of rows) asked.add(sha256);
  const ids = rows.map(({ sha256 }) => numbers.get(sha256)!);
  const found = likenesses.find(matcher.candidates(ids), progress);
  return found.map(({ one: a, other: b, ...rest }) => {
    const [first, second] = [shas[a]!, shas[b]!];
    return { one: first < second ? first : second, other: first < second ? second : first, ...rest };
  });
}

/** Contents that show the same as an image which is not among them, the surest first. */
function like({ width, height, plane, chroma, ...hashes }: OtherImage): string[] {
  held ??= new Held();
  for (const sha256 of unmatched.all() as string[])
    if (!held.numbers.has(sha256)) held.add(one.get(sha256) as HashRow);
  const other = new Prepared({ plane, chroma, width, height });
  const id = held.matcher.size;
  const sure = new Map<number, number>();
  for (const candidate of held.matcher.candidatesOfOther(hashes)) {
    const there = candidate.one === id ? candidate.other : candidate.one;
    const [a, b] = [candidate.one, candidate.other].map((at) => (at === id ? other : held!.prepared(at)));
    const alike = a && b && verify(a, b, candidate);
    if (alike) sure.set(there, Math.max(alike.sure, sure.get(there) ?? 0));
  }
  return [...sure].sort(([, one], [, another]) => another - one).map(([there]) => held!.shas[there]!);
}

answerQuestions<MatchQuestion, MatchAnswer>((question, progress) =>
  'like' in question ? { like: like(question.like) } : { pairs: match(question.match, progress) },
);
