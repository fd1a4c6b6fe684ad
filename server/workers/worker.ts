import { createHash } from 'node:crypto';
import { readFileSync } from 'node:fs';
import { NameIndex } from '../../core/reference/mention.ts';
import type { SitePath } from '../../core/address/path.ts';
import { SiteMap } from '../../core/reference/resolve.ts';
import { cssRules, pictureClasses, selectorsAt, type CssRule } from '../../core/reference/css-rules.ts';
import { markedPage } from '../../core/reference/preview-marks.ts';
import { editPage, elementsOf, isHtmlPage } from '../../core/reference/page-edit.ts';
import { cssReferences } from '../../core/reference/css.ts';
import { htmlReferences } from '../../core/reference/html.ts';
import { galleriesIn, placementReading } from '../../core/reference/placement-reading.ts';
import { xmlReferences } from '../../core/reference/xml.ts';
import { rewritePage } from '../../core/reference/rewrite.ts';
import { placedWords, rewriteWords } from '../../core/reference/placed-words.ts';
import { namedBeside, readPage, textWithout } from '../../core/reference/read.ts';
import type { PageReading } from '../../core/reference/model.ts';
import { decodeRaw, rawOf, readSource, type Source } from '../../core/reference/source.ts';
import { TooLarge, Undecodable } from '../media/undecodable.ts';
import { documentTasks, wherePackage } from './document-tasks.ts';
import type { Answer } from './pool.ts';
import { OUT_OF_MEMORY, type TaskName, type Tasks } from './tasks.ts';
import { unjoined } from './tasks.ts';

// What decodes media is loaded when there is some: a worker that reads texts is ready in half the time.
const media = {
  pdf: () => import('../media/pdf.ts'),
  timed: () => import('../media/audio-video.ts'),
  analyse: () => alone(import('../media/analyse.ts')),
  prepare: () => alone(import('../media/prepare.ts')),
  subject: () => alone(import('../media/subject.ts')),
  recognise: () => alone(import('../media/recognise.ts')),
  receive: () => alone(import('../media/receive.ts')),
  inspect: () => alone(import('../media/inspect.ts')),
  differences: () => alone(import('../media/differences.ts')),
  toSend: () => alone(import('../media/to-send.ts')),
  printed: () => alone(import('../media/printed.ts')),
  contactSheet: () => alone(import('../media/contact-sheet.ts')),
};
/** What cannot be decoded is answered with its sentence. */
async function orRefused<Answer>(work: () => Promise<Answer>): Promise<Answer | { refused: string }> {
  try {
    return await work();
  } catch (error) {
    if (error instanceof Undecodable) return { refused: error.message };
    throw error;
  }
}
/** One image at a time in each worker; the pool has as many workers as there are cores. */
async function alone<Module>(module: Promise<Module>): Promise<Module> {
  const before = process.memoryUsage.rss();
  const { default: sharp } = await import('sharp');
  sharp.concurrency(1);
  sharp.cache(false);
  const loaded = await module;
  // What the decoders take themselves is not the task's.
  most += Math.max(0, process.memoryUsage.rss() - before);
  return loaded;
}

/** Bytes that one task may take on top of what the worker has. */
const TASK_MEMORY = Number(process.argv[2]) * 1e6;

/** Bytes in all that the worker may take while it is at its present tasks. */
let most = Infinity;

const names = new Map<number, NameIndex>();
const sites = new Map<number, { moves: Map<SitePath, SitePath>; before: SiteMap; after: SiteMap }>();

