import { distance } from 'fastest-levenshtein';
import { fold } from '../find/marks.ts';

export interface TagCount {
  name: string;
  items: number;
}

/** A tag, and another one that it is nearly the same as and that more items bear. */
export interface NearTag extends TagCount {
  to: string;
  why: string;
}

/** Endings by which one word is several: of English and German plurals and adjectives. */
const ENDINGS = /(?:ies|es|en|er|s|e|n|y)$/;

/**
 * Tags that differ from a commoner one only in case, accents, signs, an ending, or one letter. Each is told once, with the
 * commonest of those it is near to. Short ones must be the same but for case and signs: 'star' and 'stars' are one, 'sun' and 'sub' are not.
 */
export function nearTags(tags: readonly TagCount[]): NearTag[] {
  const order = [...tags].sort((a, b) => b.items - a.items || (a.name < b.name ? -1 : 1));
  const plain = (name: string) => fold(name).replace(/[^\p{L}\p{N}]+/gu, '');
  const stem = (name: string) => (name.length > 4 ? name.replace(ENDINGS, '') : name);
  const words = order.map((tag) => plain(tag.name));
  const byPlain = new Map<string, number>();
  const byStem = new Map<string, number>();
  const byLength = new Map<number, number[]>();
  const found: NearTag[] = [];
  order.forEach((tag, at) => {
    const word = words[at]!;
    const root = stem(word);
    const say = (other: number | undefined, why: string) => {
      if (other === undefined) return false;
      found.push({ ...tag, to: order[other]!.name, why });
      return true;
    };
    const told =
      say(byPlain.get(word), 'the same but for case, accents or signs') ||
      say(byStem.get(root) ?? plural(word), 'the same word with another ending') ||
      (word.length > 5 && !/\d/.test(word) && say(oneLetter(word), 'one letter differs'));
    if (!told) {
      byPlain.set(word, at);
      if (!byStem.has(root)) byStem.set(root, at);
      byLength.set(word.length, [...(byLength.get(word.length) ?? []), at]);
    }
  });
  /** Of words too short for their ending to be cut off: 'domes' of 'dome', either of which may be the commoner one. */
  function plural(word: string): number | undefined {
    if (word.length < 4) return undefined;
    return byPlain.get(word.endsWith('s') && word.length > 4 ? word.slice(0, -1) : `${word}s`);
  }
  function oneLetter(word: string): number | undefined {
    for (const length of [word.length, word.length - 1, word.length + 1])
      for (const other of byLength.get(length) ?? [])
        if (words[other]![0] === word[0] && distance(words[other]!, word) === 1) return other;
    return undefined;
  }
  return found;
}
