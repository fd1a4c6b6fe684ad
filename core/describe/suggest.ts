import { nameFaults } from '../address/name.ts';
import { baseName, stemOf, type SitePath } from '../address/path.ts';
import { altFindings, type PlacementContext } from './alt.ts';
import type { Words } from './fields.ts';

/** Words that could be taken, with where they come from. Never saved without the person. */
export interface Suggestion {
  field: 'alt' | 'title' | 'caption';
  text: string;
  /** 'from the page’s caption'. */
  source: string;
  /** 0 to 1: how often words from there fit; what breaks a rule of good words counts half. */
  confidence: number;
}

export interface SuggestionFacts {
  path: SitePath;
  words: Pick<Words, 'alt' | 'decorative' | 'title' | 'caption' | 'longDescription' | 'tags'>;
  /** What the file says of itself. */
  embedded: Partial<Words>;
  contexts: readonly (PlacementContext & { alt: string | null })[];
  /** Words of images that look the same. */
  alike: readonly { name: string; words: Pick<Words, 'alt' | 'title' | 'caption'> }[];
  /** Text recognised in the image. */
  textInside: string;
}

/** How much words from each source are trusted; measured by nobody, ordered by who wrote them and for what. */
const TRUST = {
  embeddedAlt: 0.95,
  pageAlt: 0.9,
  alike: 0.85,
  figcaption: 0.7,
  embeddedTitle: 0.65,
  embeddedCaption: 0.6,
  textInside: 0.45,
  fileName: 0.4,
  heading: 0.3,
} as const;

/** Words for an image from real sources, the most trusted first; those it has already are left out. */
export function suggestionsFor(facts: SuggestionFacts): Suggestion[] {
  const found: Suggestion[] = [];
  const add = (field: Suggestion['field'], text: string | undefined, source: string, confidence: number) => {
    const tidy = (text ?? '').replace(/\s+/g, ' ').trim();
    if (tidy === '' || tidy === facts.words[field]) return;
    const there = found.find((one) => one.field === field && one.text.toLowerCase() === tidy.toLowerCase());
    const doubtful =
      field === 'alt' &&
      altFindings({
        path: facts.path,
        words: { ...facts.words, alt: tidy, decorative: false },
        contexts: facts.contexts,
        sameAlt: [],
        textInside: '',
      }).some((one) => one.severity !== 'hint');
    const weighed = doubtful ? confidence / 2 : confidence;
    if (!there) found.push({ field, text: tidy, source, confidence: weighed });
    else if (weighed > there.confidence) Object.assign(there, { source, confidence: weighed });
  };
  const { embedded } = facts;
  for (const one of facts.contexts) {
    const title = one.pageTitle || one.page;
    add('alt', one.alt ?? undefined, `alt text on “${title}”`, TRUST.pageAlt);
    add('alt', one.figcaption, `caption on “${title}”`, TRUST.figcaption);
    add('caption', one.figcaption, `caption on “${title}”`, TRUST.pageAlt);
    add('alt', one.heading, `heading on “${title}”`, TRUST.heading);
    add('title', one.heading, `heading on “${title}”`, TRUST.heading);
  }
  add('alt', embedded.alt, 'alt text in the file', TRUST.embeddedAlt);
  add('alt', embedded.caption, 'caption in the file', TRUST.embeddedCaption);
  add('alt', embedded.title, 'title in the file', TRUST.embeddedTitle);
  add('title', embedded.title, 'title in the file', TRUST.embeddedAlt);
  add('caption', embedded.caption, 'caption in the file', TRUST.embeddedAlt);
  for (const { name, words } of facts.alike) {
    add('alt', words.alt, `words of ${name}, which looks the same`, TRUST.alike);
    add('title', words.title, `words of ${name}, which looks the same`, TRUST.alike);
    add('caption', words.caption, `words of ${name}, which looks the same`, TRUST.alike);
  }
  add('alt', facts.textInside, 'text read in the image', TRUST.textInside);
  const said = sentenceOf(facts.path);
  add('alt', said, 'words in the file name', TRUST.fileName);
  add('title', said, 'words in the file name', TRUST.fileName);
  return found.sort((a, b) => b.confidence - a.confidence);
}

/** 'open-night-2026.jpg' -> 'Open night 2026'; '' for a name without words. */
export function sentenceOf(path: SitePath): string {
  const name = baseName(path);
  if (nameFaults(name).some((fault) => fault === 'camera' || fault === 'no-words')) return '';
  const words = stemOf(name)
    .replace(/([-_.]\d{2,5}x\d{2,5}|[-_.](?!(?:19|20)\d\d$)\d{3,5}w?|@[1-4]x)$/i, '')
    .split(/[-_.\s]+/)
    .filter(Boolean)
    .join(' ');
  return words.charAt(0).toUpperCase() + words.slice(1);
}
