import { baseName, stemOf, type SitePath } from '../address/path.ts';
import type { DateForm, NamePattern, NamePiece } from './pattern.ts';

const WORDS = '[\\p{L}\\p{N}\\p{M}@]+(?:SEP[\\p{L}\\p{N}\\p{M}@]+)*';
const DATES: Record<DateForm, string> = {
  year: '\\d{4}',
  month: '\\d{4}-\\d{2}',
  day: '\\d{4}-\\d{2}-\\d{2}',
  compact: '\\d{8}',
  time: '\\d{4}-\\d{2}-\\d{2}-\\d{6}',
};

/**
 * True when a name has the form that a pattern gives: its texts as they stand, digits where it counts, dates where dates
 * are, words where words are. The words themselves may be others, so a title that is mended makes no name wrong. What a
 * piece may lack may be missing; a number behind the name, and a size suffix, may follow.
 */
export function followsPattern(path: SitePath, pattern: NamePattern): boolean {
  return expressionOf(pattern).test(stemOf(baseName(path)).normalize('NFC'));
}

const expressions = new WeakMap<NamePattern, RegExp>();

function expressionOf(pattern: NamePattern): RegExp {
  let made = expressions.get(pattern);
  if (made) return made;
  const separator = escaped(pattern.separator);
  const words = WORDS.replace('SEP', separator === '' ? '(?!)' : separator);
  const parts = pattern.pieces.map((piece) => {
    const source = sourceOf(piece, pattern, words);
    return piece.piece === 'text' || piece.piece === 'counter' || piece.piece === 'folder'
      ? { source, sure: true }
      : { source, sure: pattern.lacking === 'keep-name' };
  });
  // Each piece brings the separator before it; the first that stands there has none.
  let source = '';
  parts.forEach((one, index) => {
    const before = index === 0 || separator === '' ? '' : `(?:(?<=^)|${separator})`;
    source += one.sure ? `${before}${one.source}` : `(?:${before}${one.source})?`;
  });
  const letterCase = pattern.case === 'lower' ? 'u' : 'iu';
  made = new RegExp(`^(?!$)${source}(?:[-_.]?\\d+|[-_.]\\d+x\\d+|[-_.]?\\d+w|@[1-4]x)?$`, letterCase);
  expressions.set(pattern, made);
  return made;
}

function sourceOf(piece: NamePiece, pattern: NamePattern, words: string): string {
  switch (piece.piece) {
    case 'text': {
      // In other letters it stands as it is heard: then any words will do.
      if (pattern.letters !== 'keep' && /[^\0-\x7f]/.test(piece.text)) return words;
      const own = piece.text.match(/[\p{L}\p{N}\p{M}@]+/gu) ?? [];
      const text = own.map((word) => ((piece.case ?? pattern.case) === 'lower' ? word.toLowerCase() : word));
      return text.map(escaped).join(escaped(pattern.separator));
    }
    case 'counter':
      return `\\d{${Math.max(1, piece.width)},}`;
    case 'taken':
    case 'added':
      return DATES[piece.form];
    case 'size':
      return '\\d+x\\d+';
    default:
      return words;
  }
}

function escaped(text: string): string {
  return text.replace(/[.*+?^${}()|[\]\\]/g, '\\$&');
}
