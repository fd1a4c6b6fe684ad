import { isItemPath } from '../address/kinds.ts';
import { extensionOf, type SitePath } from '../address/path.ts';
import { weight } from '../text/format.ts';

/** A file that a link leads to. */
export interface LinkedFile {
  path: SitePath;
  bytes: number;
}

/** What a link to a document says, where the site has not set another form: “Programme 2026 (PDF, 340 kB)”. */
export const LINK_FORM = '{title} ({format}, {size})';
/** Characters of a form. */
export const LONGEST_FORM = 120;

/** What a link to a document says. @param form with {title}, and {format} and {size} where the site wants them */
export const linkTextOf = (title: string, { path, bytes }: LinkedFile, form = LINK_FORM): string => {
  const parts = { title, format: extensionOf(path).slice(1).toUpperCase(), size: weight(bytes) };
  return form.replace(/\{(title|format|size)\}/g, (_whole, part: keyof typeof parts) => parts[part]);
};

/** What is wrong with a form; undefined: nothing. What it tells of a file can be brought up to date later. */
export function linkFormFault(form: string): string | undefined {
  if (!form.includes('{title}')) return 'Put {title} where the title of the document is to stand.';
  const unknown = /\{(?!(?:title|format|size)\})[^{}]*\}/.exec(form)?.[0];
  if (unknown) return `“${unknown}” can’t be filled in. Use {title}, {format} and {size}.`;
  if (!/\{(format|size)\}/.test(form)) return undefined;
  const says = (bytes: number) => linkTextOf('Programme', { path: 'a.pdf', bytes }, form);
  return renewedLinkText(says(340_000), { path: 'a.pdf', bytes: 1_200_000 }) === says(1_200_000)
    ? undefined
    : 'Write format and size together in brackets, as ({format}, {size}), so that they can be brought up to date.';
}

/** Format and size as a link tells them, in whichever way the site writes that: (PDF, 340 kB), (pdf 0,3 MB), [PDF; 340KB]. */
const FACTS = /([([])([a-z][a-z0-9]{1,4})([,;:]? ?)(\d{1,6})(?:([.,])(\d{1,2}))?( ?)(B|kB|KB|MB|GB)([)\]])/i;
const UNITS: Record<string, number> = { b: 1, kb: 1e3, mb: 1e6, gb: 1e9 };

/**
 * A link's text with format and size as the file has them now, written as they were. Undefined: it tells neither, or both are right as
 * far as it tells them.
 */
export function renewedLinkText(text: string, { path, bytes }: LinkedFile): string | undefined {
  const found = FACTS.exec(text);
  if (!found) return undefined;
  const [all, open, format = '', gap, whole = '', point, part = '', blank, unit = '', close] = found;
  if (!isItemPath(`x.${format.toLowerCase()}`)) return undefined;
  const said = Number(`${whole}.${part || '0'}`);
  const decimals = part.length;
  const now = extensionOf(path).slice(1);
  const sameFormat = format.toLowerCase() === now || bothJpeg(format.toLowerCase(), now);
  // 340 kB may be counted in thousands or in 1,024s.
  const size = UNITS[unit.toLowerCase()]!;
  const binary = 1024 ** Math.round(Math.log10(size) / 3);
  const sameSize = [size, binary].some((one) => (bytes / one).toFixed(decimals) === said.toFixed(decimals));
  if (sameFormat && sameSize) return undefined;
  const [number = '', newUnit = ''] = weight(bytes).split(' ');
  const written = sameSize
    ? `${whole}${point ?? ''}${part}${blank}${unit}`
    : `${point === ',' ? number.replace('.', ',') : number}${blank}${unit === 'KB' && newUnit === 'kB' ? 'KB' : newUnit}`;
  const name = sameFormat ? format : format === format.toLowerCase() ? now : now.toUpperCase();
  return text.replace(all, () => `${open}${name}${gap}${written}${close}`);
}

const bothJpeg = (one: string, other: string) => [one, other].every((name) => /^jpe?g$/.test(name));
