import type { Words } from '../../core/describe/fields.ts';
import type { Archive, Choices } from '../../core/intake/finding.ts';
import type { SitePath } from '../../core/address/path.ts';
import type { ItemFacts } from '../../core/media/facts.ts';
import type { Recipe } from '../../core/picture/recipe/recipe.ts';
import type { Db } from './database.ts';
import { freshId } from './fresh-id.ts';
import type { Said } from './suggested-tags.ts';
import { storedJson } from './stored-json.ts';

export type ArrivalState = 'sending' | 'received' | 'ready' | 'refused';

/** The bytes that go to the site, when they are others than those that were sent. */
export interface Prepared {
  sha256: string;
  bytes: number;
  facts: ItemFacts;
  /** What was done, to tell whether it must be done anew. */
  done: string;
  /** What made them of those that were sent; undefined: only private facts were taken out. */
  recipe?: Recipe;
}

/** A file between its first byte and its being brought in. */
export interface ArrivalRow {
  id: number;
  at: string;
  personId: number;
  givenName: string;
  name: string;
  plainName: string;
  named: boolean;
  state: ArrivalState;
  /** The upload it comes by, which is also the name of the file in the data folder until it is checked. */
  upload: string | null;
  refused: string;
  sha256: string;
  bytes: number;
  facts: Partial<ItemFacts> & {
    place?: boolean;
    device?: boolean;
    /** The media type it was sent as, when browsers do not show it and it can be decoded here. */
    convertible?: string;
    /** Of what was sent, with its dot. */
    extension?: string;
    /** What it tells of place and owner could not be taken out of it. */
    privateStays?: boolean;
    title?: string;
    takenAt?: string | null;
  };
  notes: string[];
  folder: SitePath;
  below: SitePath;
  words: Partial<Words>;
  choices: Choices;
  archive: Archive | null;
  inside: boolean;
  ready: Prepared | null;
  /** What the person has said to the tags that were suggested for it. */
  said: Said;
  /** What a person has made of it on the bench. */
  recipe: Recipe | null;
}

/** Column and whether it holds JSON, by field. */
const FIELDS: Record<Exclude<keyof ArrivalRow, 'id'>, readonly [string, 'plain' | 'json' | 'flag']> = {
  at: ['at', 'plain'],
  personId: ['person_id', 'plain'],
  givenName: ['given_name', 'plain'],
  name: ['name', 'plain'],
  plainName: ['plain_name', 'plain'],
  named: ['named', 'flag'],
  state: ['state', 'plain'],
  upload: ['upload', 'plain'],
  refused: ['refused', 'plain'],
  sha256: ['sha256', 'plain'],
  bytes: ['bytes', 'plain'],
  facts: ['facts', 'json'],
  notes: ['notes', 'json'],
  folder: ['folder', 'plain'],
  below: ['below', 'plain'],
  words: ['words', 'json'],
  said: ['said', 'json'],
  choices: ['choices', 'json'],
  archive: ['archive', 'json'],
  inside: ['inside', 'flag'],
  ready: ['ready', 'json'],
  recipe: ['recipe', 'json'],
};
const ENTRIES = Object.entries(FIELDS) as [keyof typeof FIELDS, (typeof FIELDS)[keyof typeof FIELDS]][];
const SELECT = `select id, ${ENTRIES.map(([field, [column]]) => `${column} as ${field}`).join(', ')} from arrival`;

/** What the fields that hold JSON are at first. */
const EMPTY = {
  facts: {},
  notes: [],
  words: {},
  said: { taken: [], refused: [] },
  choices: {},
  archive: null,
  ready: null,
  recipe: null,
} satisfies Partial<ArrivalRow>;

export class ArrivalRows {
  /** Rises with every change. Begins with the time, so that a number from before a restart is told apart. */
  revision = Date.now();
  /** Before this, everything counts as changed. */
  private floor = this.revision;
  private readonly changed = new Map<number, number>();

  constructor(private readonly db: Db) {}

  /** What is said of every row may be another now: the site has changed, or its rules. */
  allChanged(): void {
    this.floor = ++this.revision;
    this.changed.clear();
  }

  /** Whoever follows the list is told of this row again, and of those further down that share its bytes or its name. */
  touch(id: number): void {
    this.changed.set(id, ++this.revision);
    const related = this.db.values<number>(
      `select other.id from arrival as one join arrival as other on other.person_id = one.person_id and other.id > one.id
           and ((other.sha256 = one.sha256 and one.sha256 <> '') or lower(other.name) = lower(one.name))
         where one.id = ?`,
      id,
    );
    for (const other of related) this.changed.set(other, this.revision);
  }

  /** Ids of a person's rows in order, and which of them changed after a revision. */
  since(personId: number, revision: number): { ids: number[]; changed: number[]; whole: boolean } {
    const ids = this.db.values<number>('select id from arrival where person_id = ? order by id', personId);
    const whole = revision < this.floor || revision > this.revision;
    return { ids, whole, changed: whole ? ids : ids.filter((id) => (this.changed.get(id) ?? 0) > revision) };
  }

