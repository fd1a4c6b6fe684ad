import { folderOf, type SitePath } from '../address/path.ts';
import { textOf, type Atom } from './atoms.ts';
import { canNameFile } from './file-address.ts';
import type { PageReading, Reference } from './model.ts';
import { readPage } from './read.ts';
import type { SiteMap } from './resolve.ts';
import { bytesOf, decodeRaw, readSource, type Source } from './source.ts';
import { addressAtoms, pathSpan, newAddresses, isUntidy } from './new-addresses.ts';

/** One replaced span. Offsets are bytes of the file before the change; end is exclusive. */
export interface SpanChange {
  start: number;
  end: number;
  /** What replaces the span: ASCII, or text in the file's encoding, as a raw string (one character per byte). */
  insert: string;
  line: number;
  place: string;
  /** The whole address as written, before and after. */
  oldUrl: string;
  newUrl: string;
}

export interface PageRewrite {
  changes: SpanChange[];
  /** The file's bytes after the changes. */
  bytes: Uint8Array;
  /** What the page says after them, without its links to pages; known when it was rewritten from `known`. */
  reading?: PageReading;
}

/**
 * Rewrites one page after files have moved, changing only the bytes of addresses that must change.
 *
 * A relative address stays relative, a root-relative one root-relative, an absolute one absolute; query, fragment
 * and the author's own spelling of what stays are kept. When the page itself moves (`pageAfter` differs), its
 * relative references are rewritten too. Afterwards the page is read again: every reference must lead where it should.
 *
 * @param moves path before -> path after
 * @param before the site before the moves; @param after the site after them
 * @param known what these very bytes were last read as, without links to pages. It saves reading them again, and will do
 *   when `isReadWithoutLinks` holds for every moved file and the page itself stays.
 * @param elsewhere references, by their byte offset, that are to lead to another file from now on
 * @returns undefined when nothing in the page changes; `refused` says why the page cannot be rewritten safely
 */
export function rewritePage(
  page: SitePath,
  bytes: Uint8Array,
  moves: ReadonlyMap<SitePath, SitePath>,
  before: SiteMap,
  after: SiteMap,
  known?: PageReading,
  elsewhere: ReadonlyMap<number, SitePath> = new Map(),
): Rewritten {
  const steps = rewriting(page, bytes, moves, before, after, known, elsewhere);
  let step = steps.next();
  while (!step.done) {
    const source = readSource(step.value.bytes);
    step = steps.next(
      'unread' in source
        ? { title: '', references: [], canonical: [], unread: source.unread }
        : readPage(step.value.path, source, step.value.links),
    );
  }
  return step.value;
}

/** `refused`: why the page cannot be rewritten safely; undefined: nothing in it changes. */
export type Rewritten = PageRewrite | { refused: string } | undefined;

/** A page that is to be read, as it is or as it would be. */
export interface ToRead {
  path: SitePath;
  bytes: Uint8Array;
  links: boolean;
}

export type RewriteArguments = Parameters<typeof rewritePage>;

/** The same as `rewritePage`, with pages read elsewhere: nobody knows how long a parser takes. */
export async function rewritePageBy(
  read: (page: ToRead) => Promise<PageReading>,
  ...args: RewriteArguments
): Promise<Rewritten> {
  const steps = rewriting(...args);
  let step = steps.next();
  while (!step.done) step = steps.next(await read(step.value));
  return step.value;
}

