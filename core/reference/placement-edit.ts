import type { PageElement } from './page-element.ts';
import { escapeText, escapeValue, type AddressStyle } from './markup.ts';
import { htmlPlacement, markdownPlacement, neighbourOf, urlToken, withLine, type Unit } from './placement.ts';
import type { Source } from './source.ts';

/** One change of a placement that stands on a page. `start`: byte offset of its address. */
export type PlacementEdit =
  /** Attributes of the placement's own element, or of what holds it and its caption; null: taken away. */
  | { do: 'attributes'; start: number; of?: 'outer'; set: Readonly<Record<string, string | null>> }
  /** Declarations in the style of the element that begins there. */
  | { do: 'style'; start: number; set: Readonly<Record<string, string>> }
  /** The caption of its figure; where there is none, a figure is put around it. Null: it is taken away. */
  | { do: 'caption'; start: number; text: string | null }
  /** Words more in its caption, with markup and all that stands there; where there is none, they are one. */
  | { do: 'add-caption'; start: number; text: string }
  | { do: 'link-text'; start: number; text: string }
  /** The video's captions: a track in a language; null: every track of captions is taken away. */
  | { do: 'captions'; start: number; track: { src: string; language: string; label: string } | null }
  /** The placement goes, with what holds only it; of a link in a text, the words stay. */
  | { do: 'remove'; start: number; end: number }
  /** The placement changes places with what stands before or after it. */
  | { do: 'order'; start: number; to: 'up' | 'down' }
  /** A style sheet is linked in the head. */
  | { do: 'sheet'; href: string };

const KINDS = new Set<string>([
  'attributes',
  'style',
  'caption',
  'add-caption',
  'link-text',
  'captions',
  'remove',
  'order',
  'sheet',
]);
export const isPlacementEdit = <Edit extends { do: string }>(
  edit: Edit | PlacementEdit,
): edit is PlacementEdit => KINDS.has(edit.do);

/** Bytes that are replaced: with text, which is still to be encoded, or with bytes of the page itself. */
interface Change extends Unit {
  text?: string;
  raw?: string;
  place: string;
}
type Made = { changes: Change[] } | { refused: string };

/** The bytes that an edit of a placement changes. @param html else it is Markdown, or a style sheet @param lineOf line of a byte offset, for what is refused */
export function placementChanges(
  html: boolean,
  source: Source,
  elements: readonly PageElement[],
  edit: PlacementEdit,
  style: AddressStyle,
  lineOf: (offset: number) => number,
): Made {
  if (edit.do === 'sheet') return linkedSheet(elements, style.of(edit.href));
  const at = `line ${lineOf(edit.start)}`;
  if (edit.do === 'remove') {
    const token = urlToken(source, edit.start, edit.end);
    if (token) return { changes: [{ ...token, text: 'none', place: 'css url()' }] };
  }
  if (!html) return edit.do === 'style' ? { refused: onlyHtml(at) } : markdownChanges(source, edit, at);
  if (edit.do === 'style') {
    const element = elements.find(({ tag }) => tag.start <= edit.start && edit.start < tag.end);
    return element ? styleChanges(source, element, edit.set, at) : { refused: nothingThere(at) };
  }
  const found = htmlPlacement(elements, edit.start);
  if (!found) return { refused: nothingThere(at) };
  const { element, unit, caption, link, inText } = found;
  switch (edit.do) {
    case 'attributes': {
      const outer = caption ? elements.find((one) => one.node === caption.node.parentNode) : undefined;
      return { changes: attributeChanges(source, edit.of === 'outer' && outer ? outer : element, edit.set) };
    }
    case 'link-text': {
      if (element.name !== 'a' || !element.whole) return { refused: `At ${at} stands no link with a text.` };
      const inner = insideOf(source, element);
      if (/[<]/.test(source.raw.slice(inner.start, inner.end)))
        return { refused: `At ${at} the link holds more than text, so its text cannot be changed here.` };
      return { changes: [{ ...inner, text: escapeText(edit.text), place: 'a text' }] };
    }
    case 'captions':
      return captionTracks(
        source,
        elements,
        element,
        edit.track && { ...edit.track, src: style.of(edit.track.src) },
        at,
      );
    case 'caption':
      return captionChanges(source, elements, found, edit.text, at);
    case 'add-caption':
      if (!caption) return captionChanges(source, elements, found, edit.text, at);
      return caption.whole
        ? { changes: [addedWords(source, insideOf(source, caption), edit.text)] }
        : { refused: notClosed(at) };
    case 'remove': {
      if (inText && link?.whole) {
        const inner = insideOf(source, link);
        return {
          changes: [
            { start: link.whole.start, end: inner.start, text: '', place: 'a' },
            { start: inner.end, end: link.whole.end, text: '', place: 'a' },
          ],
        };
      }
      if (!unit) return { refused: notClosed(at) };
      if (['html', 'head', 'body', 'style', 'script', 'link', 'meta'].includes(element.name))
        return {
          refused: `At ${at} it is no image, film or link of its own: take it out in the page yourself.`,
        };
      return { changes: [{ ...withLine(source, unit), text: '', place: unit.name }] };
    }
    case 'order': {
      if (!unit) return { refused: notClosed(at) };
      return exchanged(source, unit, neighbourOf(elements, unit, edit.to), edit.to, unit.name);
    }
  }
}

