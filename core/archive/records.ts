import { z } from 'zod';

/** What an archive says of a library: a line of JSON for each record. Published as JSON Schema in each archive; docs/formats.md. */

/** A reader refuses a newer one. */
export const ARCHIVE_FORMAT = 1;

const Id = z.int().min(1);
const Person = Id.nullable().meta({ description: 'Number of a person' });
const Sha = z
  .string()
  .regex(/^[0-9a-f]{64}$/)
  .meta({ description: 'SHA-256' });
const When = z.string().meta({ description: 'ISO 8601, UTC; empty: never' });
const Count = z.int().min(0);
const Json = z.unknown();
const Folder = z.string().meta({ description: 'From the site’s root, with “/”; empty: the root' });
const Path = z.string().min(1);

const item = z
  .strictObject({
    id: Id,
    path: Path,
    folder: Folder,
    name: z.string(),
    state: z.enum(['here', 'draft', 'aside', 'absent']),
    kind: z.string(),
    mime: z.string(),
    bytes: Count,
    sha256: z.union([Sha, z.literal('')]),
    width: Count.nullable(),
    height: Count.nullable(),
    duration: z.number().nullable().meta({ description: 'Seconds' }),
    unreadable: z.string().nullable(),
    addedAt: When,
    addedBy: Person,
    originalName: z.string().nullable(),
    asideAt: When.nullable(),
    alt: z.string(),
    decorative: z.boolean(),
    title: z.string(),
    caption: z.string(),
    description: z.string(),
    creator: z.string(),
    credit: z.string(),
    source: z.string(),
    licence: z.string(),
    licenceEnd: z.string(),
    placements: Count,
    use: z.enum(['placed', 'mentioned', 'unused']),
    nameFaults: z.string(),
    rowVersion: z.int().min(1),
    changedAt: When.nullable(),
    changedBy: Person,
    copyright: z.string(),
    originalSha256: Sha.nullable(),
    ownerId: Person,
    longDescription: z.string(),
    taken: z.string(),
    place: z.string(),
    language: z.string(),
    own: z.record(z.string(), z.unknown()).meta({ description: 'The site’s own fields' }),
    focal: z.string().meta({ description: 'Percent from the left and from the top' }),
    outside: z.boolean(),
    movedFrom: z.string().nullable(),
    sizeOf: Id.nullable(),
    family: Id.nullable(),
    edit: Json.meta({ description: 'How its file was made of its original; null: it was not' }),
    review: z.enum(['', 'in-review', 'to-update']),
    due: z.string(),
    tags: z.array(z.string()),
  })
  .meta({ title: 'An item: a file of the library and its words' });

