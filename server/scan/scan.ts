import { withoutQuery } from '../../core/text/cut.ts';
import { join } from 'node:path';
import { isItemPath, isPagePath, rolesOf } from '../../core/address/kinds.ts';
import { servedPath, type SitePath } from '../../core/address/path.ts';
import { REDIRECTS_FILE } from '../../core/address/redirects.ts';
import type { Mention } from '../../core/reference/mention.ts';
import type { Named } from '../../core/reference/read.ts';
import { isMediaAddress } from '../../core/reference/file-address.ts';
import type { PageReading } from '../../core/reference/model.ts';
import { holds, PLAIN_LAYOUT, publishedAt, type SiteLayout } from '../../core/reference/layout.ts';
import {
  decodePathname,
  guessRoots,
  learnPublished,
  SiteMap,
  type PublishedAt,
} from '../../core/reference/resolve.ts';
import { mentionsOf, placementsOf, type Placement } from '../../core/reference/survey.ts';
import type { Pool } from '../workers/pool.ts';
import { walkSite, type Walk } from '../files/walk.ts';
import { breathe } from '../workers/breathe.ts';
import { joined } from '../workers/tasks.ts';
import { type FileFacts } from '../../core/media/facts.ts';

export interface SurveyProgress {
  phase: 'listing' | 'reading' | 'searching';
  done: number;
  total: number;
}

/** A whole site as it stands: its files and how they refer to each other. */
export interface Survey {
  files: Map<SitePath, FileFacts>;
  /** Files whose facts were read anew in this survey. */
  changed: Set<SitePath>;
  /** Files known before that are there no longer. */
  removed: Set<SitePath>;
  site: SiteMap;
  published: PublishedAt[];
  /** By page. Only pages whose answers may differ from before are here when `known` was given. */
  placements: Map<SitePath, Placement[]>;
  /** By text file, as placements. */
  mentions: Map<SitePath, Mention[]>;
  unreadable: Walk['unreadable'];
  folders: Walk['folders'];
  empty: Walk['empty'];
}

export interface SurveyOptions {
  root: string;
  /** Absolute path of the data folder, which is left out. */
  dataFolder: string;
  pool: Pool;
  /** What an earlier survey found; files of the same size and time are not read again. */
  known?: ReadonlyMap<SitePath, FileFacts>;
  /** Files among the known have moved: every reference is resolved anew. */
  reconnect?: boolean;
  /** Files that could not be read are tried again although they have not changed. */
  again?: boolean;
  /** How the folder is laid out; what is not said is found out. */
  layout?: SiteLayout;
  /** The map of an earlier survey: what was found out of the layout stays, and with the same files the map itself. */
  site?: SiteMap;
  /** Files that are items although their kind does not tell: a person has brought them in. */
  brought?: ReadonlySet<SitePath>;
  onProgress?: (progress: SurveyProgress) => void;
  signal?: AbortSignal;
}

let namesVersion = 0;
/** So many texts go to a worker at once: reading one takes about a millisecond. */
export const TOGETHER = 32;
/** Milliseconds of work that reading one of them may take; what takes longer is searched for names as it is. */
const READ_LIMIT = 20_000;
/** Bytes; items below that are measured several at once. */
const SMALL = 2_000_000;

/** True for files that hold references or names: everything else is only a file that can be referred to. */
function mayBeText(path: SitePath): boolean {
  return (
    isPagePath(path) ||
    !isItemPath(path) ||
    /\.(csv|tsv|ics|vcf|vtt|srt|gltf|rtf|eps|ps|obj|xpm|xbm)$/i.test(path)
  );
}

