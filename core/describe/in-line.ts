import { renewedLinkText, type LinkedFile } from '../document/link-text.ts';
import type { Words } from './fields.ts';

/** Words as a page has them with one placement. Null: there is no such text. */
export interface PageWords {
  takesAlt: boolean;
  alt: string | null;
  title: string | null;
  linkText: string | null;
}

/** What a page would say if it said what the record says. */
export interface PageChange {
  alt?: string;
  title?: string;
  linkText?: string;
}

/** A text that is a file name: what visitors must never read. */
export function isFileName(text: string): boolean {
  const bare = text.trim();
  return (
    /^[^\s/]+\.(?:jpe?g|png|gif|webp|avif|svg|tiff?|heic|bmp|mp4|webm|mov|mp3|ogg|wav|flac|pdf|docx?|xlsx?|pptx?|odt|ods|odp|csv|zip)$/i.test(
      bare,
    ) || /^(?:img|dsc[nf]?|pict|pxl|mvi|screenshot)[-_ ]?\d{3,}$/i.test(bare)
  );
}

/**
 * How the words of a page are brought in line with the record: its alt text (empty for decorative images), and its title
 * in place of hover and link texts that are file names; and in link texts that tell format and size of a file, what these are by now. Undefined: the page says what the record says, or the record says
 * nothing.
 */
export function inLine(
  page: PageWords,
  words: Pick<Words, 'alt' | 'decorative' | 'title'>,
  file?: LinkedFile,
): PageChange | undefined {
  const change: PageChange = {};
  const described = words.decorative || words.alt.trim() !== '';
  const alt = words.decorative ? '' : words.alt.replace(/\s+/g, ' ').trim();
  if (page.takesAlt && described && page.alt !== alt) change.alt = alt;
  const title = words.title.trim();
  if (title !== '' && page.title !== null && isFileName(page.title)) change.title = title;
  if (page.linkText !== null) {
    const renewed = file && renewedLinkText(page.linkText, file);
    if (title !== '' && isFileName(page.linkText)) change.linkText = title;
    else if (renewed !== undefined) change.linkText = renewed;
  }
  return Object.keys(change).length > 0 ? change : undefined;
}

/** What the record would say if it said what the page says. Undefined: the page has no other alt text. */
export function fromPage(
  page: PageWords,
  words: Pick<Words, 'alt' | 'decorative'>,
): Partial<Words> | undefined {
  if (!page.takesAlt || page.alt === null || isFileName(page.alt)) return undefined;
  if (page.alt.trim() === '') return words.decorative || words.alt !== '' ? undefined : { decorative: true };
  return page.alt === words.alt && !words.decorative ? undefined : { alt: page.alt, decorative: false };
}
