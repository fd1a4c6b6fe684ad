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
  'duration',
  'placements',
  'title',
  'licence-end',
] as const;
export type Sort = (typeof SORTS)[number];
