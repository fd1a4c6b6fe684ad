import { stemmer } from 'stemmer';
import { withoutLatinMarks } from '../text/latin.ts';

/** A piece of a text, and whether a search found it. */
export interface Piece {
  text: string;
  hit: boolean;
}

/** Lower case, without accents on Latin letters: as the search compares. */
export function fold(text: string): string {
  return withoutLatinMarks(text).toLowerCase();
}

/** The words of a text with their places, as the search cuts them (Unicode letters and digits). */
function* tokens(text: string): Generator<{ start: number; end: number; stem: string }> {
  for (const found of text.matchAll(/[\p{L}\p{N}\p{M}]+/gu))
    yield { start: found.index, end: found.index + found[0].length, stem: stemmer(fold(found[0])) };
}

/**
 * Cuts a text into what a search for some words finds in it and what not: whole words that begin with the stem of one of
 * them, whatever their case, accents and endings (Porter's stemmer, 1980).
 */
export function marked(text: string, words: readonly string[]): Piece[] {
  const stems = words.flatMap((word) => [...tokens(word)].map((one) => one.stem));
  const pieces: Piece[] = [];
  let at = 0;
  const push = (end: number, hit: boolean) => {
    if (end > at) pieces.push({ text: text.slice(at, end), hit });
    at = end;
  };
  if (stems.length > 0)
    for (const { start, end, stem } of tokens(text)) {
      if (!stems.some((one) => stem.startsWith(one))) continue;
      push(start, false);
      push(end, true);
    }
  push(text.length, false);
  return pieces;
}

/** Whether a search for some words finds anything in a text. */
export function hits(text: string, words: readonly string[]): boolean {
  return marked(text, words).some((piece) => piece.hit);
}

/**
 * The part of a longer text around its first find, at most about `reach` characters to each side.
 * Undefined when nothing is found in it.
 */
export function excerpt(text: string, words: readonly string[], reach = 40): string | undefined {
  let before = 0;
  for (const piece of marked(text, words)) {
    if (piece.hit) {
      const start = before <= reach ? 0 : text.indexOf(' ', before - reach) + 1;
      const last = before + piece.text.length + reach;
      const end = last >= text.length ? text.length : text.lastIndexOf(' ', last);
      const cut = text.slice(Math.min(start, before), Math.max(end, before + piece.text.length));
      return `${start > 0 ? '… ' : ''}${cut.trim()}${end < text.length ? ' …' : ''}`;
    }
    before += piece.text.length;
  }
  return undefined;
}
