import { rename, rm, stat } from 'node:fs/promises';
import { basename } from 'node:path';
import { numberedName, safeName } from '../../core/address/name.ts';
import { baseName, clashKey, folderOf, joinPath } from '../../core/address/path.ts';
import { targetFault } from '../../core/address/target.ts';
import { addressOf } from '../../core/address/redirects.ts';
import { TEXT_FIELD_KEYS, TEXT_FIELDS } from '../../core/describe/fields.ts';
import { careMarks } from '../../core/describe/record.ts';
import { neutralCell } from '../../core/describe/table.ts';
import { Fault } from '../fault.ts';
import { ALL_HERE } from '../db/item-query.ts';
import type { ExportForm } from '../../api/site.ts';
import type { OpenedSite } from '../app/opened-site.ts';
import type { Site } from '../app/site.ts';
import { each, flatMap, map, setOf } from '../../core/paced.ts';
import type { ZipEntry } from '../files/zip-writer.ts';
import { writePackedArchive } from '../archive/packed.ts';
import { writeZip } from './zip.ts';
import type { RunningJob } from '../workers/jobs.ts';
import { THUMBNAIL_SIZES } from '../../core/media/analysis.ts';
import { csvOf } from '../describe/csv.ts';
import type { SheetEntry } from '../media/contact-sheet.ts';
import { breathe } from '../workers/breathe.ts';
import type { Item } from '../db/item-rows.ts';

export interface ExportEntry {
  id: number;
  at: string;
  person: string;
  title: string;
  items: number;
  bytes: number;
  form: ExportForm;
}

/** What tells of an item beside its record. */
type Told = Pick<Site, 'index' | 'items' | 'references'>;

/** Columns of items.csv, in order: name and value. Described in docs/formats.md. */
type Column = [string, (item: Item, site: Told, file: string) => string | number | boolean | null];
const COLUMNS: Column[] = [
  ['id', (item) => item.id],
  ['path', (item) => item.path],
  ['file', (_item, _site, file) => file],
  ['address', (item, site) => addressOf(item.path, site.index.map.roots)],
  ['kind', (item) => item.kind],
  ['mime', (item) => item.mime],
  ['bytes', (item) => item.bytes],
  ['sha256', (item) => item.sha256],
  ['width', (item) => item.width],
  ['height', (item) => item.height],
  ['duration', (item) => item.duration],
  ['added_at', (item) => item.addedAt],
  ['added_by', (item) => item.addedBy],
  ['original_name', (item) => item.originalName],
  ...TEXT_FIELD_KEYS.map((field): Column => [TEXT_FIELDS[field].column, (item) => item.words[field]]),
  ['decorative', (item) => (item.words.decorative ? 'yes' : 'no')],
  ['tags', (item) => item.words.tags.join('; ')],
  ['owner', (item) => item.owner],
  ['focal_point', (item) => item.focal],
  ['size_of', (item, site) => (item.sizeOf === null ? null : (site.items.get(item.sizeOf)?.path ?? null))],
  ['described', (item) => mark(item, 'described')],
  ['named', (item) => mark(item, 'named')],
  ['filed', (item) => mark(item, 'filed')],
  ['use', (item) => item.use],
  ['placements', (item) => item.placements],
  [
    'pages',
    (item, site) => [...new Set(site.references.placementsOf(item.path).map((one) => one.page))].join('; '),
  ],
  ['changed_at', (item) => item.changedAt],
  ['changed_by', (item) => item.changedBy],
];

/** The site's own fields come last, one column each. */
const columnsOf = (site: Told & Pick<Site, 'ownFields'>): Column[] => [
  ...COLUMNS,
  ...site.ownFields.all().map(({ name }): Column => [`own: ${name}`, (item) => item.words.own[name] ?? '']),
];

function mark(item: Item, name: 'described' | 'named' | 'filed'): string {
  return careMarks(item)[name] ? 'yes' : 'no';
}

/**
 * items.csv: RFC 4180, UTF-8, CRLF, one header line; cells that a spreadsheet would run as a formula are neutralised.
 * @param files the name of each item's file in the archive
 */
export async function itemsCsv(
  site: Told & Pick<Site, 'ownFields'>,
  items: readonly Item[],
  files: readonly string[],
): Promise<string> {
  const columns = columnsOf(site);
  const rows: (string | number | boolean | null)[][] = [];
  for (const [at, item] of items.entries()) {
    const cells = columns.map(([, value]) => value(item, site, files[at]!));
    rows.push(cells.map((cell) => (typeof cell === 'string' ? neutralCell(cell) : cell)));
    await breathe();
  }
  rows.unshift(columns.map(([name]) => neutralCell(name)));
  return csvOf(rows);
}

