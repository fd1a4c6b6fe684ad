import { pageWords as kind } from '../../../core/plan/kinds/page-words.ts';
import { proposePageWords } from '../page-words.ts';
import { planned } from './kind.ts';

export const pageWords = planned(kind, (site, request, { progress }) =>
  proposePageWords(site, request.places, progress),
);
