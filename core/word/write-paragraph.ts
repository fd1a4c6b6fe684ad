import { diffArrays } from 'diff';
import { KEPT_INLINE, type Mark, type RichNode } from '../document/rich.ts';
import { toXml, withAttribute } from '../office/xml-tags.ts';
import {
  LOOK_NAMES,
  OBJECT,
  type Letter,
  type Look,
  type ReadParagraph,
  type Run,
  type WordLink,
} from './paragraph.ts';

/** What a paragraph needs of its document while it is written. */
export interface Surroundings {
  /** A link's opening tag. */
  link(href: string): string;
  /** The properties that a link of its own gives its letters. */
  linkLook: string;
  /** A new image as a run. */
  image(attrs: Readonly<Record<string, unknown>>): string;
  /** What is kept among letters, by its key; undefined: it stands elsewhere already, or is none of this document. */
  kept(key: string): Letter | undefined;
}

/** A letter that is to be written. */
interface Wanted {
  sign: string;
  looks: readonly Look[];
  href: string | undefined;
  node?: RichNode;
}

/** A run that is being written. */
interface Writing {
  key: string;
  run: Run | undefined;
  looks: readonly Look[];
  /** Links give their letters a look of their own, which goes with them. */
  linked: 'added' | 'gone' | 'as it was';
  text: string;
}

/**
 * The runs of a paragraph. Letters that were there keep the look of their runs; new ones look like those before them.
 * @param was what it was made of; undefined: it is new
 * @param first whether it is the first that is made of that: what has no width goes with it
 */
export function runsOf(
  node: RichNode,
  was: ReadParagraph | undefined,
  first: boolean,
  around: Surroundings,
): string {
  const wanted = wantedOf(node.content ?? []);
  const origins = aligned(was?.letters ?? [], wanted);
  const letters = was?.letters ?? [];
  const runs = [...new Set(letters.map(({ run }) => run))];
  const points = first ? [...(was?.points ?? [])] : [];
  let written = '';
  let open: Writing | undefined;
  let linkNow = '';
  const endRun = () => {
    if (open && open.text !== '') written += runXml(open, around.linkLook);
    open = undefined;
  };
  const setLink = (tag: string) => {
    if (tag === linkNow) return;
    endRun();
    written += `${linkNow ? '</w:hyperlink>' : ''}${tag}`;
    linkNow = tag;
  };
  const pass = (before: number) => {
    while (points[0] && points[0].before <= before) {
      setLink('');
      endRun();
      written += points.shift()!.xml;
    }
  };
  let near: Letter | undefined;
  wanted.forEach((one, at) => {
    const from = origins[at];
    const there = from === undefined ? undefined : letters[from];
    const old = there?.kept && !one.node ? undefined : there;
    if (from !== undefined) pass(from);
    if (one.node) {
      endRun();
      setLink(old?.link?.tag ?? '');
      written += objectXml(one.node, around);
      return;
    }
    const like = old ?? near ?? nextLetter(letters, origins, at);
    if (old) near = old;
    setLink(linkTag(one.href, old?.link ?? (near?.link?.href === one.href ? near?.link : undefined), around));
    const run = like?.run;
    const linked =
      linkNow !== '' && !like?.link ? 'added' : linkNow === '' && like?.link ? 'gone' : 'as it was';
    const key = `${runs.indexOf(run)} ${one.looks.join(' ')} ${linked}`;
    if (open?.key !== key) {
      endRun();
      open = { key, run, looks: one.looks, linked, text: '' };
    }
    open.text += one.sign;
  });
  endRun();
  setLink('');
  for (const point of points) written += point.xml;
  return written;
}

function wantedOf(content: readonly RichNode[]): Wanted[] {
  return content.flatMap((node): Wanted[] => {
    const href = linkOf(node.marks);
    const looks = LOOK_NAMES.filter((look) => node.marks?.some(({ type }) => type === look));
    if (node.type === 'text') return [...node.text!].map((sign) => ({ sign, looks, href }));
    if (node.type === 'hardBreak') return [{ sign: '\n', looks, href }];
    return [{ sign: OBJECT, looks, href, node }];
  });
}
const linkOf = (marks: readonly Mark[] | undefined) => {
  const href = marks?.find(({ type }) => type === 'link')?.attrs?.['href'];
  return typeof href === 'string' && href !== '' ? href : undefined;
};

/** Words of a paragraph that may be others before all of it counts as new. */
const MOST_CHANGED = 2000;

/**
 * Which of the letters that were there each wanted one is, or stands for; undefined: it is new. Words are compared as a whole: what stands instead
 * of a word looks like it.
 */
