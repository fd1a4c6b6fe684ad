import { colourName } from '../../core/find/colour.ts';
import type { Analysis } from '../../core/media/analysis.ts';
import type { Db } from './database.ts';
import { storedJson } from './stored-json.ts';

/** Raise this when more or other things are derived from bytes: everything is then derived anew. */
const ANALYSIS_VERSION = 7;

/** What the same image in other bytes has too. */
const COPIED =
  'sha256, version, preview, placeholder, colours, plane, windows, oriented, chroma, aspect, frames, pages, codecs, profile, taken_at, text, notes, main_colour, shades, opaque, tells_place, damaged';

const bufferOf = ({ buffer, byteOffset, byteLength }: Uint8Array | Int8Array | Int32Array) =>
  Buffer.from(buffer, byteOffset, byteLength);

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
    const row = this.db.get<ContentRow>(
      `select sha256, preview, placeholder, colours, frames, pages, codecs, profile, taken_at as takenAt, text, notes
         from content where sha256 = ? and version = ${ANALYSIS_VERSION}`,
      sha256,
    );
    return (
      row && {
        ...row,
        preview: row.preview === 1,
        colours: storedJson<string[]>(row.colours, [], `what is seen of ${row.sha256}`),
        notes: storedJson<string[]>(row.notes, [], `what is seen of ${row.sha256}`),
      }
    );
  }

  /** Whether no part of an image is transparent; undefined: it has not been looked at yet. */
  isOpaque(sha256: string): boolean | undefined {
    const opaque = this.db.value<number | null>(
      `select opaque from content where sha256 = ? and version = ${ANALYSIS_VERSION}`,
      sha256,
    );
    return opaque === undefined || opaque === null ? undefined : opaque === 1;
  }

  /** Text that was read in an image; undefined: it has not been looked for. */
  recognised(sha256: string): string | undefined {
    return this.db.value<string>('select text from recognised where sha256 = ?', sha256);
  }

  saveRecognised(sha256: string, text: string): void {
    this.db.run('insert or replace into recognised (sha256, text) values (?, ?)', sha256, text);
  }

  save(
    sha256: string,
    derived: Analysis,
    more: { codecs: string; profile: string | null; takenAt: string | null; place: boolean },
  ): void {
    const { signature } = derived;
    this.db.run('delete from content where sha256 = ?', sha256);
    this.db.run('delete from alike where one = @sha256 or other = @sha256', { sha256 });
    this.db.run(
      `insert into content (sha256, version, preview, placeholder, colours, plane, windows, oriented, chroma, aspect, frames,
           pages, codecs, profile, taken_at, text, notes, main_colour, shades, opaque, tells_place, damaged)
         values (?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?, ?)`,
      sha256,
      ANALYSIS_VERSION,
      Number(derived.preview),
      derived.placeholder,
      JSON.stringify(derived.colours),
      signature && bufferOf(signature.plane),
      signature && bufferOf(signature.windows),
      signature && bufferOf(signature.oriented),
      signature && bufferOf(signature.chroma),
      signature?.aspect ?? null,
      derived.frames,
      derived.pages,
      more.codecs,
      more.profile,
      more.takenAt,
      derived.text,
      JSON.stringify(derived.notes),
      derived.colours[0] ? colourName(derived.colours[0]) : null,
      derived.shades,
      Number(derived.opaque),
      Number(more.place),
      derived.damaged,
    );
  }

  /** The same for other bytes that show the same. */
  copy(from: string, to: string): void {
    this.db.run(
      `insert or ignore into content (${COPIED}) select @to, ${COPIED.replace('sha256, ', '')} from content where sha256 = @from`,
      { from, to },
    );
  }

  /** Hashes of items on the site that nothing was derived from yet. */
  missing(): { sha256: string; path: string; duration: number | null }[] {
    return this.db.all<{
      sha256: string;
      path: string;
      duration: number | null;
    }>(`select item.sha256, min(item.path) as path, max(item.duration) as duration from item
         where item.state = 'here' and item.sha256 <> ''
           and not exists (select 1 from content where content.sha256 = item.sha256 and content.version = ${ANALYSIS_VERSION})
         group by item.sha256 order by min(case item.kind when 'image' then 0 else 1 end), min(item.path)`);
  }

  /** Hashes that something was derived from. */
  hashes(): string[] {
    return this.db.values<string>('select sha256 from content');
  }

  /** Frames of an animation; 1 for anything else. */
  framesOf(sha256: string): number {
    return (this.db.value('select frames from content where sha256 = ?', sha256) ?? 1) as number;
  }

  /** Forgets what belongs to no item and no arrival any more, and is the original of none. */
  drop(sha256: string): void {
    this.db.run(
      `delete from content where sha256 = @sha256 and not exists (select 1 from item where item.sha256 = @sha256)
           and not exists (select 1 from arrival where arrival.sha256 = @sha256)
           and not exists (
             select 1 from item where edit <> '' and json_extract(edit, '$.original.of') = @sha256)`,
      { sha256 },
    );
    this.db.run(
      `delete from alike where (one = @sha256 or other = @sha256)
           and not exists (select 1 from content where content.sha256 = @sha256)`,
      { sha256 },
    );
  }
}
