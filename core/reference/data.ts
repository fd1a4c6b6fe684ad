import { visit } from 'jsonc-parser';
import { isScalar, parseAllDocuments, visit as visitYaml } from 'yaml';
import { refuseDeepBrackets, refuseDeepLines } from '../text/depth.ts';
import { charAtoms, escapedAtoms, singleQuotedAtoms, textOf } from './atoms.ts';
import { looksLikeFileAddress } from './file-address.ts';
import type { Reference, Writing } from './model.ts';
import type { Source } from './source.ts';

type Found = Omit<Reference, 'line'>;

/** How a value of a data language is written between its quotes. */
const ATOMS = {
  escaped: escapedAtoms,
  'single-quoted': singleQuotedAtoms,
  plain: (atoms: ReturnType<typeof charAtoms>) => atoms,
} satisfies Partial<Record<Writing, unknown>>;

function value(
  source: Source,
  start: number,
  end: number,
  writing: keyof typeof ATOMS,
  place: string,
): Found[] {
  const raw = source.raw.slice(start, end);
  // The quick look first: most values of data are no addresses.
  if (!/[./\\]/.test(raw) || /[\r\n]/.test(raw)) return [];
  const url = textOf(ATOMS[writing](charAtoms(source, start, end)));
  return looksLikeFileAddress(url) ? [{ start, end, url, place, writing, loose: true }] : [];
}

/** A path of keys as a JSON pointer (RFC 6901). */
function pointer(path: readonly (string | number)[]): string {
  return path.map((part) => `/${String(part).replaceAll('~', '~0').replaceAll('/', '~1')}`).join('');
}

/**
 * String values that are addresses, in a stretch of JSON (RFC 8259; comments and stray commas are passed over).
 * Keys are none. Each place is 'json' and the value's JSON pointer.
 */
export function jsonReferences(
  source: Source,
  from = source.bom,
  to = source.raw.length,
  language = 'json',
): Found[] {
  const found: Found[] = [];
  const text = source.raw.slice(from, to);
  refuseDeepBrackets(text, true);
  visit(
    text,
    {
      onLiteralValue(literal, offset, length, _line, _character, path) {
        if (typeof literal !== 'string' || length < 3) return;
        const start = from + offset + 1;
        found.push(...value(source, start, start + length - 2, 'escaped', `${language} ${pointer(path())}`));
      },
    },
    { allowTrailingComma: true },
  );
  return found;
}

/** Scalar values that are addresses, in a stretch of YAML 1.2, of any number of documents. Keys are none. */
export function yamlReferences(
  source: Source,
  from = source.bom,
  to = source.raw.length,
  language = 'yaml',
): Found[] {
  const found: Found[] = [];
  const text = source.raw.slice(from, to);
  refuseDeepBrackets(text, false);
  refuseDeepLines(text);
  for (const document of parseAllDocuments(text, {
    logLevel: 'silent',
    // What would be said of each fault takes time that grows with the text, and nobody reads it.
    prettyErrors: false,
    uniqueKeys: false,
  })) {
    if (!('contents' in document)) continue;
    visitYaml(document, {
      Scalar(key, node, path) {
        if (key === 'key' || typeof node.value !== 'string' || !node.range) return;
        const keys = path.flatMap((one) =>
          'key' in one && isScalar(one.key) ? [String(one.key.value as string)] : [],
        );
        const start = from + node.range[0];
        const end = from + node.range[1];
        const place = `${language} ${pointer(keys)}`;
        if (node.type === 'PLAIN') found.push(...value(source, start, end, 'plain', place));
        else if (node.type === 'QUOTE_DOUBLE')
          found.push(...value(source, start + 1, end - 1, 'escaped', place));
        else if (node.type === 'QUOTE_SINGLE')
          found.push(...value(source, start + 1, end - 1, 'single-quoted', place));
      },
    });
  }
  return found;
}

/** Values in quotes that are addresses, in lines `key = "value"` as TOML has them, lists on one line too. */
export function tomlReferences(source: Source, from: number, to: number, language: string): Found[] {
  const found: Found[] = [];
  const lines = /^[ \t]*([\w.-]+)[ \t]*=(.*)$/gm;
  const text = source.raw.slice(from, to);
  for (let line = lines.exec(text); line; line = lines.exec(text)) {
    const at = from + line.index + line[0].length - line[2]!.length;
    for (const quoted of line[2]!.matchAll(/"((?:\\.|[^"\\])*)"|'([^']*)'/g)) {
      const start = at + quoted.index + 1;
      const end = start + quoted[0].length - 2;
      const writing = quoted[1] === undefined ? 'plain' : 'escaped';
      found.push(...value(source, start, end, writing, `${language} /${line[1]!}`));
    }
  }
  return found;
}
