/** Where words stand in a text, and other words in their place. */
export interface FindOptions {
  /** Capitals count. */
  exact: boolean;
  /** Not within longer words. */
  whole: boolean;
}
export interface Found {
  from: number;
  to: number;
}

/** What some words are found by. */
function patternOf(words: string, { exact, whole }: FindOptions, flags: string): RegExp {
  const escaped = words.replace(/[\\^$.*+?()[\]{}|/]/g, '\\$&');
  const within = whole ? `(?<![\\p{L}\\p{N}_])${escaped}(?![\\p{L}\\p{N}_])` : escaped;
  return new RegExp(within, exact ? `${flags}u` : `${flags}iu`);
}

/** Places of some words in a text, in UTF-16 units; they do not overlap. */
export function findIn(text: string, words: string, options: FindOptions): Found[] {
  if (words === '') return [];
  return [...text.matchAll(patternOf(words, options, 'g'))].map(({ index, 0: found }) => ({
    from: index,
    to: index + found.length,
  }));
}

/** Whether texts hold some words, for asking of many. */
export function holds(words: string, options: FindOptions): (text: string) => boolean {
  const pattern = patternOf(words, options, '');
  return (text) => words !== '' && pattern.test(text);
}

/** @param places in their order */
export function replaceAt(text: string, places: readonly Found[], by: string): string {
  let at = 0;
  const parts: string[] = [];
  for (const { from, to } of places) {
    parts.push(text.slice(at, from), by);
    at = to;
  }
  return parts.join('') + text.slice(at);
}
