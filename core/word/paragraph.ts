import { attributeOf, fromXml } from '../office/xml-tags.ts';
import { trim } from '../text/cut.ts';
import { childOf, sliceOf, tagOf, within, type Placed } from './tree.ts';
import { textIn, valueOf, type WordParts } from './word-parts.ts';

/** How runs look that an editor can say; all else of their look stays with their letters. */
export const LOOKS = { bold: 'w:b', italic: 'w:i', underline: 'w:u', strike: 'w:strike' } as const;
export type Look = keyof typeof LOOKS;
export const LOOK_NAMES = Object.keys(LOOKS) as Look[];

/** What letters of one run have in common (ECMA-376, part 1, 17.3.2). */
export interface Run {
  /** Its opening tag, and its properties as they are written; '': it has none. */
  tag: string;
  properties: string;
  looks: readonly Look[];
  /** It says that blanks around its text count, also where there are none. */
  keepsBlanks: boolean;
}
/** A link around letters: its opening tag, and where it leads. */
export interface WordLink {
  tag: string;
  href: string;
}
/** A letter of a paragraph, or something that stands between letters and is kept as it is. */
export interface Letter {
  sign: string;
  run: Run | undefined;
  link: WordLink | undefined;
  /** What is kept: its XML, what it is, and what it shows. */
  kept?: Kept;
}
export interface Kept {
  xml: string;
  what: string;
  says: string;
  image?: { part: string; alt: string; width: number; height: number };
}
/** Something without a width, like the start of a bookmark: it stands before a letter. */
export interface Point {
  before: number;
  xml: string;
}
export interface ReadParagraph {
  letters: Letter[];
  points: Point[];
}

/** The sign that a kept thing stands as among letters. */
export const OBJECT = '\ufffc';

/** Why a paragraph is kept as a whole, in words. */
export class KeptWhole extends Error {}

const POINTS = new Set([
  'w:bookmarkStart',
  'w:bookmarkEnd',
  'w:commentRangeStart',
  'w:commentRangeEnd',
  'w:permStart',
  'w:permEnd',
]);
const TRACKED = new Set([
  'w:ins',
  'w:del',
  'w:moveFrom',
  'w:moveTo',
  'w:rPrChange',
  'w:pPrChange',
  'w:moveFromRangeStart',
  'w:moveToRangeStart',
]);
/** What is written anew by every program, and means nothing. */
const PASSING = new Set(['w:proofErr', 'w:lastRenderedPageBreak']);

/** What stays as it is among letters, in words. */
const WHAT: Readonly<Record<string, string>> = {
  'w:footnoteReference': 'footnote',
  'w:endnoteReference': 'endnote',
  'w:commentReference': 'comment',
  'w:fldSimple': 'field',
  'w:sdt': 'content control',
  'm:oMath': 'formula',
  'm:oMathPara': 'formula',
  'w:object': 'embedded object',
  'w:pict': 'drawing',
  'w:drawing': 'drawing',
  'mc:AlternateContent': 'drawing',
  'w:sym': 'symbol',
  'w:br': 'page break',
  'w:ptab': 'tab',
};

/**
 * The letters of a paragraph, each with its run.
 * @throws KeptWhole where something in it can only be kept with all of it
 */
