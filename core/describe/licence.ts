import type { Words } from './fields.ts';

/** Whether a licence wants its credit near the image: as those from a bank say it, and the open licences that ask for attribution. */
export const asksForCredit = (licence: string): boolean =>
  /\bwith credit\b|\battribution\b|\bCC[ -]BY\b/i.test(licence);

/** Whether a licence is for news and reports, and not to sell anything. */
export const isEditorial = (licence: string): boolean =>
  /\bnews and reports only\b|\beditorial(?: use)?(?: only)?\b/i.test(licence);

/** What has to stand near an image; '': nothing, or nobody is named. */
export const creditFor = ({
  licence,
  credit,
  creator,
}: Pick<Words, 'licence' | 'credit' | 'creator'>): string =>
  asksForCredit(licence) ? credit.trim() || creator.trim() : '';

/** Letters and digits alone: marks between names and line breaks don't make a credit another. */
const plain = (text: string): string =>
  text
    .normalize('NFKC')
    .toLowerCase()
    .replace(/[^\p{L}\p{N}]+/gu, ' ')
    .trim();

/** Whether a text tells a credit. */
export const tellsCredit = (text: string, credit: string): boolean =>
  ` ${plain(text)} `.includes(` ${plain(credit)} `);

/** A caption as it stands on a page: with the credit that the licence asks for, once. */
export function captionWithCredit(words: Pick<Words, 'caption' | 'licence' | 'credit' | 'creator'>): string {
  const caption = words.caption.trim();
  const credit = creditFor(words);
  if (credit === '' || tellsCredit(caption, credit)) return caption;
  return caption === '' ? credit : `${caption}${/[.!?…]$/.test(caption) ? '' : '.'} ${credit}`;
}

/** Whether a page sells something, as far as its address and title tell. */
export const isShopPage = (path: string, title: string): boolean =>
  /(?:^|[^\p{L}])(?:shops?|stores?|basket|cart|checkout|products?|order)(?![\p{L}])/iu.test(
    `${path} ${title}`,
  );
