import { baseName, stemOf, type SitePath } from '../address/path.ts';
import { BEGIN, char, either, literal, matcher, maybe, more, row, times, type Part } from './automaton.ts';
import type { DateForm, NamePattern, NamePiece } from './pattern.ts';

const DIGIT = char((one) => one >= '0' && one <= '9');
const LETTER = char((one) => /^[\p{L}\p{N}\p{M}@]$/u.test(one));
const NUMBER = more(DIGIT);
const dashed = (...parts: Part[]) =>
  row(...parts.flatMap((one, at) => (at === 0 ? [one] : [literal('-'), one])));
const [YEAR, TWO] = [times(4, DIGIT), times(2, DIGIT)];
const DATES: Record<DateForm, Part> = {
  year: YEAR,
  month: dashed(YEAR, TWO),
  day: dashed(YEAR, TWO, TWO),
  compact: times(8, DIGIT),
  time: dashed(YEAR, TWO, TWO, times(6, DIGIT)),
};
const PARTING = char((one) => '-_.'.includes(one));
/** What may stand behind any name: a number, or a size. */
const tail = (folds: boolean) =>
  either(
    row(maybe(PARTING), NUMBER, maybe(literal('w', folds))),
    row(PARTING, NUMBER, literal('x', folds), NUMBER),
    row(
      literal('@'),
      char((one) => one >= '1' && one <= '4'),
      literal('x', folds),
    ),
  );

/**
 * True when a name has the form that a pattern gives: its texts as they stand, digits where it counts, dates where dates
 * are, words where words are. The words themselves may be others, so a title that is mended makes no name wrong. What a
 * piece may lack may be missing; a number behind the name, and a size suffix, may follow.
 */
export function followsPattern(path: SitePath, pattern: NamePattern): boolean {
  const stem = stemOf(baseName(path)).normalize('NFC');
  return stem !== '' && formOf(pattern)(stem);
}

const forms = new WeakMap<NamePattern, (text: string) => boolean>();

function formOf(pattern: NamePattern): (text: string) => boolean {
  const made = forms.get(pattern);
  if (made) return made;
  const folds = pattern.case !== 'lower';
  const separator = literal(pattern.separator, folds);
  const word = more(LETTER);
  const words = pattern.separator === '' ? word : row(word, maybe(more(row(separator, word))));
  const parts = pattern.pieces.map((piece, index) => {
    const form = formOfPiece(piece, pattern, words, folds);
    // Each piece brings the separator before it; the first that stands there has none.
    const part = index === 0 || pattern.separator === '' ? form : row(either(BEGIN, separator), form);
    const sure =
      piece.piece === 'text' ||
      piece.piece === 'counter' ||
      piece.piece === 'folder' ||
      pattern.lacking === 'keep-name';
    return sure ? part : maybe(part);
  });
  const form = matcher(row(...parts, maybe(tail(folds))));
  forms.set(pattern, form);
  return form;
}

function formOfPiece(piece: NamePiece, pattern: NamePattern, words: Part, folds: boolean): Part {
  switch (piece.piece) {
    case 'text': {
      // In other letters it stands as it is heard: then any words will do.
      if (pattern.letters !== 'keep' && /[^\0-\x7f]/.test(piece.text)) return words;
      const own = piece.text.match(/[\p{L}\p{N}\p{M}@]+/gu) ?? [];
      const text = own.map((word) => ((piece.case ?? pattern.case) === 'lower' ? word.toLowerCase() : word));
      return literal(text.join(pattern.separator), folds);
    }
    case 'counter':
      return row(times(Math.max(1, piece.width) - 1, DIGIT), NUMBER);
    case 'taken':
    case 'added':
      return DATES[piece.form];
    case 'size':
      return row(NUMBER, literal('x', folds), NUMBER);
    default:
      return words;
  }
}
