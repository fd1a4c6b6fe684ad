import { trim } from '../text/cut.ts';
import { tokenize, tokenTypes } from 'css-tree/tokenizer';
import { attributeAtoms, charAtoms, cssAtoms, offsetsOf, textOf } from './atoms.ts';
import type { Reference, Writing } from './model.ts';
import type { Source } from './source.ts';

/** An address found in CSS: offsets into the text that was tokenized. */
interface CssAddress {
  start: number;
  end: number;
  place: string;
  quoted: boolean;
}

/**
 * Addresses in CSS text: url() quoted or not, the strings of image-set(), and @import; by the tokenizer of
 * CSS Syntax Level 3. Not @namespace (a name, never fetched), not comments.
 */
function findAddresses(text: string): CssAddress[] {
  const found: CssAddress[] = [];
  const functions: string[] = [];
  let atRule = '';
  tokenize(text, (type, start, end) => {
    switch (type) {
      case tokenTypes.WhiteSpace:
      case tokenTypes.Comment:
        return;
      case tokenTypes.AtKeyword:
        atRule = text.slice(start + 1, end).toLowerCase();
        return;
      case tokenTypes.Semicolon:
      case tokenTypes.LeftCurlyBracket:
        atRule = '';
        return;
      case tokenTypes.Url: {
        if (atRule === 'namespace') return;
        // The tokenizer's: url( … ), without the parenthesis where the file ends before it.
        const inner = text.slice(start + 4, text[end - 1] === ')' ? end - 1 : end);
        const address = trim(inner, ' \t\r\n\f');
        if (address === '') return;
        const from = text.indexOf(address, start + 4);
        found.push({
          start: from,
          end: from + address.length,
          place: placeOf(atRule, 'url()'),
          quoted: false,
        });
        return;
      }
      case tokenTypes.Function:
        functions.push(text.slice(start, end - 1).toLowerCase());
        return;
      case tokenTypes.LeftParenthesis:
        functions.push('(');
        return;
      case tokenTypes.RightParenthesis:
        functions.pop();
        return;
      case tokenTypes.String: {
        if (atRule === 'namespace' || end - start < 3) return;
        const inside = functions.at(-1);
        const isAddress =
          inside === 'url' ||
          inside === 'src' ||
          inside === 'image' ||
          inside === 'image-set' ||
          inside === '-webkit-image-set' ||
          (atRule === 'import' && inside === undefined);
        if (!isAddress) return;
        const closed = text[end - 1] === text[start];
        const place = placeOf(atRule, inside === undefined ? '' : inside === 'src' ? 'url()' : `${inside}()`);
        found.push({ start: start + 1, end: closed ? end - 1 : end, place, quoted: true });
        return;
      }
    }
  });
  return found;
}

function placeOf(atRule: string, inside: string): string {
  return atRule === 'import' ? 'css @import' : `css ${inside}`;
}

/** References in a stretch of CSS source (a style sheet, or the text of a style element). */
export function cssReferences(source: Source, start: number, end: number): Omit<Reference, 'line'>[] {
  return findAddresses(source.raw.slice(start, end)).map((address) => {
    const from = start + address.start;
    const to = start + address.end;
    const writing: Writing = address.quoted ? 'css-string' : 'css-bare';
    return {
      start: from,
      end: to,
      place: address.place,
      writing,
      url: textOf(cssAtoms(charAtoms(source, from, to))),
    };
  });
}

/** References in a style attribute, whose value lies between two byte offsets. */
export function styleAttributeReferences(
  source: Source,
  start: number,
  end: number,
): Omit<Reference, 'line'>[] {
  const atoms = attributeAtoms(charAtoms(source, start, end));
  const offsets = offsetsOf(atoms, end);
  return findAddresses(textOf(atoms)).map((address) => {
    const from = offsets[address.start]!;
    const to = offsets[address.end]!;
    const writing: Writing = address.quoted ? 'attribute-css-string' : 'attribute-css-bare';
    const url = textOf(cssAtoms(attributeAtoms(charAtoms(source, from, to))));
    return { start: from, end: to, place: address.place, writing, url };
  });
}