/** By the name of their file, without its ending. */
export const RECORDS = {
  people: z
    .strictObject({
      id: Id,
      name: z.string(),
      role: z.string(),
      addedAt: When,
      endedAt: When.nullable(),
      folders: z.array(Folder),
    })
    .meta({ title: 'A person, without password, sessions and tokens' }),
  settings: z.strictObject({ name: z.string(), value: z.string() }).meta({ title: 'A setting of the site' }),
  'upkeep-settings': z
    .strictObject({ name: z.string(), value: z.string() })
    .meta({ title: 'A setting of Upkeep' }),
  layout: z
    .strictObject({ part: z.string(), lines: z.string() })
    .meta({ title: 'Where pages, media and public folders are' }),
  tags: z.strictObject({ id: Id, name: z.string() }).meta({ title: 'A tag' }),
  'tag-relations': z.strictObject({ tag: z.string(), above: z.string() }).meta({ title: 'A broader tag' }),
  'tag-spellings': z
    .strictObject({ id: Id, spelling: z.string(), tag: z.string() })
    .meta({ title: 'Another spelling of a tag' }),
  'own-fields': z
    .strictObject({ name: z.string(), kind: z.enum(['text', 'choice', 'date', 'number']), choices: Json })
    .meta({ title: 'A field of the site’s own' }),
  items: item,
  'suggested-tags': z
    .strictObject({ itemId: Id, tag: z.string(), said: z.enum(['taken', 'refused']) })
    .meta({ title: 'What was said of a suggested tag' }),
  comments: z
    .strictObject({ key: z.string(), itemId: Id, at: When, value: Json })
    .meta({ title: 'A comment on an item' }),
  'folder-rules': z
    .strictObject({
      folder: Folder,
      purpose: z.string(),
      leastWidth: Count.nullable(),
      leastHeight: Count.nullable(),
      largestSide: Count.nullable(),
      shape: z.string().nullable(),
      largestBytes: Count.nullable(),
      keepOriginal: z.boolean(),
      kinds: Json,
      tags: z.array(z.string()),
      licence: z.string(),
      pattern: Json,
      treatment: z.string().nullable(),
    })
    .meta({ title: 'What holds in a folder' }),
  'saved-searches': z
    .strictObject({ id: Id, name: z.string(), query: z.string(), personId: Id, at: When })
    .meta({ title: 'A saved search, as in the address bar' }),
  'name-patterns': z
    .strictObject({ name: z.string(), pattern: Json })
    .meta({ title: 'How names are composed' }),
  treatments: z.strictObject({ name: z.string(), treatment: Json }).meta({ title: 'A treatment of images' }),
  placements: z
    .strictObject({
      id: Id,
      page: Path,
      start: Count,
      end: Count,
      line: Count,
      url: z.string(),
      place: z.string(),
      alt: z.string().nullable(),
      hasAlt: z.boolean(),
      path: z.string(),
      state: z.enum(['placed', 'broken']),
      near: z.string().nullable(),
      sizesOf: z.int().nullable(),
      wide: z.int().nullable(),
      unsure: z.boolean(),
    })
    .meta({ title: 'Where a page refers to an item; characters from `start` to `end`' }),
  'live-pages': z
    .strictObject({ url: z.string(), title: z.string(), status: z.int(), readAt: When })
    .meta({ title: 'A page as it was read by HTTP' }),
  'live-placements': z
    .strictObject({
      id: Id,
      url: z.string(),
      path: Path,
      address: z.string(),
      place: z.string(),
      alt: z.string().nullable(),
      hasAlt: z.boolean(),
    })
    .meta({ title: 'What such a page shows' }),
  'shown-widths': z
    .strictObject({ page: Path, path: Path, wide: z.int() })
    .meta({ title: 'How wide a page shows an image, in CSS pixels' }),
  'measured-pages': z
    .strictObject({ page: Path, at: When })
    .meta({ title: 'When the widths of a page were measured' }),
  'recognised-texts': z
    .strictObject({ sha256: Sha, text: z.string() })
    .meta({ title: 'Text that was recognised in an image' }),
  redirects: z
    .strictObject({ from: z.string(), to: z.string(), status: z.literal(301) })
    .meta({ title: 'An old address and where it leads; as in iconomos-redirects.csv' }),
  ledger: z
    .strictObject({
      id: Id,
      at: When,
      personId: Id,
      kind: z.string(),
      title: z.string(),
      state: z.enum(['done', 'taken-back']),
      items: Count,
      pages: Count,
      bytes: z.int(),
      undoes: Id.nullable(),
      undoneBy: Id.nullable(),
      note: z.string(),
      recordsDone: Count,
      cleared: z.int(),
      unsettled: z.string().nullable(),
      back: z.int(),
      approvedBy: Person,
      via: z.string(),
    })
    .meta({ title: 'A change, as the ledger remembers it' }),
  'ledger-plans': z
    .strictObject({ entryId: Id, plan: Json })
    .meta({ title: 'What a change did; its longer lists are in ledger-parts' }),
  'ledger-parts': z
    .strictObject({ entryId: Id, list: z.string(), number: Count, steps: z.array(z.unknown()) })
    .meta({ title: 'A part of a list of a plan' }),
  'ledger-touches': z
    .strictObject({ entryId: Id, what: z.string() })
    .meta({ title: 'A file, record or setting that a change touched' }),
  'ledger-contents': z
    .strictObject({ sha256: Sha, entryId: Id })
    .meta({ title: 'Content that undoing a change needs; in data/content' }),
  submissions: z
    .strictObject({
      id: Id,
      at: When,
      personId: Id,
      kind: z.string(),
      request: Json,
      title: z.string(),
      items: Count,
      pages: Count,
      note: z.string(),
      rests: Json,
      state: z.enum(['waiting', 'returned', 'applied', 'withdrawn']),
      answer: z.string(),
      answeredAt: When.nullable(),
      answeredBy: Person,
      entryId: Id.nullable(),
    })
    .meta({ title: 'A change that somebody has proposed' }),
  dismissals: z
    .strictObject({
      name: z.string(),
      subject: z.string(),
      reason: z.string(),
      person: z.string(),
      at: When,
      looked: z.string(),
    })
    .meta({ title: 'A finding that somebody has dismissed' }),
  'care-days': z
    .strictObject({
      day: z.string(),
      items: Count,
      bytes: Count,
      described: Count,
      named: Count,
      filed: Count,
      placed: Count,
      doubles: Count.nullable(),
      weight: Count.nullable(),
      rights: Count.nullable(),
      files: Count.nullable(),
    })
    .meta({ title: 'The state of the library on a day' }),
  'bank-orders': z
    .strictObject({
      bank: z.string(),
      image: z.string(),
      key: z.string(),
      at: When,
      personId: Id,
      receipt: z.string().nullable(),
      terms: Json,
      file: z.string().nullable(),
    })
    .meta({ title: 'A purchase from an image bank' }),
  'unsaved-texts': z
    .strictObject({ path: Path, personId: Id, base: z.string(), text: z.string(), savedAt: When })
    .meta({ title: 'What somebody has written in a document and not saved' }),
  arrivals: z
    .strictObject({
      id: Id,
      at: When,
      personId: Id,
      givenName: z.string(),
      name: z.string(),
      sha256: Sha,
      bytes: Count,
      facts: Json,
      notes: Json,
      state: z.literal('ready'),
      refused: z.string(),
      folder: Folder,
      below: z.string(),
      plainName: z.string(),
      named: z.boolean(),
      words: Json,
      choices: Json,
      archive: Json,
      inside: z.boolean(),
      ready: Json,
      recipe: Json,
      said: Json,
    })
    .meta({ title: 'A file that waits in Intake; in data/content' }),
  'site-files': z
    .discriminatedUnion('kind', [
      z.strictObject({
        kind: z.literal('file'),
        path: Path,
        bytes: Count,
        sha256: Sha,
        modified: z.number().meta({ description: 'Milliseconds since 1970' }),
        mode: z.int().meta({ description: 'Rights, as of POSIX' }),
      }),
      z.strictObject({ kind: z.literal('folder'), path: Path, mode: z.int() }),
      z.strictObject({ kind: z.literal('link'), path: Path, to: Path }),
    ])
    .meta({ title: 'A file, folder or link of the site; files are in data/site' }),
} as const;

export type RecordKind = keyof typeof RECORDS;
export const RECORD_KINDS = Object.keys(RECORDS) as RecordKind[];
export type SiteFile = z.infer<(typeof RECORDS)['site-files']>;
export type ArchivedItem = z.infer<typeof item>;
export type ArchivedPerson = z.infer<(typeof RECORDS)['people']>;

/** Where the records of a kind are in an archive. */
export const recordsAt = (kind: RecordKind): string => `data/records/${kind}.jsonl`;
export const schemaAt = (kind: RecordKind): string => `data/schemas/${kind}.schema.json`;

/** The schema of a kind of records, as JSON Schema (draft 2020-12). */
export const schemaOf = (kind: RecordKind): string =>
  `${JSON.stringify(z.toJSONSchema(RECORDS[kind]), null, 1)}\n`;

/** Where an archive keeps a file of the site, and content by its SHA-256. */
export const siteFileAt = (path: string): string => `data/site/${path}`;
export const contentAt = (sha256: string): string => `data/content/${sha256.slice(0, 2)}/${sha256}`;
