import { TEXT_FIELD_KEYS } from '../describe/fields.ts';

/** The orders in which items are shown. 'rank': how well they fit the words; without words as 'kind'. */
export const SORTS = [
  'rank',
  'kind',
  'name',
  'path',
  'added',
  'changed',
  'bytes',
  'width',
  'height',
  'duration',
  'placements',
  'seen',
  'tags',
  'by',
  'owner',
  ...TEXT_FIELD_KEYS,
] as const;
export type Sort = (typeof SORTS)[number];

/** What items are put together by. An item that several pages show stands with each of them. */
export const GROUPINGS = ['month', 'folder', 'kind', 'page'] as const;
export type Grouping = (typeof GROUPINGS)[number];
