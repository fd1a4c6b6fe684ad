import { rename, rm, stat } from 'node:fs/promises';
import { basename } from 'node:path';
import { extensionOf, folderOf, joinPath, stemOf, type SitePath } from '../../core/address/path.ts';
import { endingFor } from '../../core/picture/ending.ts';
import { Fault } from '../fault.ts';
import { ALL_HERE } from '../db/item-query.ts';
import type { ExportForm, ExportOptions } from '../../api/site.ts';
import type { OpenedSite } from '../app/opened-site.ts';
import type { Site } from '../app/site.ts';
import { each, flatMap, setOf } from '../../core/paced.ts';
import type { ZipEntry } from '../files/zip-writer.ts';
import { writePackedArchive } from '../archive/packed.ts';
import { treatedCopy } from '../changes/treat.ts';
import { TAKES_WORDS } from '../media/metadata.ts';
import { itemsCsv, itemsJsonLines } from './items-table.ts';
import { writeZip } from './zip.ts';
import { ZipNames } from './zip-names.ts';
import type { RunningJob } from '../workers/jobs.ts';
import { THUMBNAIL_SIZES } from '../../core/media/analysis.ts';
import type { SheetEntry } from '../media/contact-sheet.ts';
import { breathe } from '../workers/breathe.ts';
import { inOrder } from '../workers/lanes.ts';
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

const PLAIN: ExportOptions = { folders: 'kept', table: 'csv', words: 'in-table', treatment: null };

/** So many files are prepared at once: while one image is encoded, metadata of another are written. */
const LANES = 4;
/** A file as it goes out, and where; `sidecar`: what its record says, in a file beside it. */
interface Handed {
  item: Item;
  path: SitePath;
  file: string;
  sidecar?: string;
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
      | 'blobs'
      | 'data'
      | 'db'
      | 'families'
      | 'finder'
      | 'folder'
      | 'index'
      | 'items'
      | 'jobs'
      | 'metadata'
      | 'now'
      | 'ownFields'
      | 'planBytes'
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
    options: ExportOptions = PLAIN,
  ): Promise<ExportEntry> {
    if (form === 'archive') return this.archive(itemIds, personId);
    const { site } = this;
    await site.scanner.scan();
    const chosen = itemIds === 'all' ? await site.finder.idsApart(site.reader, ALL_HERE) : itemIds;
    const whole = await site.items.many(await site.families.whole(chosen));
    const known = await setOf(whole, breathe, (item) => item.id);
    await each(chosen, breathe, (id) => known.has(id) || site.items.need(id));
    // The sizes of images go with them; on paper, and made anew, they are one.
    const withSizes = form === 'files' && options.treatment === null;
    const items = await flatMap(whole, breathe, (item) =>
      item.state === 'here' && (withSizes || item.sizeOf === null) ? [withWordsOf(site, item)] : [],
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
      const progress = (done: number) => job.progress(done, items.length, 'items packed');
      try {
        await this.files(items, options, `${target}.part`, progress, job.signal);
      } catch (error) {
        await rm(`${target}.part`, { force: true });
        throw error;
      }
      await rename(`${target}.part`, target);
    });
    return this.remember(name, personId, title, items.length);
  }

  /** Packs files, their table, and what their records say. */
  private async files(
    items: readonly Item[],
    { folders, table, words, treatment }: ExportOptions,
    target: string,
    progress: (done: number) => void,
    signal: AbortSignal,
  ): Promise<void> {
    const { site } = this;
    const names = new ZipNames();
    /** What each is called in it. */
    const files: string[] = [];
    /** Which were made for it, and go once they are packed. */
    const made = new Set<string>();
    const workFile = (ending: string) => {
      const file = site.data.workFile() + ending;
      made.add(file);
      return file;
    };
    const remove = async (file: string) => {
      if (made.delete(file)) await rm(file, { force: true });
    };
    const prepared = async (item: Item): Promise<Handed> => {
      let file = await site.folder.locate(item.path);
      let path = folders === 'kept' ? item.path : item.name;
      if (treatment && item.kind === 'image') {
        const to = workFile('');
        const treated = await treatedCopy(site, item, treatment, to);
        if ('mime' in treated) {
          file = to;
          path = joinPath(folderOf(path), `${stemOf(item.name)}${endingFor(item.name, treated.mime)}`);
        }
      }
      if (words === 'in-table') return { item, path, file };
      if (words === 'inside' && TAKES_WORDS.test(path)) {
        const written = await copyWithWords(site, file, workFile(extensionOf(path)), item);
        if (written !== undefined) {
          await remove(file);
          return { item, path, file: written };
        }
      }
      // What can't hold them gets them beside it.
      const sidecar = workFile('.xmp');
      await site.metadata.sidecar(item.words, sidecar);
      return { item, path, file, sidecar };
    };
    const entries = async function* (): AsyncGenerator<ZipEntry> {
      for await (const { item, path, file, sidecar } of inOrder(items, prepared, LANES)) {
        const name = names.of(path);
        if (sidecar !== undefined) yield { file: sidecar, name: `${name}.xmp`, compress: true };
        // Media is compressed already; deflating it again costs time and saves nothing.
        yield { file, name, compress: item.kind === 'document' };
        progress(files.push(name));
      }
    };
    const texts = async () =>
      table === 'none'
        ? []
        : [
            table === 'csv'
              ? { name: 'items.csv', text: await itemsCsv(site, items, files) }
              : { name: 'items.jsonl', text: await itemsJsonLines(site, items, files) },
          ];
    try {
      await writeZip(
        target,
        entries(),
        texts,
        () => undefined,
        signal,
        async (packed) => {
          for (const { file } of packed) await remove(file);
        },
      );
    } finally {
      for (const file of [...made]) await remove(file);
    }
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

/** A copy with what its record says; undefined: its file can't hold it. */
async function copyWithWords(
  { metadata }: Pick<Site, 'metadata'>,
  file: string,
  to: string,
  { words }: Item,
): Promise<string | undefined> {
  try {
    await metadata.copyWithWords(file, to, words);
    return to;
  } catch (error) {
    if (error instanceof Fault || (error as NodeJS.ErrnoException).code === 'ENOENT') throw error;
    return undefined;
  }
}
