import type { FoundGroups } from '../../../api/items.ts';
import { sentenceOf } from '../../../core/find/holds.ts';
import type { Grouping } from '../../../core/find/sorts.ts';

export interface Group {
  /** Index of its first item, and of the one after its last. */
  from: number;
  to: number;
  title: string;
  /** What stands softly beside the title. */
  more: string;
}

export const GROUPING_TEXTS: [Grouping | '', string][] = [
  ['', 'No grouping'],
  ['month', 'By month'],
  ['folder', 'By folder'],
  ['kind', 'By file type'],
  ['page', 'By page'],
];
const KINDS: Record<string, string> = {
  image: 'Images',
  video: 'Videos',
  audio: 'Audio',
  document: 'Documents',
  other: 'Other files',
};

/** Groups as they are headed. */
export function headed(groups: FoundGroups['groups'], by: Grouping, length: number): Group[] {
  return groups.map(({ name, from, title }, at) => {
    const to = groups[at + 1]?.from ?? length;
    switch (by) {
      case 'month':
        return {
          from,
          to,
          title: sentenceOf({ test: 'added', value: name, not: false }).replace('added in ', ''),
          more: '',
        };
      case 'folder':
        return { from, to, title: name || 'The site’s root', more: '' };
      case 'kind':
        return { from, to, title: KINDS[name] ?? name, more: '' };
      case 'page':
        return name === ''
          ? { from, to, title: 'On no page', more: '' }
          : { from, to, title: title ?? name, more: title === name ? '' : name };
    }
  });
}
