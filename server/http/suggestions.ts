import { filter } from '../../core/paced.ts';
import { allTagCounts } from '../store/tags.ts';
import { breathe } from '../work/breathe.ts';
import { SuggestQuery, type ItemList, type Suggestions } from '../../api/items.ts';
import { fold } from '../../core/find/marks.ts';
import { ALL_HERE } from '../store/item-query.ts';
import type { Route, Services } from './app.ts';

/** So many of each are offered. */
const ITEMS = 6;
const OTHERS = 4;

/** What the find box offers while a person types. */
export function suggestionRoutes(router: Route, { site }: Services): void {
  router.get('/suggestions', async (ctx) => {
    const { q } = SuggestQuery.parse(ctx.query);
    const words = q.split(/\s+/).filter((word) => word !== '');
    if (words.length === 0) {
      ctx.body = { total: 0, items: [], folders: [], tags: [], people: [] } satisfies Suggestions;
      return;
    }
    const { total, items } = JSON.parse(
      Buffer.from(
        await site.items.listJson(site.reader, { ...ALL_HERE, words, sort: 'rank', limit: ITEMS }),
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
    ctx.body = {
      total,
      items,
      folders: await site.items.foldersNamed(site.reader, parts, OTHERS),
      tags: tags.sort((a, b) => b.items - a.items).slice(0, OTHERS),
      people: site.people
        .all()
        .map((person) => person.name)
        .filter(fits)
        .slice(0, OTHERS),
    } satisfies Suggestions;
  });
}
