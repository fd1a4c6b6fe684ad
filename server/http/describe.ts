import { Readable } from 'node:stream';
import { z } from 'zod';
import { ItemIds, type DescribeView, type WordDifferences } from '../../api/items.ts';
import { fromPage, inLine } from '../../core/describe/in-line.ts';
import { suggestionsFor } from '../../core/describe/suggest.ts';
import { Recognising, recognised } from '../describe/recognising.ts';
import { allStandings, standingsOf } from '../describe/standings.ts';
import { readWordsTable, wordsTable } from '../describe/tables.ts';
import type { Site } from '../site/site.ts';
import { ALL_HERE } from '../store/item-query.ts';
import type { Item } from '../store/item-rows.ts';
import type { Route, Services } from './app.ts';
import { idOf, LARGE, readBody } from './body.ts';
import { largeJson } from './large-json.ts';
import { viewOf } from '../store/item-view.ts';
import { lookAlikes } from './items.ts';

const SameAlt = z.object({ alt: z.string().max(2000), id: z.coerce.number().int() });
/** So many differences are shown at once; the others come when these are done. */
const SHOWN = 1000;

/** What describing items rests on: where they stand, what is suggested, how pages and records differ. */
export function describeRoutes(router: Route, { site }: Services): void {
  router.get('/items/:id/describe', async (ctx) => {
    ctx.body = await describeView(site, site.items.need(idOf(ctx)));
  });

  const recognising = new Recognising((item) => recognised(site, item));
  /** The text in a picture; null for whoever went on before its turn came. */
  router.post('/items/:id/recognise', async (ctx) => {
    const gone = new AbortController();
    ctx.res.once('close', () => gone.abort());
    ctx.body = { text: (await recognising.text(site.items.need(idOf(ctx)), gone.signal)) ?? null };
  });

  /** Other pictures, with other bytes, that have the same alt text. */
  router.get('/same-alt', (ctx) => {
    const { alt, id } = SameAlt.parse(ctx.query);
    ctx.body = site.items.withAlt(alt, id);
  });

  router.post('/tables/out', async (ctx) => {
    const { ids } = await readBody(ctx, 'TableOutRequest');
    const items = await site.items.many(
      ids === 'all' ? await site.items.idsApart(site.reader, ALL_HERE) : ids,
    );
    ctx.type = 'text/csv';
    ctx.body = Readable.from(wordsTable(site, items), { objectMode: false });
  });

  router.post('/tables/in', async (ctx) => {
    const { text } = await readBody(ctx, 'TableRequest', LARGE);
    ctx.type = 'json';
    ctx.body = largeJson(await readWordsTable(site, text));
  });

  /** Placements whose words are not the record's, of some items or of all. */
  router.get('/word-differences', async (ctx) => {
    const ids = ctx.query['ids'] ? ItemIds.parse(ctx.query).ids : undefined;
    const items = ids && (await site.items.many(await site.families.whole(ids)));
    ctx.body = (await site.jobs.run('words', 'Comparing the words of pages', ({ progress }) =>
      wordDifferences(
        site,
        items?.map((item) => item.path),
        progress,
      ),
    )) satisfies WordDifferences;
  });
}

async function describeView(site: Site, item: Item): Promise<DescribeView> {
  const [{ standings, more }, embedded] = await Promise.all([
    standingsOf(site, item),
    item.state === 'here' ? site.metadata.read(await site.folder.locate(item.path)) : undefined,
  ]);
  const alike = lookAlikes(site, item.id)
    .slice(1, 6)
    .flatMap((sha256) => site.items.withHash(sha256))
    .filter((other) => other.id !== item.id)
    .slice(0, 6);
  const textInside = site.contents.recognised(item.sha256);
  return {
    item: viewOf(item),
    standings,
    more,
    textInside: textInside ?? null,
    suggestions: suggestionsFor({
      path: item.path,
      words: item.words,
      embedded: embedded?.words ?? {},
      standings,
      alike,
      textInside: textInside ?? '',
    }),
  };
}

async function wordDifferences(
  site: Site,
  paths: string[] | undefined,
  progress: (done: number, total: number, what: string) => void,
): Promise<WordDifferences> {
  const differences: WordDifferences['differences'] = [];
  let pages = 0;
  await allStandings(
    site,
    paths,
    (_page, standings) => {
      const before = differences.length;
      for (const one of standings) {
        const item = site.items.bearerAt(one.path);
        if (!item || differences.length >= SHOWN || !(inLine(one, item.words) ?? fromPage(one, item.words)))
          continue;
        differences.push({
          ...one,
          itemId: item.id,
          recordAlt: item.words.alt,
          recordTitle: item.words.title,
          decorative: item.words.decorative,
        });
      }
      if (differences.length > before) pages++;
    },
    progress,
  );
  differences.sort((a, b) => (a.page === b.page ? a.start - b.start : a.page < b.page ? -1 : 1));
  return { differences, pages };
}