function aligned(was: readonly Letter[], wanted: readonly Wanted[]): (number | undefined)[] {
  const [old, now] = [wordsOf(was), wordsOf(wanted)];
  const found: (number | undefined)[] = [];
  let from = 0;
  let gone = 0;
  for (const { value, added, removed } of diffArrays(old, now, { maxEditLength: MOST_CHANGED }) ?? [
    { value: old, added: false, removed: true },
    { value: now, added: true, removed: false },
  ]) {
    const letters = value.reduce((sum, word) => sum + [...word].length, 0);
    if (removed) {
      from += letters;
      gone = letters;
    } else {
      for (let at = 0; at < letters; at++)
        found.push(!added ? from++ : gone > 0 ? from - gone + Math.min(at, gone - 1) : undefined);
      gone = 0;
    }
  }
  return found;
}
const wordsOf = (letters: readonly { sign: string }[]): string[] =>
  letters
    .map(({ sign }) => sign)
    .join('')
    .match(/[\p{L}\p{N}\p{M}]+|[^]/gu) ?? [];

const nextLetter = (letters: readonly Letter[], origins: readonly (number | undefined)[], at: number) => {
  const next = origins.slice(at).find((origin) => origin !== undefined && letters[origin]?.run);
  return next === undefined ? letters.findLast(({ run }) => run) : letters[next];
};

function linkTag(href: string | undefined, old: WordLink | undefined, around: Surroundings): string {
  // A link that leads nowhere stays with its letters.
  if (old && (old.href === '' || old.href === href)) return old.tag;
  return href === undefined ? '' : around.link(href);
}

function objectXml(node: RichNode, around: Surroundings): string {
  const key = node.attrs?.['key'];
  const kept = typeof key === 'string' ? around.kept(key)?.kept : undefined;
  if (node.type === KEPT_INLINE) return kept?.xml ?? '';
  if (!kept?.image) return around.image(node.attrs ?? {});
  const alt = String(node.attrs?.['alt'] ?? '');
  const xml =
    alt === kept.image.alt
      ? kept.xml
      : kept.xml.replace(/<wp:docPr\b[^>]*>/, (tag) => withAttribute(tag, 'descr', alt));
  return xml;
}

function runXml({ run, looks, linked, text }: Writing, linkLook: string): string {
  const properties = lookedLike(run?.properties ?? '', run?.looks ?? [], looks, {
    add: linked === 'added' ? linkLook : '',
    drop: linked === 'gone' ? linkLook : '',
  });
  const parts = text
    .split(/([\n\t\u2011\u00ad])/)
    .filter((part) => part !== '')
    .map((part) => SIGNS[part] ?? textXml(part, run?.keepsBlanks ?? false));
  return `${run?.tag ?? '<w:r>'}${properties}${parts.join('')}</w:r>`;
}
const textXml = (text: string, keepsBlanks: boolean): string =>
  `<w:t${keepsBlanks || /^\s|\s$/.test(text) ? ' xml:space="preserve"' : ''}>${toXml(text)}</w:t>`;
const SIGNS: Readonly<Record<string, string>> = {
  '\n': '<w:br/>',
  '\t': '<w:tab/>',
  '\u2011': '<w:noBreakHyphen/>',
  '\u00ad': '<w:softHyphen/>',
};

const ON: Readonly<Record<Look, string>> = {
  bold: '<w:b/>',
  italic: '<w:i/>',
  underline: '<w:u w:val="single"/>',
  strike: '<w:strike/>',
};
/** Also what says the same for other scripts, and what says the opposite. */
const ELEMENTS: Readonly<Record<Look, RegExp>> = {
  bold: /<w:(?:b|bCs)(?:\s[^>]*)?\/>/g,
  italic: /<w:(?:i|iCs)(?:\s[^>]*)?\/>/g,
  underline: /<w:u(?:\s[^>]*)?\/>/g,
  strike: /<w:strike(?:\s[^>]*)?\/>/g,
};

/** The properties of a run that looks otherwise in some ways; what else they say stays as it is written. */
function lookedLike(
  properties: string,
  was: readonly Look[],
  now: readonly Look[],
  { add, drop }: { add: string; drop: string },
): string {
  const changed = LOOK_NAMES.filter((look) => was.includes(look) !== now.includes(look));
  if (changed.length === 0 && add === '' && drop === '') return properties;
  let within =
    properties === '' || properties.endsWith('/>')
      ? ''
      : properties.slice('<w:rPr>'.length, -'</w:rPr>'.length);
  if (drop !== '') within = within.replace(drop, '').replace('<w:u w:val="single"/>', '');
  for (const look of changed) within = within.replace(ELEMENTS[look], '');
  const looks = changed.filter((look) => now.includes(look)).map((look) => ON[look]);
  // Styles and fonts come first (17.3.2.28).
  const head = /^(?:<w:rStyle\b[^>]*\/>)?(?:<w:rFonts\b[^>]*\/>)?/.exec(within)![0];
  const isStyled = head.includes('<w:rStyle') && add.includes('<w:rStyle');
  const all = `${isStyled ? '' : add}${head}${looks.join('')}${within.slice(head.length)}`;
  return all === '' ? '' : `<w:rPr>${all}</w:rPr>`;
}
