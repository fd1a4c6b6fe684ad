/** How a date stands in a name: 2026, 2026-08, 2026-08-12, 20260812, 2026-08-12-231405. */
export const DATE_FORMS = ['year', 'month', 'day', 'compact', 'time'] as const;
export type DateForm = (typeof DATE_FORMS)[number];

/** When a counter starts anew: never, in each folder, for each kind, month, page, or for each name without it. */
export const RESTARTS = ['never', 'folder', 'kind', 'month', 'page', 'name'] as const;
export type Restart = (typeof RESTARTS)[number];

/** What of the current name is kept: all, its words without numbers, its last number, or its characters from a to b. */
export const PRESENT_PARTS = ['all', 'words', 'number', 'characters'] as const;
export type PresentPart = (typeof PRESENT_PARTS)[number];

export const LETTER_CASES = ['lower', 'upper', 'title', 'as-written'] as const;
export type LetterCase = (typeof LETTER_CASES)[number];

/** latin: é -> e, ü -> u, other scripts stay; german: the same, but ü -> ue; ascii: other scripts by sound; keep: all stay. */
export const LETTERS = ['latin', 'german', 'ascii', 'keep'] as const;
export type Letters = (typeof LETTERS)[number];

export const SEPARATORS = ['-', '_', '.', ''] as const;
export type Separator = (typeof SEPARATORS)[number];

/** Languages whose small words (the, of, in) can be left out; ISO 639-1. */
export const STOP_WORD_LANGUAGES = [
  'en',
  'de',
  'fr',
  'es',
  'it',
  'pt',
  'nl',
  'da',
  'sv',
  'no',
  'fi',
  'pl',
] as const;
export type StopWordLanguage = (typeof STOP_WORD_LANGUAGES)[number];

/** What every piece can do with its own text, in this order. */
interface Shaping {
  /** Text that is replaced, wherever it stands and in whatever case; empty: nothing. */
  find?: string;
  replace?: string;
  /** At most so many words; null or absent: all. */
  words?: number | null;
  /** Other than the pattern's. */
  case?: LetterCase | null;
}

/** One part of a name. */
export type NamePiece = Shaping &
  (
    | { piece: 'text'; text: string }
    | { piece: 'title' | 'alt' | 'caption' | 'page' }
    /** The first tags, in the order of the record. */
    | { piece: 'tags'; most: number }
    /** The names of the folder and of those above it, so many in all. */
    | { piece: 'folder'; levels: number }
    | { piece: 'own'; field: string }
    | { piece: 'taken' | 'added'; form: DateForm }
    | { piece: 'counter'; start: number; step: number; width: number; restart: Restart }
    /** 1200x800. */
    | { piece: 'size' }
    | { piece: 'present'; part: PresentPart; from?: number; to?: number }
  );
export type PieceName = NamePiece['piece'];

/** A pattern of names: pieces in a row, and what holds for all of them. */
export interface NamePattern {
  pieces: readonly NamePiece[];
  separator: Separator;
  case: LetterCase;
  letters: Letters;
  /** Small words of this language are left out; null: they stay. */
  stopWords: StopWordLanguage | null;
  /** At most so many words of the whole name; null: as many as fit. */
  words: number | null;
  /** Where a piece has nothing to give: leave it out, or let the item keep its name. */
  lacking: 'leave-out' | 'keep-name';
}

export const PLAIN_PATTERN: NamePattern = {
  pieces: [],
  separator: '-',
  case: 'lower',
  letters: 'latin',
  stopWords: null,
  words: null,
  lacking: 'leave-out',
};

export const PIECE_NAMES: Record<PieceName, string> = {
  text: 'Text',
  title: 'Title',
  alt: 'Alt text',
  caption: 'Caption',
  page: 'Title of the page',
  tags: 'Tags',
  folder: 'Folder',
  own: 'Own field',
  taken: 'Date taken',
  added: 'Date added',
  counter: 'Counter',
  size: 'Pixel size',
  present: 'Current name',
};

/** A piece with its usual settings. */
export function newPiece(name: PieceName, field = ''): NamePiece {
  switch (name) {
    case 'text':
      return { piece: name, text: '' };
    case 'tags':
      return { piece: name, most: 2 };
    case 'folder':
      return { piece: name, levels: 1 };
    case 'own':
      return { piece: name, field };
    case 'taken':
    case 'added':
      return { piece: name, form: 'day' };
    case 'counter':
      return { piece: name, start: 1, step: 1, width: 3, restart: 'never' };
    case 'present':
      return { piece: name, part: 'all' };
    case 'title':
    case 'alt':
    case 'caption':
    case 'page':
      return { piece: name, words: 6 };
    case 'size':
      return { piece: name };
  }
}

/** A piece in few words: 'date taken', '“moon”', 'counter from 1'. */
export function pieceInWords(piece: NamePiece): string {
  switch (piece.piece) {
    case 'text':
      return `“${piece.text}”`;
    case 'counter':
      return `counter from ${String(piece.start).padStart(piece.width, '0')}`;
    case 'own':
      return piece.field.toLowerCase();
    case 'present':
      return piece.part === 'all' ? 'current name' : `${piece.part} of the current name`;
    default:
      return PIECE_NAMES[piece.piece].toLowerCase();
  }
}

/** A pattern in few words: '“moon”, date taken, counter from 001'. */
export function patternInWords(pattern: NamePattern): string {
  return pattern.pieces.map(pieceInWords).join(', ');
}
