import { baseName, stemOf, type SitePath } from '../address/path.ts';
import { fold } from '../find/marks.ts';
import type { Words } from './fields.ts';

/** Where an image stands on a page, as far as its words are concerned. */
export interface PlacementContext {
  page: SitePath;
  pageTitle: string;
  /** The heading above it; ''. */
  heading: string;
  /** Its figcaption; ''. */
  figcaption: string;
  before: string;
  after: string;
  /** Alt texts of the other images close by. */
  neighbours: readonly string[];
  /** The link it stands in; null: none. `alone`: nothing else in the link says anything. */
  link: { href: string; alone: boolean; targetTitle: string } | null;
}

export interface AltFacts {
  path: SitePath;
  words: Pick<Words, 'alt' | 'decorative' | 'title' | 'caption' | 'longDescription' | 'tags'>;
  contexts: readonly PlacementContext[];
  /** Names of other images, with other bytes, that have the same alt text. */
  sameAlt: readonly string[];
  /** Text recognised in the image; '': none, or not looked for. */
  textInside: string;
}

/** 'fault': visitors are left without; 'doubt': likely wrong; 'hint': could be better. */
export type Severity = 'fault' | 'doubt' | 'hint';

export interface AltFinding {
  rule: AltRuleName;
  severity: Severity;
  /** What is wrong, with the words concerned. */
  says: string;
  remedy: string;
  /** The part of the alt text that it is about, if it is about one. */
  about?: string;
}

interface Rule {
  severity: Severity;
  remedy: string;
  /** WCAG 2.2 success criterion or the branch of the W3C alt decision tree that it follows. */
  source: string;
  /** What to say when the rule is broken; undefined when it is kept. */
  test: (facts: AltFacts) => string | { says: string; about: string } | undefined;
}

/** Characters beyond which a screen reader's user loses the thread; short for an image that shows much. */
export const LONGEST_ALT = 150;
const SHORT_FOR_COMPLEX = 40;

const TREE = 'W3C alt decision tree';
const opening =
  /^\s*(?:(?:this is|das ist|hier sieht man)\s+)?(?:an?\s+|the\s+|ein\s+|eine\s+|une?\s+|una?\s+)?(?:image|picture|pic|photo|photograph|graphic|icon|screenshot|illustration|drawing|bild|foto|fotografie|grafik|abbildung|image|dessin|imagen|immagine|afbeelding)\s+(?:of|showing|shows|von|vom|de|du|des|di|van)\b/iu;
const PLACEHOLDERS =
  /^(?:alt|alt[- ]?text|image|images?\d*|img|picture|pic|photo|foto|bild|logo|icon|banner|thumbnail|graphic|placeholder|spacer|blank|untitled|unnamed|default|test|todo|tbd|tba|n\/?a|none|null|undefined|xx+|\.+|-+|_+|\?+|lorem ipsum.*|insert .* here|description( here)?)$/i;
const COMPLEX =
  /\b(?:chart|diagram|graph|infographic|map|plan|timetable|schedule|table|plot|flow ?chart|karte|diagramm|tabelle|fahrplan|schaubild)\b/i;

/** Words of a text, folded; small ones, which say nothing by themselves, left out. */
function tellingWords(text: string): string[] {
  return (fold(text).match(/[\p{L}\p{N}]+/gu) ?? []).filter((word) => word.length > 3);
}
const same = (a: string, b: string) =>
  (fold(a).match(/[\p{L}\p{N}]+/gu) ?? []).join(' ') === (fold(b).match(/[\p{L}\p{N}]+/gu) ?? []).join(' ');
const linked = (facts: AltFacts) => facts.contexts.find((one) => one.link?.alone)?.link ?? undefined;
const isComplex = ({ path, words }: AltFacts) =>
  words.longDescription !== '' ||
  COMPLEX.test(stemOf(baseName(path)).replace(/[-_]/g, ' ')) ||
  COMPLEX.test(words.title) ||
  words.tags.some((tag) => COMPLEX.test(tag));

