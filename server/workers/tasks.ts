import type { Differing } from '../../core/picture/difference.ts';
import type { LineChanges, LineEdit } from '../../core/document/line-changes.ts';
import type { PackageKind, TextKind } from '../../core/document/document.ts';
import type { WordDraft } from '../../core/word/draft.ts';
import type { NewImage } from '../../core/word/write-word.ts';
import type { ContactSheet } from '../media/contact-sheet.ts';
import type { Printing } from '../media/printed.ts';
import type { SyntaxFault } from '../../core/document/syntax.ts';
import type { SitePath } from '../../core/address/path.ts';
import type { RewrittenPage } from '../../core/plan/address.ts';
import type { SiteMap } from '../../core/reference/resolve.ts';
import type { EditedPage, PageEdit } from '../../core/reference/page-edit.ts';
import type { WordChange } from '../../core/reference/placed-words.ts';
import type { SheetEdit } from '../../core/sheet/edits.ts';
import type { PlacedWords } from '../../core/reference/placed-text.ts';
import type { Mention } from '../../core/reference/mention.ts';
import type { Named } from '../../core/reference/read.ts';
import type { PageReading, Reference } from '../../core/reference/model.ts';
import type { GalleryElement, PlacementReading } from '../../core/reference/placement-reading.ts';
import type { Analysis, Signature } from '../../core/media/analysis.ts';
import type { NoSubject, Subject } from '../../core/picture/subject.ts';
import type { Prepared, Preparing } from '../media/prepare.ts';
import type { Received } from '../media/receive.ts';
import type { ItemFacts } from '../../core/media/facts.ts';

export interface TextFacts {
  sha256: string;
  /** False when the bytes are not text. */
  isText: boolean;
  reading?: PageReading;
  /** When names were to be looked for: those beside the references. */
  named?: Named;
}

/** A worker ends itself with this code when a task takes more memory than it may. */
export const OUT_OF_MEMORY = 77;

/** Paths in one text, with NUL between them, which none can hold: handing over many takes a fraction of the time that a list of them does. */
export type Joined = string;
export const joined = (paths: readonly SitePath[]): Joined => paths.join('\0');
export const unjoined = (text: Joined): SitePath[] => (text === '' ? [] : text.split('\0'));

/** Two versions of a document. */
export interface Compared {
  before: Uint8Array;
  after: Uint8Array;
  kind: TextKind | undefined;
}

