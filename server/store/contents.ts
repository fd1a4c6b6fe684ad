import { colourName } from '../../core/find/colour.ts';
import { distance } from '../../core/picture/signature.ts';
import type { Derived } from '../intake/derived.ts';
import type { Db } from './database.ts';

/** Raise this when more or other things are derived from bytes: everything is then derived anew. */
const DERIVE_VERSION = 3;

/** What was computed from some bytes. */
export interface Content {
  sha256: string;
  preview: boolean;
  placeholder: string | null;
  colours: string[];
  frames: number;
  pages: number | null;
  codecs: string;
  profile: string | null;
  takenAt: string | null;
  text: string;
  notes: string[];
}

interface ContentRow extends Omit<Content, 'preview' | 'colours' | 'notes'> {
  preview: number;
  colours: string;
  notes: string;
}

/** What was computed from bytes, by their hash. */
export class Contents {
  constructor(private readonly db: Db) {}

  get(sha256: string): Content | undefined {
    const row = this.db
      .prepare(
        `select sha256, preview, placeholder, colours, frames, pages, codecs, profile, taken_at as takenAt, text, notes
         from content where sha256 = ? and version = ${DERIVE_VERSION}`,
      )
      .get(sha256) as ContentRow | undefined;
    return (
      row && {
        ...row,
        preview: row.preview === 1,
        colours: JSON.parse(row.colours) as string[],
        notes: JSON.parse(row.notes) as string[],
      }
    );
  }

  /** Text that was read in a picture; undefined: it has not been looked for. */
  recognised(sha256: string): string | undefined {
    return this.db.prepare('select text from recognised where sha256 = ?').pluck().get(sha256) as
      string | undefined;
  }

  saveRecognised(sha256: string, text: string): void {
    this.db.prepare('insert or replace into recognised (sha256, text) values (?, ?)').run(sha256, text);
  }

  save(
    sha256: string,
    derived: Derived,
    more: { codecs: string; profile: string | null; takenAt: string | null },
  ): void {
    const { signature } = derived;
    if (signature && this.known) {
      const at = this.known.shas.indexOf(sha256);
      if (at >= 0) this.known.words.splice(2 * at, 2, ...signature.hash);
      else {
        this.known.shas.push(sha256);
        this.known.words.push(...signature.hash);
      }
    }
    this.db.prepare('delete from content where sha256 = ?').run(sha256);
    this.db
      .prepare(
        `insert into content (sha256, version, preview, placeholder, colours, hash_a, hash_b, plane, frames, pages,
           codecs, profile, taken_at, text, notes, main_colour) values (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)`,
      )
      .run(
        sha256,
        DERIVE_VERSION,
        Number(derived.preview),
        derived.placeholder,
        JSON.stringify(derived.colours),
        signature?.hash[0] ?? null,
        signature?.hash[1] ?? null,
        signature ? Buffer.from(signature.plane) : null,
        derived.frames,
        derived.pages,
        more.codecs,
        more.profile,
        more.takenAt,
        derived.text,
        JSON.stringify(derived.notes),
        derived.colours[0] ? colourName(derived.colours[0]) : null,
      );
  }

  /** The same for other bytes that show the same. */
  copy(from: string, to: string): void {
    this.db
      .prepare(
        `insert or ignore into content select @to, version, preview, placeholder, colours, hash_a, hash_b, plane, frames, pages,
           codecs, profile, taken_at, text, notes, main_colour from content where sha256 = @from`,
      )
      .run({ from, to });
    this.known = undefined;
  }

  /** Hashes of items on the site that nothing was derived from yet. */
  missing(): { sha256: string; path: string; duration: number | null }[] {
    return this.db
      .prepare(
        `select item.sha256, min(item.path) as path, max(item.duration) as duration from item
         where item.state = 'here' and item.sha256 <> ''
           and not exists (select 1 from content where content.sha256 = item.sha256 and content.version = ${DERIVE_VERSION})
         group by item.sha256 order by min(case item.kind when 'image' then 0 else 1 end), min(item.path)`,
      )
      .all() as { sha256: string; path: string; duration: number | null }[];
  }

  /** Pictures on the site whose hash is near one of the given, the nearest first, with their planes on demand. */
  near(
    oriented: readonly (readonly [number, number])[],
    within: number,
    most: number,
  ): { sha256: string; hash: [number, number]; plane: () => Uint8Array }[] {
    const { shas, words } = this.hashes();
    const found: { sha256: string; hash: [number, number]; bits: number }[] = [];
    const isHere = this.db.prepare("select 1 from item where sha256 = ? and state = 'here'").pluck();
    for (let at = 0; at < shas.length; at++) {
      const hash: [number, number] = [words[2 * at]!, words[2 * at + 1]!];
      let bits = 64;
      for (const one of oriented) bits = Math.min(bits, distance(one, hash));
      if (bits <= within && isHere.get(shas[at])) found.push({ sha256: shas[at]!, hash, bits });
    }
    const plane = this.db.prepare('select plane from content where sha256 = ?').pluck();
    return found
      .sort((x, y) => x.bits - y.bits)
      .slice(0, most)
      .map(({ sha256, hash }) => ({ sha256, hash, plane: () => plane.get(sha256) as Buffer }));
  }

  /** Hashes of all pictures, in memory: two words each. What has been forgotten since may still be among them. */
  private hashes(): { shas: string[]; words: number[] } {
    if (this.known) return this.known;
    const rows = this.db
      .prepare('select sha256, hash_a as a, hash_b as b from content where hash_a is not null')
      .all() as { sha256: string; a: number; b: number }[];
    this.known = { shas: rows.map((row) => row.sha256), words: rows.flatMap(({ a, b }) => [a, b]) };
    return this.known;
  }
  private known: { shas: string[]; words: number[] } | undefined;

  /** Frames of an animation; 1 for anything else. */
  framesOf(sha256: string): number {
    return (this.db.prepare('select frames from content where sha256 = ?').pluck().get(sha256) ??
      1) as number;
  }

  /** The plane of a picture's signature. */
  planeOf(sha256: string): Uint8Array | undefined {
    const plane = this.db.prepare('select plane from content where sha256 = ?').pluck().get(sha256);
    return (plane as Buffer | null | undefined) ?? undefined;
  }

  /** Forgets what belongs to no item and no arrival any more. */
  drop(sha256: string): void {
    this.db
      .prepare(
        `delete from content where sha256 = @sha256 and not exists (select 1 from item where item.sha256 = @sha256)
           and not exists (select 1 from arrival where arrival.sha256 = @sha256)`,
      )
      .run({ sha256 });
  }
}