/** Lists, reads and connects a site's files. The heavy part runs on the pool; the caller's thread is never held long. */
export async function scanSite(options: SurveyOptions): Promise<Survey> {
  const { root, pool, signal } = options;
  const known = options.known ?? new Map<SitePath, FileFacts>();
  const report = options.onProgress ?? (() => {});
  const layout = options.layout ?? PLAIN_LAYOUT;
  if (known.size === 0) pool.wake();
  const walk = await walkSite(root, options.dataFolder, layout.leftOut, (done) =>
    report({ phase: 'listing', done, total: done }),
  );
  const isItem = (one: { path: SitePath; hidden: boolean }) =>
    !one.hidden &&
    ((rolesOf(one.path).item && holds(layout.media, one.path)) || options.brought?.has(one.path) === true);
  const isPage = (one: { path: SitePath; hidden: boolean }) =>
    !one.hidden && rolesOf(one.path).page && holds(layout.pages, one.path);

  // What is known stays, but for what is told anew below: most often nothing has changed.
  const files = new Map(known);
  const changed = new Set<SitePath>();
  const toRead: typeof walk.files = [];
  const itemPaths: SitePath[] = [];
  const unreadable = [...walk.unreadable];
  let still = 0;
  for (const one of walk.files) {
    await breathe();
    if (one.path === REDIRECTS_FILE) continue;
    const before = known.get(one.path);
    if (before) still++;
    const item = isItem(one);
    if (item) itemPaths.push(one.path);
    const asBefore =
      before?.bytes === one.bytes &&
      before.mtimeMs === one.mtimeMs &&
      !(options.again && (before.sha256 === '' || before.unsearched)) &&
      (before.sha256 === '' ||
        ((before.item !== undefined) === item && (before.reading !== undefined) === isPage(one)));
    if (asBefore) continue;
    toRead.push(one);
    files.delete(one.path);
  }
  const removed = new Set<SitePath>();
  // As many known as are there, and each of these known: none is gone.
  if (still < known.size)
    for (const path of known.keys()) {
      await breathe();
      if (hasFile(walk, path)) continue;
      removed.add(path);
      files.delete(path);
    }

  let done = 0;
  const total = toRead.length;
  const finish = (facts: FileFacts) => {
    files.set(facts.path, facts);
    changed.add(facts.path);
  };
  const step = () => report({ phase: 'reading', done: ++done, total });
  // Taken away since the folder was listed: as if it had not been there.
  const vanished = (one: (typeof toRead)[number], error: Error) => {
    if (!error.message.startsWith('ENOENT')) return false;
    if (known.has(one.path)) removed.add(one.path);
    gone.add(one.path);
    return true;
  };
  const gone = new Set<SitePath>();
  const factsOf = (one: (typeof toRead)[number]) => ({
    path: one.path,
    bytes: one.bytes,
    mtimeMs: one.mtimeMs,
    hidden: one.hidden,
  });
  await breathe();
  const texts = toRead.filter((one) => mayBeText(one.path));
  await breathe();
  const version = ++namesVersion;
  pool.share('names', { version, paths: joined(itemPaths) });
  const named = new Map<SitePath, Named>();
  const placements = new Map<SitePath, Placement[]>();
  const mentions = new Map<SitePath, Mention[]>();
  let site: SiteMap;
  let published: PublishedAt[];
  try {
    await pool.each(
      'read',
      map(
        texts,
        (one) =>
          [one, { file: join(root, one.path), path: one.path, parse: isPage(one), names: version }] as const,
      ),
      async (one, outcome) => {
        if ('error' in outcome) {
          if (!vanished(one, outcome.error)) await readRaw(one, outcome.error.message);
        } else {
          const { sha256, isText, reading } = outcome.output;
          if (outcome.output.named) named.set(one.path, outcome.output.named);
          if (reading?.unread) unreadable.push({ path: one.path, why: reading.unread });
          finish({ ...factsOf(one), sha256, isText, ...(reading ? { reading } : {}) });
        }
        if (!isItem(one)) step();
      },
      { signal, together: TOGETHER, limit: READ_LIMIT },
    );
    // Nothing that a page or text could show may pass for unused because the page could not be parsed: it is searched for names.
    async function readRaw(one: (typeof toRead)[number], why: string) {
      const unread = `The file could not be read: ${why}.`;
      unreadable.push({ path: one.path, why: unread });
      const reading: PageReading = { title: '', references: [], canonical: [], unread };
      try {
        const task = { file: join(root, one.path), path: one.path, parse: false, names: version };
        const raw = await pool.run('read', task);
        if (raw.named) named.set(one.path, raw.named);
        const { sha256, isText } = raw;
        finish({ ...factsOf(one), sha256, isText, ...(isPage(one) ? { reading } : {}) });
      } catch {
        // Said above, once; from here on it is known as a text that could not be searched.
        finish({
          ...factsOf(one),
          sha256: '',
          isText: false,
          unsearched: true,
          ...(isPage(one) ? { reading } : {}),
        });
      }
    }
    // Items are measured by the workers while this thread connects the pages.
    const measure = (items: typeof toRead, together: number) =>
      pool.each(
        'inspect',
        map(items, (one) => [one, { file: join(root, one.path), path: one.path }] as const),
        (one, outcome) => {
          const text = files.get(one.path);
          if ('error' in outcome) {
            if (vanished(one, outcome.error)) {
              files.delete(one.path);
              changed.delete(one.path);
              return;
            }
            unreadable.push({ path: one.path, why: `The file could not be read: ${outcome.error.message}.` });
            finish({
              ...factsOf(one),
              ...text,
              sha256: text?.sha256 ?? '',
              isText: text?.isText ?? false,
              item: { unreadable: outcome.error.message },
            });
          } else {
            const { sha256, ...item } = outcome.output;
            finish({ ...factsOf(one), isText: false, ...text, sha256, item });
          }
          step();
        },
        { signal, together },
      );
    await breathe();
    const items = toRead.filter(isItem);
    const measured = [
      measure(
        items.filter((one) => one.bytes < SMALL),
        TOGETHER / 4,
      ),
      measure(
        items.filter((one) => one.bytes >= SMALL),
        1,
      ),
    ];

    const connected = (async () => {
      // Which files exist decides where every reference leads and which names are looked for: when that changed,
      // everything is connected anew, else only the files that changed.
      await breathe();
      const all: SitePath[] = [];
      for (const one of walk.files)
        if (one.path !== REDIRECTS_FILE && !gone.has(one.path)) all.push(one.path);
      await breathe();
      const count = walk.files.length - (hasFile(walk, REDIRECTS_FILE) ? 1 : 0) - gone.size;
      const sameFiles =
        !options.reconnect &&
        known.size > 0 &&
        removed.size === 0 &&
        gone.size === 0 &&
        toRead.every((one) => known.has(one.path));
      const roots =
        layout.public.length > 0
          ? layout.public
          : sameFiles && options.site
            ? options.site.roots
            : await guessRoots(new Set(all), fromTheRoot(files.values()), breathe);
      await breathe();
      published = layout.published.map(publishedAt).filter((one) => one !== undefined);
      if (published.length === 0) {
        const pages: { path: SitePath; canonical: string[] }[] = [];
        for (const { path, reading } of files.values()) {
          await breathe();
          if (reading && reading.canonical.length > 0)
            pages.push({ path: servedPath(path, roots), canonical: reading.canonical });
        }
        // In the order of their paths: what the first says counts.
        pages.sort((a, b) => (a.path < b.path ? -1 : 1));
        published = learnPublished(pages);
      }
      const before = sameFiles ? options.site : undefined;
      site =
        before && before.isLaidOut(walk.aliases, published, roots, count + walk.outward.length)
          ? before
          : await SiteMap.of([...all, ...walk.outward], walk.aliases, published, roots, breathe);

      await breathe();
      const itemSet = new Set(itemPaths);
      const shownOn = (path: SitePath) =>
        (placements.get(path) ?? []).filter((one) => one.state === 'placed' && itemSet.has(one.path));
      const toSearch: SitePath[] = [];
      for (const path of sameFiles ? toRead.map((one) => one.path) : all) {
        const facts = files.get(path);
        if (facts?.reading) placements.set(path, placementsOf(path, facts.reading, site));
        // No page any more, by the layout: it refers to nothing.
        else if (known.get(path)?.reading) placements.set(path, []);
        if (facts?.isText) {
          const found = named.get(path);
          const placed = new Set(shownOn(path).map((one) => one.start));
          if (found?.doubtful.every((start) => placed.has(start)))
            mentions.set(path, mentionsOf(path, found.mentions, placements.get(path) ?? []));
          else toSearch.push(path);
        }
        await breathe();
      }
      let searched = 0;
      await pool.each(
        'search',
        map(toSearch, (path) => {
          const spans = shownOn(path).map(({ start, end }) => ({ start, end }));
          return [path, { file: join(root, path), version, spans }] as const;
        }),
        (path, outcome) => {
          if ('error' in outcome) {
            const facts = files.get(path)!;
            unreadable.push({
              path,
              why: `The file could not be searched for names: ${outcome.error.message}.`,
            });
            finish({ ...facts, unsearched: true });
            return;
          }
          mentions.set(path, mentionsOf(path, outcome.output, placements.get(path) ?? []));
          report({ phase: 'searching', done: ++searched, total: toSearch.length });
        },
        { signal, together: TOGETHER },
      );
    })();
    const outcomes = await Promise.allSettled([...measured, connected]);
    for (const one of outcomes) if (one.status === 'rejected') throw one.reason;
  } finally {
    pool.drop('names', version);
  }
  return {
    files,
    changed,
    removed,
    site: site!,
    published: published!,
    placements,
    mentions,
    unreadable,
    folders: walk.folders,
    empty: walk.empty,
  };
}

/** What the pages name from the site's root, as paths. */
function* fromTheRoot(files: Iterable<FileFacts>): Generator<SitePath> {
  for (const { reading } of files)
    for (const { url } of reading?.references ?? [])
      if (/^\/[^/]/.test(url) && isMediaAddress(url)) yield decodePathname(withoutQuery(url.slice(1)));
}

function hasFile(walk: Walk, path: SitePath): boolean {
  let low = 0;
  let high = walk.files.length - 1;
  while (low <= high) {
    const middle = (low + high) >> 1;
    const at = walk.files[middle]!.path;
    if (at === path) return true;
    if (at < path) low = middle + 1;
    else high = middle - 1;
  }
  return false;
}

function* map<In, Out>(values: Iterable<In>, change: (value: In) => Out): Generator<Out> {
  for (const value of values) yield change(value);
}
