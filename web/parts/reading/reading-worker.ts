import type { FindOptions } from '../../../core/document/find.ts';
import { MOST_OFFICE, type ReadingKind } from '../../../core/document/reading.ts';
import { openPackage, UnreadableOffice } from '../../../core/office/package.ts';
import type { Paper } from '../../../core/office/paper.ts';
import { readOdt } from '../../../core/office/read-odt.ts';
import { readSlides } from '../../../core/office/read-slides.ts';
import { wordNotes } from '../../../core/office/word-notes.ts';
import {
  csvBook,
  findInSheet,
  memoryBook,
  type FoundCell,
  type SheetBook,
} from '../../../core/sheet/book.ts';
import { readOds } from '../../../core/sheet/read-ods.ts';
import { readXlsx } from '../../../core/sheet/read-xlsx.ts';
import type { Row, SheetFacts } from '../../../core/sheet/sheet.ts';

/** Reads documents away from the interface's own thread. */
export type ToReader =
  | { number: number; open: { address: string; kind: ReadingKind; name: string } }
  | { number: number; rows: { sheet: number; from: number; count: number } }
  | { number: number; find: { sheet: number; words: string; options: FindOptions } };

export type Opened =
  | { sheets: readonly SheetFacts[] }
  | { paper: Paper }
  /** Of a document that the window draws itself. */
  | { bytes: ArrayBuffer; notes: string[] };

export type FromReader =
  | { number: number; progress: number }
  | { number: number; opened: Opened }
  | { number: number; rows: (Row | undefined)[] }
  | { number: number; found: FoundCell[] }
  | { number: number; fault: string };

let book: SheetBook | undefined;
/** The newest search: an older one stops. */
let searching = 0;

self.onmessage = async ({ data }: MessageEvent<ToReader>) => {
  const { number } = data;
  const answer = (message: FromReader) => self.postMessage(message);
  try {
    if ('open' in data)
      answer({ number, opened: await open(data.open, (progress) => answer({ number, progress })) });
    else if ('rows' in data) {
      const { sheet, from, count } = data.rows;
      answer({ number, rows: await book!.rows(sheet, from, count) });
    } else {
      searching = number;
      const { sheet, words, options } = data.find;
      answer({ number, found: await findInSheet(book!, sheet, words, options, () => searching !== number) });
    }
  } catch (error) {
    const known = error instanceof UnreadableOffice || error instanceof NotFetched;
    answer({
      number,
      fault: known ? (error as Error).message : 'It could not be read here. Download it instead.',
    });
    if (!known) reportError(error);
  }
};

class NotFetched extends Error {}

async function open(
  { address, kind, name }: { address: string; kind: ReadingKind; name: string },
  progress: (share: number) => void,
): Promise<Opened> {
  const answer = await fetch(address).catch(() => {
    throw new NotFetched('The server does not answer. Try again.');
  });
  if (!answer.ok) {
    const said = (await answer.json().catch(() => ({}))) as { message?: string };
    throw new NotFetched(said.message ?? 'The file could not be read. Reload the Library.');
  }
  const file = await answer.blob();
  if (kind === 'table') {
    book = await csvBook(file, name, (bytes) => progress(Math.min(1, bytes / Math.max(1, file.size))));
    return { sheets: book.sheets };
  }
  if (file.size > MOST_OFFICE)
    throw new UnreadableOffice('It is larger than 200 MB. Download it to open it in its own program.');
  const bytes = await file.arrayBuffer();
  const from = openPackage(new Uint8Array(bytes));
  switch (kind) {
    case 'sheets':
      book = memoryBook(from.has('content.xml') ? readOds(from) : readXlsx(from));
      return { sheets: book.sheets };
    case 'odt':
      return { paper: readOdt(from) };
    case 'slides':
      return { paper: readSlides(from) };
    default:
      return { bytes, notes: wordNotes(from) };
  }
}
