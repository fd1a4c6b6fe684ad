import type { ItemView } from '../../../api/items.ts';
import { altFindings } from '../../../core/describe/alt.ts';
import { isFileName } from '../../../core/describe/in-line.ts';
import { needsAlt } from '../../../core/describe/record.ts';
import type { Column } from './columns.ts';

/** What is to be said of a cell by the rules of its column, in a sentence; '' for nothing. */
export function cellFault(item: ItemView, column: Column, today: string): string {
  const { words } = item;
  switch (column.key) {
    case 'name':
      return item.marks.named ? '' : 'The name needs care: the record says why.';
    case 'alt':
      if (!needsAlt(item)) return '';
      return altFindings({ path: item.path, words, contexts: [], sameAlt: [], textInside: '' })
        .map((one) => one.says)
        .join(' ');
    case 'title':
      return isFileName(words.title) ? 'The title is a file name.' : '';
    case 'caption':
      return words.caption !== '' && words.caption === words.alt
        ? 'The caption says the same as the alt text.'
        : '';
    case 'licenceEnd':
      return words.licenceEnd !== '' && words.licenceEnd < today ? 'The licence has ended.' : '';
    default:
      return column.cell?.fault?.(column.text(item)) ?? '';
  }
}
