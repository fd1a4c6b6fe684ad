import { lastNumber } from '../text/cut.ts';
import type { Kind } from '../address/kinds.ts';
import { baseName, folderOf, stemOf, type SitePath } from '../address/path.ts';
import { inLetters } from './letters.ts';
import {
  pieceInWords,
  type DateForm,
  type LetterCase,
  type NamePattern,
  type NamePiece,
  type Restart,
} from './pattern.ts';
import { isStopWord } from './stop-words.ts';

/** What the pieces of a name are taken from. */
export interface NamingFacts {
  id: number;
  path: SitePath;
  kind: Kind;
  title: string;
  alt: string;
  caption: string;
  tags: readonly string[];
  /** ISO 8601, local time; null: not known. */
  takenAt: string | null;
  addedAt: string;
  width: number | null;
  height: number | null;
  /** Titles of the pages that show it, the first one first. */
  pages: readonly string[];
  own: Readonly<Record<string, string>>;
}

/** The stem of a name, the pieces that had nothing to give, and the number of each counter. */
export interface Composed {
  stem: string;
  lacks: string[];
  counted: number[];
}

/** Says which number a counter has for an item. */
export interface Numbers {
  /**
   * @param index which piece of the pattern
   * @param name the name as it would be without its counters, for counters that start anew with each name
   */
  take(index: number, facts: NamingFacts, name: string): number;
}

/** The group in which a counter counts an item. */
export function countedIn(restart: Restart, facts: NamingFacts, name: string): string {
  switch (restart) {
    case 'never':
      return '';
    case 'folder':
      return folderOf(facts.path);
    case 'kind':
      return facts.kind;
    case 'month':
      return (facts.takenAt ?? facts.addedAt).slice(0, 7);
    case 'page':
      return facts.pages[0] ?? '';
    case 'name':
      return `${folderOf(facts.path)}/${name}`;
  }
}

/** Gives each counter its next number, in the order in which names are composed. */
export class Counting implements Numbers {
  private readonly next = new Map<string, number>();

  private readonly pattern: NamePattern;
  private readonly before: number;

  /** @param before how many have been counted already, in each group */
  constructor(pattern: NamePattern, before = 0) {
    this.pattern = pattern;
    this.before = before;
  }

  take(index: number, facts: NamingFacts, name: string): number {
    const piece = this.pattern.pieces[index]!;
    if (piece.piece !== 'counter') throw new Error('not a counter');
    const key = `${index} ${countedIn(piece.restart, facts, name)}`;
    const number = this.next.get(key) ?? piece.start + this.before * piece.step;
    this.next.set(key, number + piece.step);
    return number;
  }
}

/**
 * Puts the name of one item together: each piece's text, what it finds and replaces, its words in the pattern's letters
 * and case, joined by the separator. Text that nobody can see in an address (quotes, symbols) falls away. An item that
 * lacks something and keeps its name for it gets an empty stem and uses up no number.
 */
export function compose(pattern: NamePattern, facts: NamingFacts, counting: Numbers): Composed {
  const lacks: string[] = [];
  const parts = pattern.pieces.map((piece) => {
    if (piece.piece === 'counter') return undefined;
    const words = wordsOf(piece, pattern, facts);
    if (words.length === 0) lacks.push(pieceInWords(piece));
    return words;
  });
  if (lacks.length > 0 && pattern.lacking === 'keep-name') return { stem: '', lacks, counted: [] };
  const counted: number[] = [];
  const rest = parts.map((words) => (words ?? []).join(' ')).join(' ');
  const withCounters = parts.map((words, index) => {
    const piece = pattern.pieces[index]!;
    if (words !== undefined || piece.piece !== 'counter') return words ?? [];
    const number = counting.take(index, facts, rest);
    counted.push(number);
    return [String(Math.abs(number)).padStart(piece.width, '0')];
  });
  const words = withCounters.flatMap((one, index) => one.map((word) => ({ word, index })));
  const kept = pattern.words === null ? words : limited(words, pattern.words, pattern);
  return { stem: kept.map(({ word }) => word).join(pattern.separator), lacks, counted };
}