// A worker has nothing else to do meanwhile: it reads texts at once, which takes a third of the time.
const handlers: {
  [Name in TaskName]: (
    input: Tasks[Name]['in'],
    progress: (share: number) => void,
  ) => Promise<Tasks[Name]['out']> | Tasks[Name]['out'];
} = {
  inspect: async ({ file, path }) => (await media.inspect()).inspectItem(file, path),

  read({ file, path, parse, links = false, names: version, bytes: given }) {
    const index = version === undefined ? undefined : namesOf(version);
    const bytes = given ? Buffer.from(given) : readFileSync(file);
    const sha256 = sha256Of(bytes);
    const source = readSource(bytes);
    if ('unread' in source) {
      // A file with NUL bytes is no text; UTF-16 is, and is searched for names as it is.
      const isText = !bytes.includes(0) || bytes[0] === 0xff || bytes[0] === 0xfe;
      return {
        sha256,
        isText,
        ...(isText && index ? { named: { mentions: index.search(unreadText(bytes)), doubtful: [] } } : {}),
        ...(parse ? { reading: { title: '', references: [], canonical: [], unread: source.unread } } : {}),
      };
    }
    const reading = parse ? readOrSayWhyNot(path, source, links) : undefined;
    return {
      sha256,
      isText: true,
      ...(reading ? { reading } : {}),
      ...(index ? { named: namedBeside(index, source, reading?.references ?? []) } : {}),
    };
  },

  parse({ language, bytes }) {
    const source = readSource(bytes);
    if ('unread' in source) return { title: '', references: [] };
    return parsed(
      () => {
        if (language === 'xml') return xmlReferences(source, true);
        if (language === 'css')
          return { title: '', references: cssReferences(source, source.bom, source.raw.length) };
        const { title, references } = htmlReferences(source, language === 'xhtml');
        return { title, references };
      },
      { title: '', references: [] },
    );
  },

  names({ version, paths }) {
    if (paths !== undefined) names.set(version, new NameIndex(unjoined(paths)));
    else names.delete(version);
    return null;
  },

  moves({ version, site, moves }) {
    if (!site || moves === undefined) sites.delete(version);
    else {
      const before = new SiteMap(unjoined(site.files), site.aliases, site.published, site.roots);
      const inTurns = unjoined(moves);
      const byFrom = new Map<SitePath, SitePath>();
      for (let at = 0; at < inTurns.length; at += 2) byFrom.set(inTurns[at]!, inTurns[at + 1]!);
      sites.set(version, {
        moves: byFrom,
        before,
        after: before.withMoves(byFrom),
      });
    }
    return null;
  },

  rewrite({ file, path, version, known }) {
    const site = sites.get(version);
    if (!site) throw new Error(`the site of version ${version} is not here`);
    const bytes = readFileSync(file);
    const sha256 = sha256Of(bytes);
    const reading = known?.sha256 === sha256 ? known.reading : undefined;
    const rewrite = rewritePage(path, bytes, site.moves, site.before, site.after, reading);
    return rewrite && 'bytes' in rewrite
      ? { path, sha256, rewrite, newSha256: sha256Of(rewrite.bytes) }
      : { path, sha256, rewrite };
  },

  search({ file, version, spans }) {
    const index = namesOf(version);
    const bytes = readFileSync(file);
    const source = readSource(bytes);
    return index.search('unread' in source ? unreadText(bytes) : textWithout(source, spans));
  },

  async analyse({ file, path, thumbs, duration }) {
    try {
      return await (await media.analyse()).analyse(file, path, thumbs, duration);
    } catch (error) {
      if (error instanceof Undecodable)
        return { undecodable: error.message, damaged: !(error instanceof TooLarge) };
      throw error;
    }
  },

  signature: async ({ file, path }) => (await media.analyse()).signatureAlone(file, path),

  'to-send': async ({ file }) => (await media.toSend()).toSend(file),
  'other-signature': async ({ bytes }) => (await media.analyse()).signatureOfImage(bytes),

  ...documentTasks,

  'contact-sheet': async (sheet, progress) => (await media.contactSheet()).writeContactSheet(sheet, progress),
  'make-pdf': (printing) => wherePackage(async () => (await media.printed()).printedPdf(printing)),

  words({ file, path, starts }) {
    const source = readSource(readFileSync(file));
    return 'unread' in source ? [] : parsed(() => placedWords(path, source, starts), []);
  },

  placement({ path, bytes, start }) {
    const source = readSource(bytes);
    return 'unread' in source ? null : parsed(() => placementReading(path, source, start), null);
  },

  galleries({ bytes }) {
    const source = readSource(bytes);
    return 'unread' in source ? [] : parsed(() => galleriesIn(source), []);
  },

  marks({ file, path, bytes }) {
    const source = readSource(bytes ?? readFileSync(file));
    return 'unread' in source ? null : parsed(() => markedPage(path, source) ?? null, null);
  },

  sheet({ file, path, bytes, starts }) {
    const source = readSource(bytes ?? readFileSync(file));
    if ('unread' in source) return { references: [], selectors: [] };
    return parsed(
      () => {
        const references = starts ? [] : readPage(path, source, false).references;
        const places = starts ?? references.map((one) => one.start);
        return { references, selectors: selectorsAt(rulesOf(path, source), places) };
      },
      { references: [], selectors: [] },
    );
  },

  edit({ path, bytes, edits, addresses }) {
    const style = { of: (one: SitePath) => addresses[one] ?? expectAddress(one) };
    return parsed(() => editPage(path, bytes, edits, style) ?? null, { refused: TOO_DEEP });
  },

  'edit-words': ({ path, bytes, wanted }) =>
    parsed(() => rewriteWords(path, bytes, wanted) ?? null, { refused: TOO_DEEP }),

  pictures({ file, path, sheets }) {
    const source = readSource(readFileSync(file));
    const elements = 'unread' in source || !isHtmlPage(path) ? [] : parsed(() => elementsOf(source), []);
    const classes = new Set<string>();
    for (const { name, attributes } of elements) {
      if (name !== 'img' && name !== 'figure') continue;
      const own = attributes.find((one) => one.name === 'class')?.text ?? '';
      for (const one of own.split(/\s+/)) if (one !== '') classes.add(one);
    }
    if (isHtmlPage(path))
      for (const sheet of sheets)
        for (const one of pictureClasses(readFileSync(sheet, 'utf8'))) classes.add(one);
    const images = elements
      .filter((one) => one.name === 'img')
      .map(({ tag, attributes }) => ({ ...tag, attributes: attributes.map((one) => one.name) }));
    return { images, classes: [...classes] };
  },

  async table({ text, delimiter, most, together }) {
    const { parse } = await import('csv-parse/sync');
    const rows: string[][] = parse(text, {
      bom: true,
      delimiter,
      relax_column_count: true,
      skip_empty_lines: true,
      to: most,
    });
    const parts: string[] = [];
    for (let at = 0; at < rows.length; at += together)
      parts.push(JSON.stringify(rows.slice(at, at + together)));
    return parts;
  },

  recognise: async ({ file }) => (await media.recognise()).recognise(file),

  differences: async ({ one, other }) => (await media.differences()).differences(one, other),

  hash: async ({ file }) => (await media.inspect()).hashFile(file),

  receive: async ({ file, name, thumbs }) => (await media.receive()).receive(file, name, thumbs),

  prepare: ({ file, to, asked }) => orRefused(async () => (await media.prepare()).prepare(file, to, asked)),
  subject: ({ file, mime }) =>
    orRefused(async () => ({ found: await (await media.subject()).subject(file, mime) })),
  async shrinkFilm({ file, to, mime, piece }, progress) {
    const { FilmLeft, shrinkFilm } = await media.timed();
    try {
      await shrinkFilm(file, to, mime, piece, progress);
      return {};
    } catch (error) {
      if (error instanceof FilmLeft) return { left: error.message };
      throw error;
    }
  },

  async shrinkPdf({ file, to }) {
    const { LeftAlone, shrinkPdf } = await media.pdf();
    try {
      return { shrunk: await shrinkPdf(file, to) };
    } catch (error) {
      if (error instanceof LeftAlone) return { left: error.message };
      throw error;
    }
  },
};