/** The rules of good alt text. Each looks at a text that is there, but for the first three. */
export const ALT_RULES = {
  'decorative-link': {
    severity: 'fault',
    remedy: 'Say where the link goes, or add text to the link.',
    source: `WCAG 2.2, 2.4.4; ${TREE}: used in a link`,
    test: (facts) =>
      facts.words.decorative && linked(facts)
        ? `It is marked decorative but is the only content of the link to ${shown(linked(facts)!)}, so the link has no name.`
        : undefined,
  },
  missing: {
    severity: 'fault',
    remedy: 'Say in one sentence what a visitor would miss without the image, or mark it decorative.',
    source: `WCAG 2.2, 1.1.1; ${TREE}`,
    test: ({ words }) => (!words.decorative && words.alt.trim() === '' ? 'It has no alt text.' : undefined),
  },
  'text-inside': {
    severity: 'doubt',
    remedy: 'Add the text that matters to the alt text, or write it on the page.',
    source: `WCAG 2.2, 1.4.5; ${TREE}: contains text`,
    test: ({ words, textInside }) => {
      const inside = [...new Set(tellingWords(textInside))];
      const said = new Set(tellingWords(`${words.alt} ${words.caption} ${words.longDescription}`));
      const left = inside.filter((word) => !said.has(word));
      if (words.alt.trim() === '' && !words.decorative) return undefined;
      return inside.length >= 2 && left.length > inside.length / 2
        ? `The image contains text that isn’t in the description: “${textInside.replace(/\s+/g, ' ').trim().slice(0, 80)}”.`
        : undefined;
    },
  },
  'file-name': {
    severity: 'fault',
    remedy: 'Describe what the image shows. A file name means nothing to readers.',
    source: `WCAG 2.2, 1.1.1, failure F30`,
    test: ({ path, words: { alt } }) => {
      const name = baseName(path);
      const bare = alt.trim();
      if (/\.(?:jpe?g|png|gif|webp|avif|svg|tiff?|heic|bmp)$/i.test(bare)) return `“${bare}” is a file name.`;
      if (/^(?:img|dsc[nf]?|pict|p|pxl|mvi|screenshot)[-_ ]?\d{3,}/i.test(bare))
        return `“${bare}” is a camera file name.`;
      // 'dome.jpg' may well show a dome; 'dome-2b.jpg' with 'dome-2b' was copied.
      return bare.toLowerCase() === stemOf(name).toLowerCase() && /[-_\d]/.test(bare)
        ? `“${bare}” is the image’s file name.`
        : undefined;
    },
  },
  placeholder: {
    severity: 'fault',
    remedy: 'Describe what the image shows.',
    source: 'WCAG 2.2, 1.1.1, failure F30',
    test: ({ words: { alt } }) =>
      PLACEHOLDERS.test(alt.trim()) ? `“${alt.trim()}” is a placeholder.` : undefined,
  },
  'image-of': {
    severity: 'hint',
    remedy: 'Start with what it shows. Screen readers already say “image”.',
    source: 'W3C Images Tutorial, tips',
    test: ({ words: { alt } }) => {
      const found = opening.exec(alt)?.[0].trim();
      return found ? { says: `It starts with “${found}”.`, about: found } : undefined;
    },
  },
  'too-short': {
    severity: 'doubt',
    remedy: 'Say what it tells. Put the details into the long description.',
    source: `${TREE}: complex image`,
    test: (facts) =>
      facts.words.alt.trim() !== '' &&
      isComplex(facts) &&
      facts.words.alt.trim().length < SHORT_FOR_COMPLEX &&
      facts.words.longDescription === ''
        ? `A complex image has only ${facts.words.alt.trim().length} characters of description.`
        : undefined,
  },
  'too-long': {
    severity: 'hint',
    remedy: `Keep it to about ${LONGEST_ALT} characters. Put the rest into the caption or the long description.`,
    source: 'W3C Images Tutorial, tips',
    test: ({ words: { alt } }) =>
      alt.trim().length > LONGEST_ALT
        ? { says: `It has ${alt.trim().length} characters.`, about: alt.trim().slice(LONGEST_ALT) }
        : undefined,
  },
  'repeats-caption': {
    severity: 'doubt',
    remedy: 'The caption is read out too. Say what it leaves out, or mark the image decorative.',
    source: 'W3C Images Tutorial, groups and captions',
    test: ({ words, contexts }) => {
      if (words.alt.trim() === '') return undefined;
      const captions = [words.caption, ...contexts.map((one) => one.figcaption)].filter((one) => one !== '');
      return captions.some((caption) => same(caption, words.alt))
        ? 'It says the same as the caption.'
        : undefined;
    },
  },
  'repeats-neighbour': {
    severity: 'doubt',
    remedy: 'Say what the image shows that the nearby text doesn’t.',
    source: `${TREE}: repeats text nearby`,
    test: ({ words: { alt }, contexts }) => {
      if (tellingWords(alt).length < 2) return undefined;
      for (const one of contexts) {
        if (one.neighbours.some((other) => same(other, alt)))
          return 'An image next to it has the same alt text.';
        const around = fold(`${one.before} ${one.after} ${one.heading}`).replace(/\s+/g, ' ');
        if (around.includes(fold(alt).replace(/\s+/g, ' ').trim().replace(/[.!]$/, '')))
          return `The text next to it on “${one.pageTitle}” says the same.`;
      }
      return undefined;
    },
  },
  'same-elsewhere': {
    severity: 'doubt',
    remedy: 'Say how this one differs from the others.',
    source: 'W3C Images Tutorial, tips',
    test: ({ words: { alt }, sameAlt }) =>
      alt.trim() !== '' && sameAlt.length > 0
        ? `${sameAlt.length === 1 ? `${sameAlt[0]} has` : `${sameAlt.length} other images have`} the same alt text.`
        : undefined,
  },
  stuffing: {
    severity: 'doubt',
    remedy: 'Write one sentence for people. Search engines penalise repetition.',
    source: 'W3C Images Tutorial, tips',
    test: ({ words: { alt } }) => {
      const words = tellingWords(alt);
      const often = words.find((word) => words.filter((one) => one === word).length > 2);
      if (often) return { says: `“${often}” is repeated.`, about: often };
      const parts = alt.split(/[,;|]/).filter((part) => part.trim() !== '');
      return parts.length >= 6 && parts.every((part) => part.trim().split(/\s+/).length <= 3)
        ? 'It is a list of keywords, not a sentence.'
        : undefined;
    },
  },
  functional: {
    severity: 'doubt',
    remedy: 'In a link, say where it goes, not how the image looks.',
    source: `WCAG 2.2, 2.4.4; ${TREE}: used in a link`,
    test: (facts) => {
      const link = linked(facts);
      if (!link || facts.words.alt.trim() === '') return undefined;
      // A link to the image itself, large, may well say what it shows.
      if (/\.(?:jpe?g|png|gif|webp|avif|svg)(?:[?#]|$)/i.test(link.href)) return undefined;
      const target = new Set(
        tellingWords(`${link.targetTitle} ${decoded(link.href).replace(/[-_/.]/g, ' ')}`),
      );
      if (target.size === 0) return undefined;
      return tellingWords(facts.words.alt).some((word) => target.has(word))
        ? undefined
        : `It is the only content of the link to ${shown(link)}, but doesn’t say where it goes.`;
    },
  },
} as const satisfies Record<string, Rule>;

export type AltRuleName = keyof typeof ALT_RULES;
const ORDER: Record<Severity, number> = { fault: 0, doubt: 1, hint: 2 };

/** What is to be said of a image's words, the worst first. Words that fit say nothing. */
export function altFindings(facts: AltFacts): AltFinding[] {
  const found: AltFinding[] = [];
  for (const [name, rule] of Object.entries(ALT_RULES) as [AltRuleName, Rule][]) {
    // Of a decorative image there is nothing else to say.
    if (facts.words.decorative && name !== 'decorative-link' && name !== 'text-inside') continue;
    const broken = rule.test(facts);
    if (broken === undefined) continue;
    found.push({
      rule: name,
      severity: rule.severity,
      remedy: rule.remedy,
      ...(typeof broken === 'string' ? { says: broken } : broken),
    });
  }
  return found.sort((a, b) => ORDER[a.severity] - ORDER[b.severity]);
}

function shown(link: NonNullable<PlacementContext['link']>): string {
  return link.targetTitle ? `“${link.targetTitle}”` : link.href;
}

function decoded(href: string): string {
  return href.replace(/%[0-9a-f]{2}/gi, ' ').replace(/^https?:\/\/[^/]*/i, '');
}
