import { Tokenizer } from 'htmlparser2';
import { attributeAtoms, charAtoms, textOf } from './atoms.ts';
import { looksLikeFileAddress } from './file-address.ts';
import { embeddedHtml, htmlReferences } from './html.ts';
import { looksLikeMediaAddress } from './srcset.ts';
import type { Reference } from './model.ts';
import type { Source } from './source.ts';

type Found = Omit<Reference, 'line'>;

/** Names of a thing, not ways to it, although they look like addresses. */
const NAMES = /^(?:guid|id|(?:.*:)?identifier)$/i;
/** Elements of feeds (RSS 2.0, RFC 4287) whose text is HTML, written with character references or as CDATA. */
const HTML_WITHIN =
  /^(?:description|content|summary|content:encoded|(?:media|itunes):(?:description|summary)|.*:html)$/i;

/**
 * Addresses in XML: attributes and the text of elements, and the HTML within feeds. Comments, processing instructions and
 * declarations hold none; names of things (guid, id) are none.
 */
export function xmlReferences(source: Source, links = false): { title: string; references: Found[] } {
  const raw = source.bom ? source.raw.slice(source.bom) : source.raw;
  const at = source.bom;
  const found: Found[] = [];
  const path: string[] = [];
  let base: string | undefined;
  let name = '';
  let attribute = '';
  let textStart = -1;
  let title = '';
  const nothing = () => undefined;

  const single = (start: number, end: number, place: string) => {
    const url = textOf(attributeAtoms(charAtoms(source, start, end)));
    if (looksLikeFileAddress(url)) found.push({ start, end, url, place, writing: 'attribute' });
  };
  /** The text of an element up to here: an address, or HTML within. */
  const text = (end: number) => {
    if (textStart < 0 || end <= textStart) return;
    const element = path.at(-1) ?? '';
    const whole = raw.slice(textStart, end);
    const trimmed = whole.trim();
    const start = at + textStart + whole.indexOf(trimmed);
    textStart = -1;
    if (trimmed === '') return;
    if (title === '' && /^title$/i.test(element))
      title = textOf(attributeAtoms(charAtoms(source, start, start + trimmed.length)));
    if (HTML_WITHIN.test(element) && trimmed.includes('&lt;'))
      found.push(...embeddedHtml(source, start, start + trimmed.length));
    else if (!NAMES.test(element) && !/\s/.test(trimmed))
      single(start, start + trimmed.length, `xml ${element}`);
  };
  const tokenizer = new Tokenizer(
    { xmlMode: true, decodeEntities: false },
    {
      onopentagname(start, end) {
        text(start - 1);
        name = raw.slice(start, end);
        path.push(name);
      },
      onattribname(start, end) {
        attribute = raw.slice(start, end);
      },
      onattribdata(start, end) {
        if (attribute === 'xml:base' && path.length === 1) base = raw.slice(start, end);
        else if (!/^xmlns|:schemaLocation$/.test(attribute) && !NAMES.test(attribute))
          single(at + start, at + end, `xml ${name} ${attribute}`);
      },
      onattribend: nothing,
      onopentagend(end) {
        textStart = end + 1;
      },
      onselfclosingtag(end) {
        path.pop();
        textStart = end + 1;
      },
      onclosetag(start, end) {
        text(start - 2);
        path.pop();
        textStart = raw.indexOf('>', end) + 1;
      },
      oncdata(start, end, offset) {
        const from = at + start;
        const to = at + end - offset;
        const within = source.raw.slice(from, to);
        if (/<\w/.test(within)) {
          const part: Source = { ...source, bom: 0, raw: within, bytes: source.bytes.subarray(from, to) };
          for (const one of htmlReferences(part, false, links).references)
            found.push({ ...one, start: one.start + from, end: one.end + from });
        } else if (looksLikeMediaAddress(within)) {
          const trimmed = within.trim();
          const begin = from + within.indexOf(trimmed);
          found.push({
            start: begin,
            end: begin + trimmed.length,
            url: trimmed,
            place: `xml ${path.at(-1) ?? ''}`,
            writing: 'plain',
          });
        }
        textStart = -1;
      },
      oncomment: () => void (textStart = -1),
      onprocessinginstruction: () => void (textStart = -1),
      ondeclaration: () => void (textStart = -1),
      ontext: nothing,
      ontextentity: nothing,
      onattribentity: nothing,
      onend: nothing,
    },
  );
  tokenizer.write(raw);
  tokenizer.end();
  if (base !== undefined) for (const one of found) one.base = base;
  return { title, references: found };
}
