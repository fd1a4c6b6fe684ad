import { isConventional, type Kind } from '../address/kinds.ts';
import { NAME_FAULT_TEXTS, type NameFault } from '../address/name.ts';
import { baseName, folderOf, type SitePath } from '../address/path.ts';
import { altFindings } from '../describe/alt.ts';
import { WORD_FIELDS, type Words } from '../describe/fields.ts';
import { needsAlt } from '../describe/record.ts';
import { ruleBreaks, type FolderRule } from '../intake/rules.ts';
import type { ItemState } from '../plan/plan.ts';
import type { ShownUse } from '../reference/survey.ts';
import type { ItemCheck } from './checks.ts';

/** What the checks of one item look at. */
export interface CheckInput {
  path: SitePath;
  state: ItemState;
  kind: Kind;
  mime: string;
  bytes: number;
  width: number | null;
  height: number | null;
  /** Seconds. */
  duration: number | null;
  pages: number | null;
  unreadable: string | null;
  use: ShownUse;
  nameFaults: readonly NameFault[];
  words: Words;
  /** Other items with the same bytes; and with other bytes, that show the same and are no sizes of it. */
  copies: number;
  alike: number;
  /** It is a smaller size of another image. */
  isSize: boolean;
  /** Another image, that shows something else, has the same alt text. */
  sameAlt: boolean;
  /** Placements whose alt text is another than the record's. */
  disagreeing: number;
  /** Placements as an image; of them, those that offer no sizes. */
  shown: number;
  unsized: number;
  /** CSS pixels of its widest placement; null: no page says it, or one leads to the whole file. */
  widest: number | null;
  /** What its content is; null: it could not be told. */
  contentMime: string | null;
  /** Different colours in its small preview, as a share of that preview's pixels; null: not known. */
  shades: number | null;
  /** Nothing shines through it. */
  opaque: boolean;
  /** Its metadata tell where it was taken. */
  tellsPlace: boolean;
  changedOutside: boolean;
  /** Where it lay before others moved it, and how many references still point there. */
  movedFrom: SitePath | null;
  leftBehind: number;
  /** Pages that show it without the credit that its licence asks for; and of an editorial image, pages that sell something. */
  uncredited: readonly SitePath[];
  selling: readonly SitePath[];
  /** Pages that show it, of an item whose licence ends. */
  shownOn: readonly SitePath[];
  /** Of a record without file: paths of items with its bytes. */
  sameBytes: readonly SitePath[];
}

/** What the library as a whole is like, as far as a check of one item depends on it. */
export interface LibraryHabits {
  /** YYYY-MM-DD; and 30 days later. */
  today: string;
  soon: string;
  ruleOf: (folder: SitePath) => FolderRule;
  /** Others have a language, a licence. */
  languages: boolean;
  licences: boolean;
}

export interface ItemFinding {
  check: ItemCheck;
  /** What is wrong with this one, in a sentence. */
  why: string;
  /** Bytes that could be saved, about; 0: none, or not known. */
  saves: number;
}

/** CSS pixels that an image has on the widest page that is usual, where no page says how wide it is shown. */
const WIDEST_PAGE = 1920;
/** Pixels for each CSS pixel that dense screens draw. */
const DENSITY = 2;
const FILM_BITS = 8_000_000;
const PDF_PAGE = 1_500_000;
const PAGES_NAMED = 3;
/** Images below this are not worth the trouble. */
const LIGHT = 60_000;

function listed(parts: readonly string[]): string {
  return parts.length < 2 ? parts.join('') : `${parts.slice(0, -1).join(', ')} and ${parts.at(-1)}`;
}

/** The first few pages by their paths, the others by number. */
function onPages(pages: readonly SitePath[]): string {
  const named = pages.slice(0, PAGES_NAMED).map((page) => `“${page}”`);
  const others = pages.length - named.length;
  return listed(others > 0 ? [...named, `${others} other ${others === 1 ? 'page' : 'pages'}`] : named);
}