export function readParagraph(parts: WordParts, of: Placed): ReadParagraph {
  const { xml } = parts;
  for (const name of TRACKED) if (!within(of, name).next().done) throw new KeptWhole('tracked changes');
  const letters: Letter[] = [];
  const points: Point[] = [];
  /** A field that has begun, and what it shows. */
  let field: { from: number; says: string; depth: number; shows: boolean } | undefined;
  const keep = (one: Omit<Kept, 'says'> & { says?: string }, run?: Run, link?: WordLink) =>
    void letters.push({ sign: OBJECT, run, link, kept: { says: '', ...one } });

  const readRun = (at: Placed, link: WordLink | undefined) => {
    const properties = childOf(at, 'w:rPr');
    const run: Run = {
      tag: openOf(tagOf(xml, at)),
      properties: properties ? sliceOf(xml, properties) : '',
      // Links are underlined by themselves.
      looks: LOOK_NAMES.filter(
        (look) => (look !== 'underline' || !link) && isOn(valueOf(xml, childOf(properties, LOOKS[look]))),
      ),
      keepsBlanks: at.children.some((one) => one.name === 'w:t' && keepsBlanks(xml, one)),
    };
    const write = (text: string) => {
      for (const sign of text) letters.push({ sign, run, link });
    };
    for (const one of at.children) {
      if (one === properties || PASSING.has(one.name)) continue;
      if (one.name === 'w:fldChar') {
        const type = attributeOf(tagOf(xml, one), 'w:fldCharType');
        if (!field && type === 'begin') {
          if (at.children.length > (properties ? 2 : 1)) throw new KeptWhole('fields');
          field = { from: at.from, says: '', depth: 1, shows: false };
        } else if (!field) throw new KeptWhole('fields');
        else if (type === 'begin') field.depth++;
        else if (type === 'separate') field.shows ||= field.depth === 1;
        else if (--field.depth === 0) {
          keep({ xml: xml.slice(field.from, at.to), what: 'field', says: field.says });
          field = undefined;
          if (at.children.at(-1) !== one) throw new KeptWhole('fields');
        }
        continue;
      }
      if (field) {
        if (one.name === 'w:t' && field.shows) field.says += textIn(xml, one);
        continue;
      }
      const broken = one.name === 'w:br' && !/\sw:type\s*=\s*["'](?!textWrapping)/.test(tagOf(xml, one));
      if (one.name === 'w:t') write(spaced(xml, one));
      else if (one.name === 'w:tab') write('\t');
      else if (broken || one.name === 'w:cr') write('\n');
      else if (one.name === 'w:noBreakHyphen') write('\u2011');
      else if (one.name === 'w:softHyphen') write('\u00ad');
      else
        keep(
          {
            xml: `${run.tag}${run.properties}${sliceOf(xml, one)}</w:r>`,
            what: WHAT[one.name] ?? 'element',
            ...imageIn(parts, one),
          },
          undefined,
          link,
        );
    }
  };
  const readAll = (children: readonly Placed[], link: WordLink | undefined) => {
    for (const one of children) {
      if (one.name === 'w:r') readRun(one, link);
      else if (field) {
        if (!POINTS.has(one.name) && !PASSING.has(one.name)) throw new KeptWhole('fields');
      } else if (POINTS.has(one.name)) points.push({ before: letters.length, xml: sliceOf(xml, one) });
      else if (one.name === 'w:hyperlink' && !link)
        readAll(one.children, { tag: openOf(tagOf(xml, one)), href: hrefOf(parts, tagOf(xml, one)) });
      else if (one.name !== 'w:pPr' && !PASSING.has(one.name))
        keep({ xml: sliceOf(xml, one), what: WHAT[one.name] ?? 'element', says: shownIn(xml, one) });
    }
  };
  readAll(of.children, undefined);
  if (field) throw new KeptWhole('fields');
  return { letters, points };
}

const isOn = (value: string | undefined) => value !== undefined && !/^(?:0|false|off|none)$/i.test(value);
const openOf = (tag: string) => (tag.endsWith('/>') ? `${tag.slice(0, -2).trimEnd()}>` : tag);

/** Blanks around a text count only where it says so (XML 1.0, 2.10). */
function spaced(xml: string, of: Placed): string {
  const text = textIn(xml, of);
  return keepsBlanks(xml, of) ? text : trim(text, ' \n\r\t');
}
const keepsBlanks = (xml: string, of: Placed): boolean =>
  attributeOf(tagOf(xml, of), 'xml:space') === 'preserve';

/** All text within an element, as it is shown. */
export function shownIn(xml: string, of: Placed): string {
  let shown = '';
  for (const one of within(of, 'w:t')) shown += textIn(xml, one);
  return shown;
}

function hrefOf({ relations }: WordParts, tag: string): string {
  const anchor = attributeOf(tag, 'w:anchor');
  const to = relations.get(attributeOf(tag, 'r:id') ?? '');
  return `${to?.outside ? to.target : ''}${anchor === undefined ? '' : `#${anchor}`}`;
}

/** English metric units in a CSS pixel (ECMA-376, part 1, 20.1.2.1). */
export const EMU = 9525;

/** The image that a drawing is, if it is nothing else. */
function imageIn({ xml, relations }: WordParts, of: Placed): Pick<Kept, 'image' | 'what' | 'says'> | object {
  if (of.name !== 'w:drawing') return { says: shownIn(xml, of) };
  const blips = [...within(of, 'a:blip')];
  const to = relations.get(blips.length === 1 ? (attributeOf(tagOf(xml, blips[0]!), 'r:embed') ?? '') : '');
  const [described] = within(of, 'wp:docPr');
  const [extent] = within(of, 'wp:extent');
  if (!to || to.outside || !described || !extent) return { says: shownIn(xml, of) };
  const size = tagOf(xml, extent);
  return {
    what: 'image',
    says: '',
    image: {
      part: to.target.startsWith('/') ? to.target.slice(1) : `word/${to.target}`,
      alt: fromXml(attributeOf(tagOf(xml, described), 'descr') ?? ''),
      width: Math.round(Number(attributeOf(size, 'cx')) / EMU) || 0,
      height: Math.round(Number(attributeOf(size, 'cy')) / EMU) || 0,
    },
  };
}
