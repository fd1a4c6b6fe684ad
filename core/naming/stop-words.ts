import { dan, deu, eng, fin, fra, ita, nld, nob, pol, por, spa, swe } from 'stopword';
import type { StopWordLanguage } from './pattern.ts';

const LISTS: Record<StopWordLanguage, readonly string[]> = {
  en: eng,
  de: deu,
  fr: fra,
  es: spa,
  it: ita,
  pt: por,
  nl: nld,
  da: dan,
  sv: swe,
  no: nob,
  fi: fin,
  pl: pol,
};
const sets = new Map<StopWordLanguage, ReadonlySet<string>>();

/** True for a small word of a language. */
export function isStopWord(word: string, language: StopWordLanguage): boolean {
  let set = sets.get(language);
  if (!set) sets.set(language, (set = new Set(LISTS[language].map((one) => one.toLowerCase()))));
  return set.has(word.toLowerCase());
}