/** Everything that is to be said of one item. */
export function itemFindings(item: CheckInput, habits: LibraryHabits): ItemFinding[] {
  const found: ItemFinding[] = [];
  const say = (check: ItemCheck, why: string, saves = 0) =>
    found.push({ check, why, saves: Math.round(saves) });
  const { words } = item;
  if (item.state === 'absent') {
    if (item.changedOutside) {
      const said = WORD_FIELDS.some((field) => JSON.stringify(words[field]).length > 5);
      const twins = item.sameBytes.slice(0, 3).map((path) => `“${path}”`);
      const more =
        twins.length === 0
          ? ''
          : ` ${listed(twins)} ${twins.length === 1 ? 'has' : 'have'} identical content.`;
      say(
        'missing',
        `Its file was removed outside Iconomos${said ? '; its description is still here' : ''}.${more}`,
      );
    }
    return found;
  }
  if (item.state !== 'here') return found;
  if (item.movedFrom !== null)
    say(
      'moved',
      `It was moved from “${item.movedFrom}”; ${item.leftBehind === 0 ? 'no references remain' : item.leftBehind === 1 ? '1 reference still points there' : `${item.leftBehind} references still point there`}.`,
    );

  if (item.copies > 0)
    say(
      'copies',
      `${item.copies === 1 ? 'Another item has' : `${item.copies} other items have`} identical content.`,
      0,
    );
  // A size has its image's words, use and rights, and is called after it: only its file is looked at.
  if (item.isSize) {
    checkFile(item, say);
    return found;
  }
  if (item.alike > 0)
    say(
      'look-alikes',
      `${item.alike === 1 ? 'Another image looks' : `${item.alike} other images look`} the same.`,
    );
  if (item.use === 'unused') say('unused', 'Not used anywhere.', item.bytes);
  if (item.use === 'mentioned') say('mentioned', 'Only mentioned in a text.', item.bytes);

  const bearsWords = needsAlt(item);
  if (bearsWords) {
    if (!words.decorative && words.alt.trim() === '') say('no-alt', 'It has no alt text.');
    else
      for (const one of altFindings({
        path: item.path,
        words,
        contexts: [],
        sameAlt: [],
        textInside: '',
      }).slice(0, 1))
        if (one.severity !== 'hint') say('poor-alt', one.says);
    if (item.sameAlt && !words.decorative) say('same-alt', `Another image has the alt text “${words.alt}”.`);
  } else if (item.kind !== 'image' && words.title.trim() === '') say('no-title', 'It has no title.');
  if (item.disagreeing > 0)
    say(
      'page-words',
      `${item.disagreeing === 1 ? 'One page differs' : `${item.disagreeing} placements differ`} from the record.`,
    );
  const described = words.alt.trim() !== '' || words.title.trim() !== '';
  if (habits.languages && described && words.language.trim() === '')
    say('no-language', 'No language is set.');

  const conventional = isConventional(item.path);
  // Against the pattern of its folder it is said with the folder's rule.
  const faults = item.nameFaults.filter((fault) => fault !== 'rule');
  if (faults.length > 0 && !conventional)
    say('names', faults.map((fault) => NAME_FAULT_TEXTS[fault]).join(' '));
  const rule = habits.ruleOf(folderOf(item.path));
  const broken = ruleBreaks(item, rule);
  if (broken.length > 0) say('rules', broken.join(' '));
  if (folderOf(item.path) === '' && !conventional) say('no-folder', 'It is in the site’s root folder.');

  weigh(item, say);

  const licence = words.licence.trim();
  const named = [words.creator, words.credit, words.source].some((text) => text.trim() !== '');
  if (licence === '' && bearsWords && (named || habits.licences)) say('no-licence', 'It has no licence.');
  if (licence !== '' && words.creator.trim() === '' && words.credit.trim() === '')
    say('no-credit', `It is licensed under “${licence}” but credits nobody.`);
  if (item.uncredited.length > 0) say('uncredited', `Its credit is missing on ${onPages(item.uncredited)}.`);
  if (item.selling.length > 0)
    say('editorial', `It is for news and reports only, but on ${onPages(item.selling)}.`);
  const end = words.licenceEnd.trim();
  if (/^\d{4}-\d\d-\d\d$/.test(end)) {
    const still = item.shownOn.length > 0 ? `on ${onPages(item.shownOn)}` : 'in use';
    const shown = item.use === 'placed' ? ` It is still ${still}.` : '';
    if (end < habits.today) say('licence-over', `Its licence expired on ${end}.${shown}`);
    else if (end <= habits.soon) say('licence-ending', `Its licence expires on ${end}.${shown}`);
  }

  checkFile(item, say);
  return found;
}