/** Items on one contact sheet. */
const MOST_ON_SHEET = 2000;

const ENDINGS: Readonly<Record<ExportForm, string>> = {
  files: '.zip',
  'contact-sheet': '.pdf',
  archive: '-archive.zip',
};
const formOf = (file: string): ExportForm =>
  file.endsWith(ENDINGS.archive) ? 'archive' : file.endsWith(ENDINGS.files) ? 'files' : 'contact-sheet';

/** Hands items over: a ZIP of the files in their folders with items.csv beside them. */
export class Exports {
  constructor(
    private readonly site: Pick<
      OpenedSite,
      | 'analyser'
      | 'data'
      | 'db'
      | 'families'
      | 'finder'
      | 'folder'
      | 'index'
      | 'items'
      | 'jobs'
      | 'now'
      | 'ownFields'
      | 'pool'
      | 'reader'
      | 'references'
      | 'scanner'
    >,
  ) {}

  list(): ExportEntry[] {
    return this.site.db
      .all<Omit<ExportEntry, 'form'> & { file: string }>(
        'select export.id, at, person.name as person, title, items, bytes, file from export join person on person.id = export.person_id order by export.id desc limit 100',
      )
      .map(({ file, ...one }) => ({ ...one, form: formOf(file) }));
  }

  /** @throws Fault 'not-found' */
  form(id: number): ExportForm {
    return formOf(this.file(id));
  }

  file(id: number): string {
    const name = this.site.db.value<string>('select file from export where id = ?', id);
    if (!name) throw new Fault('not-found', 'This export no longer exists.', 'Make it again.');
    return this.site.data.exported(name);
  }

  /** Makes an export as a job: the files with a table, or a contact sheet. The site is not changed. */
  async make(
    itemIds: readonly number[] | 'all',
    personId: number,
    form: ExportForm = 'files',
  ): Promise<ExportEntry> {
    if (form === 'archive') return this.archive(itemIds, personId);
    const { site } = this;
    await site.scanner.scan();
    const chosen = itemIds === 'all' ? await site.finder.idsApart(site.reader, ALL_HERE) : itemIds;
    const whole = await site.items.many(await site.families.whole(chosen));
    const known = await setOf(whole, breathe, (item) => item.id);
    await each(chosen, breathe, (id) => known.has(id) || site.items.need(id));
    // The sizes of images go with them, but on paper they are one.
    const items = await flatMap(whole, breathe, (item) =>
      item.state === 'here' && (form === 'files' || item.sizeOf === null) ? [withWordsOf(site, item)] : [],
    );
    if (items.length === 0)
      throw new Fault('bad-request', 'None of these items is on the site.', 'Choose items in the Library.');
    const title =
      itemIds === 'all'
        ? 'All items'
        : chosen.length === 1
          ? items[0]!.name
          : `${chosen.length} chosen items`;
    if (form === 'contact-sheet' && items.length > MOST_ON_SHEET)
      throw new Fault(
        'too-large',
        `A contact sheet holds ${MOST_ON_SHEET.toLocaleString('en')} items at most.`,
        'Gather fewer in the tray, and export these.',
      );
    const name = this.newName(form);
    const target = site.data.exported(name);
    await site.jobs.run('export', `Exporting ${items.length} items`, async (job) => {
      if (form === 'contact-sheet') return this.contactSheet(items, title, target, job);
      const names = new ArchiveNames();
      const files = await map(items, breathe, (item) => names.of(item.path));
      const text = await itemsCsv(site, items, files);
      const entries: ZipEntry[] = [];
      for (const [at, item] of items.entries()) {
        const file = await site.folder.locate(item.path);
        // Media is compressed already; deflating it again costs time and saves nothing.
        entries.push({ file, name: files[at]!, compress: item.kind === 'document' });
      }
      const progress = (done: number) => job.progress(done, items.length, 'items packed');
      try {
        await writeZip(`${target}.part`, { name: 'items.csv', text }, entries, progress, job.signal);
      } catch (error) {
        await rm(`${target}.part`, { force: true });
        throw error;
      }
      await rename(`${target}.part`, target);
    });
    return this.remember(name, personId, title, items.length);
  }

  private newName(form: ExportForm): string {
    const now = this.site.now().slice(0, 19).replace(/[:T]/g, '-');
    return `${now}-${Math.random().toString(36).slice(2, 8)}${ENDINGS[form]}`;
  }