/** The heavy tasks that worker processes do, by name: what goes in, what comes out. */
export interface Tasks {
  /** Hashes and measures a media file. */
  inspect: { in: { file: string; path: SitePath }; out: ItemFacts };
  /**
   * Reads a content file: hash, title, references. `parse` false: only whether it is text; `links`: also links to pages;
   * `names`: searched for the names of that version too; `bytes`: as it would be, instead of the file.
   */
  read: {
    in: {
      file: string;
      path: SitePath;
      parse: boolean;
      links?: boolean;
      names?: number;
      bytes?: Uint8Array | undefined;
    };
    out: TextFacts;
  };
  /** Every reference of a text from elsewhere, also those that are not to files. */
  parse: {
    in: { language: 'html' | 'xhtml' | 'css' | 'xml'; bytes: Uint8Array };
    out: { title: string; references: Omit<Reference, 'line'>[] };
  };
  /** Tells the worker the names to look for in the searches of a version; without them, none follows. */
  names: { in: { version: number; paths?: Joined }; out: null };
  /** Tells the worker a site and what moves in it, for the rewrites of a version; without them, none follows. */
  moves: {
    /** `moves`: from and to, in turns. */
    in: {
      version: number;
      site?: Omit<ReturnType<SiteMap['parts']>, 'files'> & { files: Joined };
      moves?: Joined;
    };
    out: null;
  };
  /** Rewrites a page after files have moved, in memory; from what it was last read as, when that is known. */
  rewrite: {
    in: {
      file: string;
      path: SitePath;
      version: number;
      known?: { sha256: string; reading: PageReading } | undefined;
    };
    out: RewrittenPage;
  };
  /** Searches a text file for the names, leaving out the given spans. */
  search: { in: { file: string; version: number; spans: { start: number; end: number }[] }; out: Mention[] };
  /** Thumbnails and all else there is to see of an item; `thumbs` is the path of its small images without ending. */
  analyse: {
    in: { file: string; path: SitePath; thumbs: string; duration: number };
    out: Analysis | { undecodable: string; damaged: boolean };
  };
  /** What an image is compared by, and nothing else; null: it cannot be decoded. */
  signature: { in: { file: string; path: SitePath }; out: Signature | null };
  /** The same of bytes that are no file. */
  'other-signature': { in: { bytes: Uint8Array }; out: Signature | null };
  /** An image as it is sent to services that look at it: JPEG without metadata, of 1 megapixel at most. */
  'to-send': { in: { file: string }; out: Uint8Array };
  /** Where two images differ that show the same; null: they show different things. */
  differences: { in: { one: string; other: string }; out: Differing | null };
  /** The words with some references of a page, known by the byte offsets of their addresses. */
  words: { in: { file: string; path: SitePath; starts: number[] }; out: PlacedWords[] };
  /** One placement of a page, known by the byte offset of its address; null: the page is no text. */
  placement: { in: { path: SitePath; bytes: Uint8Array; start: number }; out: PlacementReading | null };
  /** The galleries that were made on an HTML page. */
  galleries: { in: { bytes: Uint8Array }; out: GalleryElement[] };
  /** A page as it is looked at, with marks; null: nothing of it can be drawn. `bytes`: as it would be, instead of the file. */
  marks: { in: { file: string; path: SitePath; bytes?: Uint8Array | undefined }; out: string | null };
  /** References of a style sheet, as `read` tells them; and what each of those of files holds for. */
  sheet: {
    in: { file: string; path: SitePath; bytes?: Uint8Array | undefined; starts?: number[] };
    out: { references: Reference[]; selectors: (string | undefined)[] };
  };
  /** A page as edits would leave it; null: nothing changes. `addresses`: how the page writes those of files, by path. */
  edit: {
    in: {
      path: SitePath;
      bytes: Uint8Array;
      edits: readonly PageEdit[];
      addresses: Record<SitePath, string>;
    };
    out: EditedPage | { refused: string } | null;
  };
  /** A page with other words with its placements; null: nothing changes. */
  'edit-words': {
    in: { path: SitePath; bytes: Uint8Array; wanted: readonly WordChange[] };
    out: EditedPage | { refused: string } | null;
  };
  /** What the images of a page say, by where their tags lie; and the classes that it has for images, with its style sheets. */
  pictures: {
    in: { file: string; path: SitePath; sheets: string[] };
    out: { images: { start: number; end: number; attributes: string[] }[]; classes: string[] };
  };
  /**
   * Rows of a table as text (RFC 4180), so many at most: each part is JSON of some of them, so that who asks need not take all at once.
   * @throws Error when it is none
   */
  table: { in: { text: string; delimiter: string; most: number; together: number }; out: string[] };
  /** A text in the form of the bytes that it was, with what changed. */
  'write-text': {
    in: { path: SitePath; before: Uint8Array; text: string };
    /** `fault`: it could be read by programs before, and no longer. */
    out: { bytes: Uint8Array; edits: LineEdit[]; fault?: SyntaxFault | undefined } | { refused: string };
  };
  /** A word-processor document with another text. */
  'edit-word': {
    in: { bytes: Uint8Array; blocks: WordDraft['blocks']; images: readonly (readonly [string, NewImage])[] };
    out: { bytes: Uint8Array } | { refused: string };
  };
  /** A workbook with its changes made, and the rows that say something else. */
  'edit-workbook': {
    in: { bytes: Uint8Array; edits: readonly SheetEdit[] };
    out: { bytes: Uint8Array; edits: LineEdit[] } | { refused: string };
  };
  /** The PDF of a document, and what isn't in it as it is there. */
  'make-pdf': { in: Printing; out: { bytes: Uint8Array; notes: string[] } | { refused: string } };
  /** Writes a contact sheet; signs that its font doesn't have. */
  'contact-sheet': { in: ContactSheet; out: string[] };
  /** What changed from one text or workbook to another: how many lines or rows, or all of them; null: one of them is none. */
  'line-changes': { in: Compared; out: LineChanges | null };
  'line-edits': { in: Compared; out: LineEdit[] | null };
  /** What a package shows, line by line; `refused`: a sentence. */
  'package-text': {
    in: { bytes: Uint8Array; kind: PackageKind };
    out: { text: string } | { refused: string };
  };
  /** Text read in an image; '' for none. */
  recognise: { in: { file: string }; out: string };
  /** SHA-256 of a file, lower-case hex. */
  hash: { in: { file: string }; out: string };
  /** Decides over an arrived file, and hashes, measures and derives what it takes; `thumbs` is a folder. */
  receive: { in: { file: string; name: string; thumbs: string }; out: Received };
  /** What stands on the plain ground of an image; `refused`: a sentence. */
  subject: { in: { file: string; mime: string }; out: { found: Subject | NoSubject } | { refused: string } };
  /** Makes of an original what a recipe says; `refused`: a sentence for the person. */
  prepare: { in: { file: string; to: string; asked: Preparing }; out: Prepared | { refused: string } };
  /** A copy of a video, or of a piece of it in seconds, with fewer bits; or why it is left as it is. Tells how far it is. */
  shrinkFilm: {
    in: { file: string; to: string; mime: string; piece?: { from: number; seconds: number } | undefined };
    out: { left?: string };
  };
  /** A copy of a PDF with lighter images: how many there are, or why it is left as it is. */
  shrinkPdf: { in: { file: string; to: string }; out: { shrunk: number } | { left: string } };
}

export type TaskName = keyof Tasks;
/** Tasks that only tell what others need. */
export type SharedTask = 'names' | 'moves';
