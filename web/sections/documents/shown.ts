import type { ItemView } from '../../../api/items.ts';
import { api } from '../../api/client.ts';
import { useSite } from '../../stores/site.ts';
import type { RichFormat, RichTool } from './rich-format.ts';

/** What texts of the site's own pages can hold. */
export const MARKUP_TOOLS: readonly RichTool[] = [
  'Bold',
  'Italic',
  'Strikethrough',
  'Code',
  'Bulleted list',
  'Numbered list',
  'Quotation',
  'Horizontal line',
  'Link …',
  'Image …',
  'Table',
];

/** An image of the library as pages show it; undefined: it has no address on the site. */
export async function placedImage({ id, words, width, height }: ItemView): ReturnType<RichFormat['image']> {
  const { text } = await api.snippet(id, 'plain', 'full');
  if (text === null) return undefined;
  return { src: text, alt: words.alt, ...(width && height ? { width, height } : {}) };
}

/** Where the images of a text are shown from, by their addresses in it; those of other sites are not fetched. */
export function imageAddress(path: string): (src: string) => string {
  const served = useSite().servedAddress(path);
  return (src) => {
    if (/^(?:[a-z][a-z\d+.-]*:|\/\/)/i.test(src)) return '';
    return URL.canParse(src, served) ? new URL(src, served).href : '';
  };
}

/** Kinds of things, each with how often where that is more than once. */
export const keptList = (all: readonly { what: string; times: number }[]): string =>
  all.map(({ what, times }) => (times === 1 ? what : `${what} (${times.toLocaleString('en')})`)).join(', ');
