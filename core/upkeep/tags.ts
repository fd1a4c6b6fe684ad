import { WITHOUT_PAUSE, type Breathe } from '../paced.ts';
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
 * commonest of those it is near to. The time is linear in the number of tags. Short ones must be the same but for case and signs: 'star' and 'stars' are one, 'sun' and 'sub' are not.
 */
export async function nearTags(
  tags: readonly TagCount[],
  breathe: Breathe = WITHOUT_PAUSE,
): Promise<NearTag[]> {
  const order = [...tags].sort((a, b) => b.items - a.items || (a.name < b.name ? -1 : 1));
  const plain = (name: string) => fold(name).replace(/[^\p{L}\p{N}]+/gu, '');
  const stem = (name: string) => (name.length > 4 ? name.replace(ENDINGS, '') : name);
  const words = order.map((tag) => plain(tag.name));
  const byPlain = new Map<string, number>();
  const byStem = new Map<string, number>();
  /** Words without one of their letters, and as they are: two that differ in one letter have one of those in common. */
  const byRest = new Map<string, number[]>();
  const found: NearTag[] = [];
  for (const [at, tag] of order.entries()) {
    await breathe();
    const word = words[at]!;
    const root = stem(word);
    const say = (other: number | undefined, why: string) => {
      if (other === undefined) return false;
      found.push({ ...tag, to: order[other]!.name, why });
      return true;
    };
    const told =
      say(byPlain.get(word), 'same except for case, accents or punctuation') ||
      say(byStem.get(root) ?? plural(word), 'same word, different ending') ||
      (word.length > 5 && !/\d/.test(word) && say(oneLetter(word), 'one letter different'));
    if (!told) {
      byPlain.set(word, at);
      if (!byStem.has(root)) byStem.set(root, at);
      if (isLong(word))
        for (const rest of rests(word)) {
          const there = byRest.get(rest);
          if (there) there.push(at);
          else byRest.set(rest, [at]);
        }
    }
  }
  return found;
  /** Of words too short for their ending to be cut off: 'domes' of 'dome', either of which may be the commoner one. */
  function plural(word: string): number | undefined {
    if (word.length < 4) return undefined;
    return byPlain.get(word.endsWith('s') && word.length > 4 ? word.slice(0, -1) : `${word}s`);
  }
  function oneLetter(word: string): number | undefined {
    let best: number | undefined;
    // Of the same length first, then shorter, then longer; the commonest of those.
    const rank = (at: number) => [1, 0, 2][words[at]!.length - word.length + 1]!;
    const seen = new Set<number>();
    for (const rest of rests(word))
      for (const other of byRest.get(rest) ?? []) {
        if (seen.has(other)) continue;
        seen.add(other);
        if (words[other]![0] !== word[0] || distance(words[other]!, word) !== 1) continue;
        const [mine, its] = [rank(other), best === undefined ? Infinity : rank(best)];
        if (mine < its || (mine === its && other < best!)) best = other;
      }
    return best;
  }
}

/** Shorter ones differ from too many in one letter; one may be a letter shorter than the other. */
const isLong = (word: string) => word.length > 4;
/** The word, and what is left of it without each of its letters. */
function rests(word: string): Set<string> {
  const all = new Set([word]);
  for (let at = 0; at < word.length; at++) all.add(word.slice(0, at) + word.slice(at + 1));
  return all;
}