/** The steps of a rewrite: it asks for readings of pages, and ends with what they come to. */
function* rewriting(
  ...[page, bytes, moves, before, after, known, elsewhere = new Map<number, SitePath>()]: RewriteArguments
): Generator<ToRead, Rewritten, PageReading> {
  const source = readSource(bytes);
  if ('unread' in source) return undefined;
  const pageAfter = moves.get(page) ?? page;
  const reading = known ?? (yield { path: page, bytes, links: true });
  if (reading.unread) return { refused: reading.unread };
  const changes: SpanChange[] = [];
  const changed = new Map<Reference, SpanChange>();
  const expected: { place: string; path: SitePath }[] = [];
  for (const reference of reading.references) {
    const target = before.follow(reference, page);
    const other = elsewhere.get(reference.start);
    if (target.to !== 'file' && other === undefined) continue;
    // What leads nowhere is pointed on from where it would lead.
    const old = 'path' in target ? target.path : reference.url;
    const wanted = other ?? moves.get(old) ?? old;
    expected.push({ place: reference.place, path: wanted });
    // The same address leads elsewhere when what it led to has moved and the page has not.
    const tidies = other === old && isUntidy(reference.url);
    if (target.to === 'file' && !tidies && (wanted === old || pageAfter !== page)) {
      const now = after.follow(reference, pageAfter);
      if (now.to === 'file' && now.path === wanted) continue;
    }
    const change = changeOf(source, reference, pageAfter, old, wanted, before, after, page);
    if ('refused' in change) return change;
    changes.push(change);
    changed.set(reference, change);
  }
  if (changes.length === 0) return undefined;
  const rewritten = applyChanges(source, changes);
  const carried = known && carriedOver(source, known, changed);
  if (carried) return { changes, bytes: rewritten, reading: carried };
  const afterwards = yield { path: pageAfter, bytes: rewritten, links: known === undefined };
  if (afterwards.unread) return { refused: afterwards.unread };
  const fault = faultIn(pageAfter, afterwards, expected, after);
  if (fault) return { refused: fault };
  return { changes, bytes: rewritten, ...(known ? { reading: afterwards } : {}) };
}

/** The file's bytes with each span replaced; everything outside the spans is the same. */
export function applyChanges(source: Source, changes: readonly SpanChange[]): Uint8Array {
  let raw = '';
  let at = 0;
  for (const change of [...changes].sort((a, b) => a.start - b.start)) {
    raw += source.raw.slice(at, change.start) + change.insert;
    at = change.end;
  }
  return bytesOf(raw + source.raw.slice(at));
}

function changeOf(
  source: Source,
  reference: Reference,
  pageAfter: SitePath,
  oldPath: SitePath,
  newPath: SitePath,
  before: SiteMap,
  after: SiteMap,
  page: SitePath,
): SpanChange | { refused: string } {
  const atoms = addressAtoms(source, reference);
  if (textOf(atoms) !== reference.url) {
    return {
      refused: `Line ${reference.line}: the address “${reference.url}” is written in a way that cannot be rewritten byte by byte.`,
    };
  }
  const path = pathSpan(reference.url);
  const written = reference.url.slice(path.start, path.end);
  const keepUnicode = source.encoding === 'utf-8' && /[\u0080-\uffff]/.test(written);
  const baseFolder = reference.base === undefined ? folderOf(pageAfter) : undefined;
  // A loose address that does not lead there from where it stands is one from the site's root.
  const direct = reference.loose ? before.resolve(reference.url, page, reference.base) : undefined;
  const fromRoot = direct !== undefined && !(direct.to === 'file' && direct.path === oldPath);
  const ways = newAddresses(
    written,
    oldPath,
    newPath,
    baseFolder,
    page,
    pageAfter,
    keepUnicode,
    after,
    fromRoot,
  );
  for (const candidate of ways) {
    const newUrl = reference.url.slice(0, path.start) + candidate + reference.url.slice(path.end);
    const lands = after.follow({ ...reference, url: newUrl }, pageAfter);
    if (lands.to === 'file' && lands.path === newPath) return spanChange(source, reference, atoms, newUrl);
  }
  return { refused: `Line ${reference.line}: no address can be written here that leads to “${newPath}”.` };
}

