import { type ItemList, SuggestQuery, Suggestions } from '../../../api/items.ts';
import { fold } from '../../../core/find/marks.ts';
import { filter } from '../../../core/paced.ts';
import { ALL_HERE } from '../../db/item-query.ts';
import { allTagCounts } from '../../db/tags.ts';
import { breathe } from '../../workers/breathe.ts';
import type { Services } from '../context.ts';
import { defineRoute, type Route } from '../route.ts';

/** So many of each are offered. */
const ITEMS = 6;
const OTHERS = 4;

/** What the find box offers while a person types. */
export const suggestionRoutes = ({ site }: Services): Route[] => [
  defineRoute({
    method: 'get',
    path: '/suggestions',
    right: 'look',
    query: SuggestQuery,
    answer: Suggestions,
    handle: async ({ query: { q } }) => {
      const words = q.split(/\s+/).filter((word) => word !== '');
      if (words.length === 0) return { total: 0, items: [], folders: [], tags: [], people: [] };
      const { total, items } = JSON.parse(
        Buffer.from(
          await site.finder.listJson(site.reader, { ...ALL_HERE, words, sort: 'rank', limit: ITEMS }),
        ).toString(),
      ) as ItemList;
      const parts = words.map(fold);
      const fits = (name: string) => parts.every((part) => fold(name).includes(part));
      const sense = site.tags.sense();
      const spelt = new Set(
        sense.spellings.filter((one) => fits(one.spelling)).map((one) => one.tag.toLowerCase()),
      );
      const tags = await filter(
        await allTagCounts(site.reader),
        breathe,
        (tag) => fits(tag.name) || spelt.has(tag.name.toLowerCase()),
      );
      return {
        total,
        items,
        folders: await site.finder.foldersNamed(site.reader, parts, OTHERS),
        tags: tags.sort((a, b) => b.items - a.items).slice(0, OTHERS),
        people: site.people
          .all()
          .map((person) => person.name)
          .filter(fits)
          .slice(0, OTHERS),
      };
    },
  }),
];