/** What is said of the file itself, whoever it belongs to. */
function checkFile(item: CheckInput, say: (check: ItemCheck, why: string, saves?: number) => unknown): void {
  const name = baseName(item.path);
  if (item.unreadable) say('unreadable', item.unreadable);
  if (item.contentMime !== null && !agree(item.contentMime, item.mime))
    say(
      'other-type',
      `The extension is ${name.slice(name.lastIndexOf('.'))}, but the content is ${item.contentMime}.`,
    );
  if (item.tellsPlace) say('private', 'It contains the place where it was taken.');
  if (item.changedOutside) say('outside', 'The file was changed outside Iconomos.');
}

function weigh(item: CheckInput, say: (check: ItemCheck, why: string, saves?: number) => unknown): void {
  const { width, height, bytes } = item;
  const raster = item.kind === 'image' && /^image\/(?:jpeg|png|webp|avif)$/.test(item.mime);
  if (raster && width && height && bytes > LIGHT) {
    const needed = DENSITY * (item.widest ?? WIDEST_PAGE);
    if (item.shown > 0 && item.widest !== null && width > needed * 1.1) {
      const saves = bytes * (1 - (needed / width) ** 2);
      say('too-large', `It is ${width} pixels wide but displayed at ${item.widest} pixels at most.`, saves);
    }
    if (item.mime === 'image/png' && item.opaque && (item.shades ?? 0) > PHOTO)
      say('format', 'A photograph saved as PNG.', bytes * 0.75);
    if (item.mime === 'image/jpeg' && item.shades !== null && item.shades < DRAWING)
      say('format', 'A drawing saved as JPEG.');
    if (item.unsized > 0 && item.unsized === item.shown && width > 1000 && bytes > 150_000)
      say('no-sizes', `It is ${width} pixels wide, with no smaller size for phones.`, bytes * 0.5);
  }
  if (item.kind === 'video' && item.duration && (bytes * 8) / item.duration > FILM_BITS)
    say(
      'heavy-film',
      `${((bytes * 8) / item.duration / 1e6).toFixed(0)} Mbit/s.`,
      bytes - (FILM_BITS * item.duration) / 8,
    );
  if (item.mime === 'application/pdf' && bytes / Math.max(1, item.pages ?? 1) > PDF_PAGE)
    say('heavy-pdf', `${(bytes / Math.max(1, item.pages ?? 1) / 1e6).toFixed(1)} MB per page.`, bytes / 2);
}

/** Shares of different colours: photographs have many, by their noise; drawings few, also with soft edges. */
const PHOTO = 0.12;
const DRAWING = 0.015;

/** The same type under other names, and types that hold one another. */
function agree(content: string, named: string): boolean {
  const plain = (mime: string) =>
    mime
      .replace('image/x-icon', 'image/vnd.microsoft.icon')
      .replace(/^image\/apng$/, 'image/png')
      .replace(/^(?:audio|video)\/(?:x-)?(m4a|mp4|quicktime|3gpp|m4v)$/, 'media/mp4')
      .replace(/^(?:audio|video)\/(?:ogg|opus)$|^application\/ogg$/, 'media/ogg')
      .replace(/^(?:audio|video)\/(?:webm|x-matroska|matroska)$/, 'media/webm')
      .replace(/^audio\/(?:x-|vnd\.)?wave?$/, 'audio/wav')
      .replace(/^audio\/(?:x-)?(flac|aiff)$/, 'audio/$1')
      .replace(/^image\/hei[cf](?:-sequence)?$/, 'image/heif');
  if (plain(content) === plain(named)) return true;
  // What cannot be told apart by its first bytes: packed and written documents.
  return (
    !/^(?:image|video|audio)\/|^application\/pdf$/.test(content) ||
    !/^(?:image|video|audio)\/|^application\/pdf$/.test(named)
  );
}