const nothingThere = (at: string) => `At ${at} no element begins that could be changed here.`;
const notClosed = (at: string) =>
  `At ${at} an element is not closed, so it is not sure what belongs to it. Close it first.`;
const onlyHtml = (at: string) => `At ${at} this cannot be written: Markdown has no place for it.`;

/** Words at the end of what an element holds, as a sentence of their own. */
function addedWords({ raw }: Source, { start, end }: Unit, text: string): Change {
  const there = raw.slice(start, end).trimEnd();
  const said = there.replace(/<[^<>]*>/g, '').trimEnd();
  const stop = said === '' ? '' : /[.!?…]$/.test(said) ? ' ' : '. ';
  return {
    start: start + there.length,
    end: start + there.length,
    text: `${stop}${escapeText(text)}`,
    place: 'figcaption',
  };
}

function markdownChanges(source: Source, edit: PlacementEdit, at: string): Made {
  if (edit.do !== 'remove' && edit.do !== 'order' && edit.do !== 'add-caption')
    return { refused: onlyHtml(at) };
  const found = markdownPlacement(source, edit.start);
  if (!found)
    return {
      refused: `At ${at} it does not stand in the text as an image or a link, so it cannot be changed here.`,
    };
  const { span, inner, block, kind } = found;
  if (edit.do === 'add-caption') {
    if (!block)
      return {
        refused: `At ${at} it stands in a text, where no caption can be. Put it on a line of its own first.`,
      };
    const line = source.raw.includes('\r\n') ? '\r\n' : '\n';
    const words = edit.text.replace(/[\\`*_[\]<>~!]/g, '\\$&');
    return {
      changes: [{ start: block.end, end: block.end, text: `${line}${line}*${words}*`, place: 'md text' }],
    };
  }
  if (edit.do === 'order')
    return block
      ? exchanged(source, block, edit.to === 'up' ? found.up : found.down, edit.to, `md ${kind}`)
      : { refused: `At ${at} it stands in a text, so it has no place among blocks.` };
  if (block) {
    const { start, end } = withLine(source, block);
    const blank = /^[ \t]*\r?\n/.exec(source.raw.slice(end));
    return { changes: [{ start, end: end + (blank?.[0].length ?? 0), text: '', place: `md ${kind}` }] };
  }
  if (inner)
    return {
      changes: [
        { start: span.start, end: inner.start, text: '', place: 'md link' },
        { start: inner.end, end: span.end, text: '', place: 'md link' },
      ],
    };
  return { changes: [{ ...span, text: '', place: `md ${kind}` }] };
}

function exchanged(
  { raw }: Source,
  unit: Unit,
  other: Unit | undefined,
  to: 'up' | 'down',
  place: string,
): Made {
  if (!other) return { refused: `It is the ${to === 'up' ? 'first' : 'last'} here already.` };
  const [first, second] = to === 'up' ? [other, unit] : [unit, other];
  const text = (one: Unit) => raw.slice(one.start, one.end);
  return {
    changes: [
      {
        start: first.start,
        end: second.end,
        raw: text(second) + raw.slice(first.end, second.start) + text(first),
        place,
      },
    ],
  };
}

/** What stands between the tags of a closed element. */
function insideOf({ raw }: Source, { tag, whole }: PageElement): Unit {
  const end = /<\/[^<>]*>$/.exec(raw.slice(tag.end, whole!.end));
  return { start: tag.end, end: whole!.end - (end?.[0].length ?? 0) };
}

function attributeChanges(
  { raw }: Source,
  element: PageElement,
  set: Readonly<Record<string, string | null>>,
): Change[] {
  const changes: Change[] = [];
  for (const [name, value] of Object.entries(set)) {
    const there = element.attributes.find((one) => one.name === name);
    const place = `${element.name} ${name}`;
    const text = value === null ? '' : `${name}="${escapeValue(value)}"`;
    if (!there) {
      const at = element.tag.start + 1 + element.name.length;
      if (value !== null) changes.push({ start: at, end: at, text: ` ${text}`, place });
    } else if (value === null) {
      const start = there.start - Number(/\s/.test(raw[there.start - 1] ?? ''));
      changes.push({ start, end: there.end, text: '', place });
    } else changes.push({ start: there.start, end: there.end, text, place });
  }
  return changes;
}

/** Declarations in an element's style attribute; those that are there get other values. */
export function styleChanges(
  source: Source,
  element: PageElement,
  set: Readonly<Record<string, string>>,
  at: string,
): Made {
  const place = `${element.name} style`;
  const there = element.attributes.find((one) => one.name === 'style');
  if (!there) {
    const start = element.tag.start + 1 + element.name.length;
    const text = Object.entries(set).map(([name, value]) => `${name}: ${value}`);
    return { changes: [{ start, end: start, text: ` style="${escapeValue(text.join('; '))}"`, place }] };
  }
  if (!there.quoted)
    return { refused: `At ${at} the style is written without quotes. Put it into quotes first.` };
  const quote = source.raw[there.valueStart - 1];
  const written = source.raw.slice(there.valueStart, there.valueEnd);
  const changes: Change[] = [];
  const added: string[] = [];
  for (const [name, value] of Object.entries(set)) {
    const rule =
      quote === "'" ? `${name}: ${value}`.replaceAll("'", '&#39;') : escapeValue(`${name}: ${value}`);
    const old = new RegExp(`(^|;)(\\s*)${name}\\s*:[^;]*`, 'i').exec(written);
    if (!old) {
      added.push(rule);
      continue;
    }
    const start = there.valueStart + old.index + old[1]!.length + old[2]!.length;
    const end = there.valueStart + old.index + old[0].length;
    if (source.raw.slice(start, end) !== rule) changes.push({ start, end, text: rule, place });
  }
  if (added.length > 0) {
    const tidy = written.trimEnd().replace(/;$/, '');
    changes.push({
      start: there.valueStart + tidy.length,
      end: there.valueEnd,
      text: `${tidy === '' ? '' : '; '}${added.join('; ')}`,
      place,
    });
  }
  return { changes };
}

function captionChanges(
  source: Source,
  elements: readonly PageElement[],
  { element, unit, caption }: NonNullable<ReturnType<typeof htmlPlacement>>,
  text: string | null,
  at: string,
): Made {
  if (caption) {
    if (!caption.whole) return { refused: notClosed(at) };
    if (text === null)
      return { changes: [{ ...withLine(source, caption.whole), text: '', place: 'figcaption' }] };
    return { changes: [{ ...insideOf(source, caption), text: escapeText(text), place: 'figcaption' }] };
  }
  if (text === null) return { changes: [] };
  if (!unit) return { refused: notClosed(at) };
  const written = `<figcaption>${escapeText(text)}</figcaption>`;
  const outer = elements.find((one) => one.node === unit.node)!;
  if (unit.name === 'figure') {
    const { end } = insideOf(source, outer);
    return { changes: [{ start: end, end, text: written, place: 'figcaption' }] };
  }
  // A figure is a block: in place of the paragraph that holds nothing else, or within a list item or a block.
  if (unit.name === 'p' || unit.name === 'center') {
    const inner = insideOf(source, outer);
    const attributes = source.raw.slice(outer.tag.start + 1 + outer.name.length, outer.tag.end);
    return {
      changes: [
        { ...outer.tag, raw: `<figure${attributes}`, place: 'figure' },
        { start: inner.end, end: unit.end, text: `${written}</figure>`, place: 'figcaption' },
      ],
    };
  }
  const inner = unit.name === 'li' ? insideOf(source, outer) : unit;
  const holder =
    unit.name === 'li'
      ? 'li'
      : unit.node.parentNode && 'tagName' in unit.node.parentNode
        ? unit.node.parentNode.tagName
        : 'body';
  if (!BLOCK_HOLDERS.has(holder) || (element.node.parentNode === unit.node.parentNode && isAmongWords(unit)))
    return {
      refused: `At ${at} it stands in a text, where no caption can be. Put it on a line of its own first.`,
    };
  return {
    changes: [
      { start: inner.start, end: inner.start, text: '<figure>', place: 'figure' },
      { start: inner.end, end: inner.end, text: `${written}</figure>`, place: 'figcaption' },
    ],
  };
}

/** Elements that may hold a figure among other blocks. */
const BLOCK_HOLDERS = new Set(
  'body main article section aside div header footer blockquote li td th dd'.split(' '),
);

function isAmongWords({ node }: { node: PageElement['node'] }): boolean {
  const siblings = node.parentNode && 'childNodes' in node.parentNode ? node.parentNode.childNodes : [];
  return siblings.some((one) => one.nodeName === '#text' && 'value' in one && one.value.trim() !== '');
}

function captionTracks(
  source: Source,
  elements: readonly PageElement[],
  film: PageElement,
  track: { src: string; language: string; label: string } | null,
  at: string,
): Made {
  if (film.name !== 'video' && film.name !== 'audio')
    return { refused: `At ${at} stands no film and no sound.` };
  if (!film.whole) return { refused: notClosed(at) };
  const there = elements.filter(
    (one) =>
      one.name === 'track' &&
      one.node.parentNode === film.node &&
      /^(?:captions|subtitles)?$/i.test(
        one.attributes.find((attribute) => attribute.name === 'kind')?.text ?? '',
      ),
  );
  const same = (one: PageElement) =>
    track === null ||
    one.attributes.find((attribute) => attribute.name === 'srclang')?.text === track.language;
  const changes: Change[] = there
    .filter(same)
    .map(({ tag }) => ({ ...withLine(source, tag), text: '', place: 'track src' }));
  if (track) {
    const { end } = insideOf(source, film);
    const first = there.every(same);
    changes.push({
      start: end,
      end,
      text: `<track kind="captions" src="${escapeValue(track.src)}" srclang="${escapeValue(track.language)}" label="${escapeValue(track.label)}"${first ? ' default' : ''}>`,
      place: 'track src',
    });
  }
  return { changes };
}

function linkedSheet(elements: readonly PageElement[], href: string): Made {
  const inHead = elements.filter((one) => one.parent === 'head');
  const last = inHead.at(-1);
  const end = last?.whole?.end ?? last?.tag.end;
  if (end === undefined)
    return { refused: 'The page has no head in which a style sheet can be linked. Give it a title first.' };
  return {
    changes: [
      { start: end, end, text: `<link rel="stylesheet" href="${escapeValue(href)}">`, place: 'link href' },
    ],
  };
}