/** Said of a page that no parser gets to the end of. */
const TOO_DEEP = 'The page is nested too deeply to be edited here. Edit it in its own program.';

function expectAddress(path: SitePath): never {
  throw new Error(`the address of ${path} was not told`);
}

/** What a parser makes of a file; one that is nested too deep for it gives nothing, and is listed as unread. */
function parsed<Result>(parse: () => Result, otherwise: Result): Result {
  try {
    return parse();
  } catch (error) {
    if (error instanceof RangeError) return otherwise;
    throw error;
  }
}

/** The rules of a style sheet, or of the style elements of a page. */
function rulesOf(path: SitePath, source: Source): CssRule[] {
  if (!isHtmlPage(path)) return cssRules(source.raw);
  return elementsOf(source).flatMap(({ name, tag, whole }) =>
    name === 'style' && whole
      ? cssRules(source.raw.slice(tag.end, source.raw.lastIndexOf('</', whole.end))).map((rule) => ({
          ...rule,
          start: rule.start + tag.end,
          end: rule.end + tag.end,
        }))
      : [],
  );
}

function namesOf(version: number): NameIndex {
  const index = names.get(version);
  if (!index) throw new Error(`names of version ${version} are not here`);
  return index;
}

function sha256Of(bytes: Uint8Array): string {
  return createHash('sha256').update(bytes).digest('hex');
}

/** A page that a parser fails on is not lost: it is listed as unread, and its text is searched for names. */
function readOrSayWhyNot(path: string, source: Source, links: boolean): PageReading {
  try {
    return readPage(path, source, links);
  } catch (error) {
    return {
      title: '',
      references: [],
      canonical: [],
      unread: `The file could not be parsed: ${(error as Error).message}.`,
    };
  }
}

/** Text of a file that no parser reads: UTF-16 decoded, anything else byte by byte. */
function unreadText(bytes: Buffer): string {
  if (bytes[0] === 0xff && bytes[1] === 0xfe) return bytes.toString('utf16le', 2);
  if (bytes[0] === 0xfe && bytes[1] === 0xff)
    return Buffer.from(bytes.subarray(2, bytes.length & ~1))
      .swap16()
      .toString('utf16le');
  return decodeRaw('windows-1252', rawOf(bytes));
}

process.on('message', async ({ id, task, inputs }: { id: number; task: TaskName; inputs: never[] }) => {
  const outcomes: { output?: unknown; error?: string }[] = [];
  most = process.memoryUsage.rss() + TASK_MEMORY;
  const watch = setInterval(() => {
    if (process.memoryUsage.rss() > most) process.exit(OUT_OF_MEMORY);
  }, 100);
  for (const input of inputs) {
    try {
      outcomes.push({
        output: await handlers[task](input, (share) => process.send!({ id, share } satisfies Answer)),
      });
    } catch (error) {
      const message = error instanceof Error ? error.message : String(error);
      // What a decoder says when the system gives it no more. Other tasks need a worker that has some.
      if (/out of memory|allocation failed|cannot allocate|bad_alloc/i.test(message))
        process.exit(OUT_OF_MEMORY);
      outcomes.push({ error: message });
    }
  }
  clearInterval(watch);
  process.send!({ id, outcomes });
});
// Ends with the server, also when that was killed; asked to stop from the keyboard, the server ends it in order.
process.on('disconnect', () => process.exit());
process.on('SIGINT', () => undefined);