/** The smallest span whose replacement turns the old address into the new one. */
function spanChange(
  source: Source,
  reference: Reference,
  atoms: readonly Atom[],
  newUrl: string,
): SpanChange {
  let first = 0;
  let head = 0;
  while (first < atoms.length && newUrl.startsWith(atoms[first]!.text, head))
    head += atoms[first++]!.text.length;
  let last = atoms.length;
  let tail = newUrl.length;
  while (
    last > first &&
    tail - atoms[last - 1]!.text.length >= head &&
    newUrl.startsWith(atoms[last - 1]!.text, tail - atoms[last - 1]!.text.length)
  ) {
    tail -= atoms[--last]!.text.length;
  }
  // Never split a percent sequence of the old address: '%41' -> '%42' replaces all three characters.
  while (first > 0 && /%[0-9a-fA-F]?$/.test(textOf(atoms.slice(Math.max(0, first - 2), first))))
    head -= atoms[--first]!.text.length;
  const start = atoms[first]?.start ?? reference.end;
  const end = last > first ? atoms[last - 1]!.end : start;
  const middle = newUrl.slice(head, tail);
  let insert = '';
  for (const byte of new TextEncoder().encode(middle)) insert += String.fromCharCode(byte);
  return {
    start,
    end,
    insert,
    line: reference.line,
    place: reference.place,
    oldUrl: decodeRaw(source.encoding, source.raw.slice(reference.start, reference.end)),
    newUrl: decodeRaw(
      source.encoding,
      source.raw.slice(reference.start, start) + insert + source.raw.slice(end, reference.end),
    ),
  };
}

/** Where an address is read whatever it says, so that a plain change of its characters changes nothing else. */
const PLAIN_PLACES =
  /^(?:(?:img|source|video|audio|track|embed|input) src|(?:img|source) srcset|video poster|(?:a|link) href|object data|css url\(\))$/;
const PLAIN = /^[\w./%-]*$/;

/**
 * What the page will be read as, without reading it: letters, digits and `. / - _ %` in place of the same inside an
 * address that holds no character reference end no token and begin none, so nothing but that address is read anew.
 * Undefined when a change is not as plain as that.
 */
function carriedOver(
  source: Source,
  known: PageReading,
  changed: ReadonlyMap<Reference, SpanChange>,
): PageReading | undefined {
  for (const [reference, change] of changed) {
    const plain =
      PLAIN_PLACES.test(reference.place) &&
      reference.writing !== 'markdown' &&
      PLAIN.test(change.insert) &&
      PLAIN.test(source.raw.slice(change.start, change.end)) &&
      !/[&\\]/.test(source.raw.slice(reference.start, reference.end)) &&
      change.newUrl !== '' &&
      canNameFile(change.newUrl, false) &&
      !known.canonical.includes(reference.url);
    if (!plain) return undefined;
  }
  const inOrder = [...changed.values()].sort((a, b) => a.start - b.start);
  const shifts = inOrder.map((one) => one.insert.length - (one.end - one.start));
  /** @param within a change that begins right there comes before the offset */
  const moved = (offset: number, within: boolean) => {
    let to = offset;
    for (const [at, one] of inOrder.entries()) {
      if (within ? one.start > offset : one.start >= offset) break;
      to += shifts[at]!;
    }
    return to;
  };
  return {
    ...known,
    references: known.references.map((reference) => ({
      ...reference,
      start: moved(reference.start, false),
      end: moved(reference.end, true),
      url: changed.get(reference)?.newUrl ?? reference.url,
      ...(reference.sizesOf === undefined ? {} : { sizesOf: moved(reference.sizesOf, false) }),
    })),
  };
}

/** The rewritten page, read again, must hold the same references in the same order, each leading where it should. */
function faultIn(
  page: SitePath,
  reading: PageReading,
  expected: readonly { place: string; path: SitePath }[],
  after: SiteMap,
): string | undefined {
  const found = reading.references
    .map((reference) => ({
      reference,
      target: after.follow(reference, page),
    }))
    .filter(({ target }) => target.to === 'file');
  for (const [index, one] of expected.entries()) {
    const now = found[index];
    if (
      !now ||
      now.target.to !== 'file' ||
      now.reference.place !== one.place ||
      now.target.path !== one.path
    ) {
      return `After the change, the page would no longer lead to “${one.path}”.`;
    }
  }
  return found.length === expected.length
    ? undefined
    : 'After the change, the page would hold other references than before.';
}