  insert(row: Pick<ArrivalRow, 'at' | 'personId' | 'givenName' | 'bytes'> & Partial<ArrivalRow>): number {
    const whole: Omit<ArrivalRow, 'id'> = {
      ...EMPTY,
      name: row.givenName,
      plainName: '',
      named: false,
      state: 'sending',
      upload: null,
      refused: '',
      sha256: '',
      folder: '',
      below: '',
      inside: false,
      ...row,
    };
    const id = this.db.write(() => {
      const fresh = freshId(this.db, 'arrival');
      this.db.run(
        `insert into arrival (id, ${ENTRIES.map(([, [column]]) => column).join(', ')})
           values (?, ${ENTRIES.map(() => '?').join(', ')})`,
        [fresh, ...ENTRIES.map(([field]) => stored(field, whole[field]))],
      );
      return fresh;
    });
    this.touch(id);
    return id;
  }

  /** Changes the row that was read, and no other. Answers whether it is still there. */
  set({ id, at }: Pick<ArrivalRow, 'id' | 'at'>, values: Partial<Omit<ArrivalRow, 'id' | 'at'>>): boolean {
    const fields = Object.keys(values) as Exclude<keyof typeof FIELDS, 'at'>[];
    this.touch(id);
    const { changes } = this.db.run(
      `update arrival set ${fields.map((field) => `${FIELDS[field][0]} = ?`).join(', ')} where id = ? and at = ?`,
      ...fields.map((field) => stored(field, values[field])),
      id,
      at,
    );
    this.touch(id);
    return changes === 1;
  }

  get(id: number): ArrivalRow | undefined {
    const row = this.db.get(`${SELECT} where id = ?`, id);
    return row === undefined ? undefined : read(row);
  }

  byUpload(upload: string): ArrivalRow | undefined {
    const row = this.db.get(`${SELECT} where upload = ?`, upload);
    return row === undefined ? undefined : read(row);
  }

  of(personId: number): ArrivalRow[] {
    return this.db.all(`${SELECT} where person_id = ? order by id`, personId).map(read);
  }

  /** The name that a file with the same bytes came with, further up on the same person's list. */
  twinOf(row: ArrivalRow): string | null {
    const name = this.db.value<string>(
      "select given_name from arrival where person_id = ? and sha256 = ? and state = 'ready' and id < ? order by id limit 1",
      row.personId,
      row.sha256,
      row.id,
    );
    return name ?? null;
  }

  /** The name that another file further up on the list came with, whose address will be the same. */
  namesakeOf(row: ArrivalRow): string | null {
    const name = this.db.value<string>(
      `select given_name from arrival where person_id = ? and folder = ? and below = ? and lower(name) = lower(?) and sha256 <> ?
           and state = 'ready' and id < ? order by id limit 1`,
      row.personId,
      row.folder,
      row.below,
      row.name,
      row.sha256,
      row.id,
    );
    return name ?? null;
  }

  /** Names of those further up on the list that go to the same folder. */
  namesBefore(row: Pick<ArrivalRow, 'id' | 'personId' | 'folder' | 'below'>): string[] {
    return this.db.values<string>(
      `select name from arrival where person_id = ? and folder = ? and below = ? and state = 'ready' and id < ?`,
      row.personId,
      row.folder,
      row.below,
      row.id,
    );
  }

  /** The uploads that rows wait for. */
  uploads(): string[] {
    return this.db.values<string>('select upload from arrival where upload is not null');
  }

  inState(state: ArrivalState): ArrivalRow[] {
    return this.db.all(`${SELECT} where state = ? order by id`, state).map(read);
  }

  /** Ids of what waits with some bytes. */
  withHash(sha256s: readonly string[]): number[] {
    return this.db.values<number>(
      "select id from arrival where state = 'ready' and sha256 in (select value from json_each(?))",
      JSON.stringify(sha256s),
    );
  }

  /** How many files of a person wait, and how many bytes they have. */
  waiting(personId: number): { files: number; bytes: number } {
    return this.db.get<{ files: number; bytes: number }>(
      'select count(*) as files, coalesce(sum(bytes), 0) as bytes from arrival where person_id = ?',
      personId,
    )!;
  }

  remove(id: number): void {
    this.touch(id);
    this.changed.delete(id);
    this.db.run('delete from arrival where id = ?', id);
  }

  /** Whether an arrival needs these bytes: as they were sent, or as they go to the site. */
  needs(sha256: string): boolean {
    return (
      this.db.get('select 1 from arrival where sha256 = @sha256 or instr(ready, @sha256) > 0', { sha256 }) !==
      undefined
    );
  }
}

function stored(field: keyof typeof FIELDS, value: unknown): string | number | null {
  const kind = FIELDS[field][1];
  if (kind === 'json') return value === null ? null : JSON.stringify(value);
  return kind === 'flag' ? Number(value) : (value as string | number | null);
}

const DAMAGED = 'What Iconomos stored about this file is damaged. Skip it and upload it again.';

/** One that is damaged stays on the list as refused. */
function read(row: unknown): ArrivalRow {
  const values = { ...(row as Record<string, unknown>) };
  const faults: Partial<ArrivalRow> = { state: 'refused', refused: DAMAGED };
  let damaged = false;
  for (const [field, [, kind]] of ENTRIES) {
    const value = values[field];
    if (kind === 'json' && value !== null) {
      values[field] = storedJson<unknown>(value as string, undefined, `arrival ${String(values['id'])}`);
      if (values[field] !== undefined) continue;
      values[field] = EMPTY[field as keyof typeof EMPTY];
      damaged = true;
    }
    if (kind === 'flag') values[field] = value === 1;
  }
  return { ...(values as unknown as ArrivalRow), ...(damaged ? faults : {}) };
}