/** The first words, but all that counters and dates give: without them names would clash. */
function limited(words: { word: string; index: number }[], most: number, pattern: NamePattern) {
  let left = most;
  return words.filter(({ index }) => {
    const { piece } = pattern.pieces[index]!;
    if (piece === 'counter' || piece === 'taken' || piece === 'added' || piece === 'size') return true;
    return left-- > 0;
  });
}

function wordsOf(piece: NamePiece, pattern: NamePattern, facts: NamingFacts): string[] {
  const text = replaced(textOf(piece, facts), piece);
  // Dates and sizes stand as one word, hyphens and all.
  if (piece.piece === 'taken' || piece.piece === 'added' || piece.piece === 'size')
    return text === '' ? [] : [text];
  const letters = inLetters(text, pattern.letters)
    .replace(/&/g, ' and ')
    .replace(/['’‘`]/g, '');
  let words: string[] = letters.match(/[\p{L}\p{N}\p{M}@]+/gu) ?? [];
  if (pattern.stopWords !== null && piece.piece !== 'text') {
    const language = pattern.stopWords;
    const telling = words.filter((word) => !isStopWord(word, language));
    if (telling.length > 0) words = telling;
  }
  if (piece.words) words = words.slice(0, piece.words);
  return words.map((word) => inCase(word, piece.case ?? pattern.case));
}

function replaced(text: string, { find, replace = '' }: NamePiece): string {
  if (!find) return text;
  const escaped = find.replace(/[.*+?^${}()|[\]\\]/g, '\\$&');
  return text.replace(new RegExp(escaped, 'giu'), () => replace);
}

export function inCase(word: string, letterCase: LetterCase): string {
  switch (letterCase) {
    case 'lower':
      return word.toLowerCase();
    case 'upper':
      return word.toUpperCase();
    case 'title':
      return word.charAt(0).toUpperCase() + word.slice(1).toLowerCase();
    case 'as-written':
      return word;
  }
}

function textOf(piece: NamePiece, facts: NamingFacts): string {
  switch (piece.piece) {
    case 'text':
      return piece.text;
    case 'title':
    case 'alt':
    case 'caption':
      return facts[piece.piece];
    case 'page':
      return facts.pages[0] ?? '';
    case 'tags':
      return facts.tags.slice(0, piece.most).join(' ');
    case 'folder':
      return folderOf(facts.path).split('/').slice(-piece.levels).join(' ');
    case 'own':
      return facts.own[piece.field] ?? '';
    case 'taken':
      return facts.takenAt === null ? '' : inDateForm(facts.takenAt, piece.form);
    case 'added':
      return inDateForm(facts.addedAt, piece.form);
    case 'size':
      return facts.width === null || facts.height === null ? '' : `${facts.width}x${facts.height}`;
    case 'present':
      return presentPart(stemOf(baseName(facts.path)), piece);
    case 'counter':
      return '';
  }
}

/** @param date ISO 8601, '2026-08-12T23:14:05' */
export function inDateForm(date: string, form: DateForm): string {
  const day = date.slice(0, 10);
  switch (form) {
    case 'year':
      return day.slice(0, 4);
    case 'month':
      return day.slice(0, 7);
    case 'day':
      return day;
    case 'compact':
      return day.replaceAll('-', '');
    case 'time':
      return `${day}-${date.slice(11, 19).replaceAll(':', '').padEnd(6, '0')}`;
  }
}

function presentPart(stem: string, piece: NamePiece & { piece: 'present' }): string {
  switch (piece.part) {
    case 'all':
      return stem;
    case 'words':
      return stem.replace(/\p{N}+/gu, ' ');
    case 'number':
      return lastNumber(stem);
    case 'characters':
      return Array.from(stem)
        .slice((piece.from ?? 1) - 1, piece.to ?? undefined)
        .join('');
  }
}