  private async remember(name: string, personId: number, title: string, items: number): Promise<ExportEntry> {
    const { db, data, now } = this.site;
    const { size } = await stat(data.exported(name));
    const done = db.run(
      'insert into export (at, person_id, title, items, bytes, file) values (?, ?, ?, ?, ?, ?)',
      now(),
      personId,
      title,
      items,
      size,
      name,
    );
    return this.list().find((one) => one.id === Number(done.lastInsertRowid))!;
  }

  /** The whole library with its site, as a bag in a ZIP. @throws Fault 'bad-request' for some items only */
  private async archive(itemIds: readonly number[] | 'all', personId: number): Promise<ExportEntry> {
    const { site } = this;
    if (itemIds !== 'all')
      throw new Fault('bad-request', 'An archive holds the whole library.', 'Choose all items of the site.');
    await site.scanner.scan();
    const name = this.newName('archive');
    const target = site.data.exported(name);
    const folder = `${target}.folder`;
    const at = site.now();
    const records = await site.jobs.run('export', 'Archiving the library', async (job) => {
      try {
        const made = await writePackedArchive(
          {
            root: site.folder.root,
            data: site.data.root,
            folder,
            to: `${target}.part`,
            name: `${basename(site.folder.root)}-archive-${at.slice(0, 10)}`,
            at,
            files: site.index.files.size,
          },
          // Copied, then packed.
          (done, total) => job.progress(Math.floor(done / 2), total / 2, 'files archived'),
          job.signal,
        );
        await rename(`${target}.part`, target);
        return made.records;
      } finally {
        for (const left of [folder, `${folder}.part`, `${folder}.work.db`, `${target}.part`])
          await rm(left, { recursive: true, force: true });
      }
    });
    return this.remember(name, personId, 'The whole library', records['items'] ?? 0);
  }

  /** Small images of items with their names and what their records say, on paper. */
  private async contactSheet(
    items: readonly Item[],
    title: string,
    target: string,
    job: RunningJob,
  ): Promise<void> {
    const { site } = this;
    const entries: SheetEntry[] = [];
    for (const item of items) {
      const { decorative, alt } = item.words;
      const image = await this.smallImage(item);
      entries.push({ image, name: item.name, alt: decorative ? '' : alt, lines: linesOf(item) });
    }
    try {
      await site.pool.run(
        'contact-sheet',
        {
          title: `${basename(site.folder.root)}: ${title}`,
          language: 'en',
          at: site.now(),
          entries,
          to: `${target}.part`,
        },
        {
          signal: job.signal,
          progress: (share) =>
            job.progress(Math.round(share * items.length), items.length, 'items on the sheet'),
        },
      );
    } catch (error) {
      await rm(`${target}.part`, { force: true });
      throw error;
    }
    await rename(`${target}.part`, target);
  }

  /** Null: none can be made of it. */
  private smallImage({ sha256 }: Item): Promise<string | null> {
    return this.site.analyser.file(sha256, THUMBNAIL_SIZES[0]).catch((error: unknown) => {
      if (error instanceof Fault) return null;
      throw error;
    });
  }
}

/** What a contact sheet says of an item below its name. */
function linesOf({ path, width, height, words }: Item): string[] {
  const size = width && height ? `${width} × ${height}` : '';
  return [
    [folderOf(path), size].filter(Boolean).join(', '),
    words.caption || words.title,
    words.credit || words.creator,
    [words.licence, words.licenceEnd && `until ${words.licenceEnd}`].filter(Boolean).join(', '),
  ].filter((line) => line !== '');
}

/** A size says what its image says. */
function withWordsOf(site: Pick<Site, 'items'>, item: Item): Item {
  const main = item.sizeOf === null ? undefined : site.items.get(item.sizeOf);
  return main ? { ...item, words: main.words, owner: main.owner, focal: main.focal } : item;
}

/** Where a file stands in the archive: under a name that every system can unpack, of its own. */
class ArchiveNames {
  private readonly taken = new Set(['items.csv']);
  /** The number that the next of a name may have. */
  private readonly next = new Map<string, number>();

  of(path: string): string {
    const safe = path
      .split('/')
      .map((name) => (targetFault(name) === undefined && !/[\\:*?"<>|]/.test(name) ? name : safeName(name)))
      .join('/');
    let name = safe === 'items.csv' ? 'items (from the site).csv' : safe;
    let number = this.next.get(clashKey(safe)) ?? 2;
    for (; this.taken.has(clashKey(name)); number++)
      name = joinPath(folderOf(safe), numberedName(baseName(safe), number));
    this.next.set(clashKey(safe), number);
    this.taken.add(clashKey(name));
    return name;
  }
}
