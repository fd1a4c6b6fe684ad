import { Readable } from 'node:stream';
import { z } from 'zod';
import { DescribeView, ItemIds, RecognisedText, TableView, WordDifferences } from '../../../api/items.ts';
import { Recognising, recognised } from '../../describe/recognising.ts';
import { readWordsTable, wordsTable } from '../../describe/tables.ts';
import { ALL_HERE } from '../../db/item-query.ts';
import { LARGE } from '../body.ts';
import type { Services } from '../context.ts';
import { defineRoute, Id, Json, type Route } from '../route.ts';
import { describeView, wordDifferences } from '../views/describe.ts';

/** What describing items rests on: where they stand, what is suggested, how pages and records differ. */
export const describeRoutes = ({ site, tagging }: Services): Route[] => {
  const recognising = new Recognising((item) => recognised(site, item));
  return [
    defineRoute({
      method: 'get',
      path: '/items/:id/describe',
      right: 'look',
      params: Id,
      answer: DescribeView,
      handle: ({ params }) => describeView(site, site.items.need(params.id), tagging),
    }),

    /** The text in an image; null for whoever went on before its turn came. */
    defineRoute({
      method: 'post',
      path: '/items/:id/recognise',
      right: 'describe',
      params: Id,
      body: 'Nothing',
      answer: RecognisedText,
      handle: async ({ params, ctx }) => {
        const gone = new AbortController();
        ctx.res.once('close', () => gone.abort());
        return { text: (await recognising.text(site.items.need(params.id), gone.signal)) ?? null };
      },
    }),

    /** Other images, with other bytes, that have the same alt text. */
    defineRoute({
      method: 'get',
      path: '/same-alt',
      right: 'look',
      query: z.strictObject({ alt: z.string().max(2000), id: z.coerce.number().int() }),
      answer: z.array(z.string()),
      handle: ({ query }) => site.finder.withAlt(query.alt, query.id),
    }),

    defineRoute({
      method: 'post',
      path: '/tables/out',
      right: 'download',
      body: 'TableOutRequest',
      answer: 'file',
      handle: async ({ body: { ids } }) => {
        const items = await site.items.many(
          ids === 'all' ? await site.finder.idsApart(site.reader, ALL_HERE) : ids,
        );
        return { type: 'text/csv', body: Readable.from(wordsTable(site, items), { objectMode: false }) };
      },
    }),

    defineRoute({
      method: 'post',
      path: '/tables/in',
      right: 'describe',
      body: 'TableRequest',
      most: LARGE,
      answer: TableView,
      handle: async ({ body }) => Json.large(await readWordsTable(site, body.text)),
    }),

    /** Placements whose words are not the record's, of some items or of all. */
    defineRoute({
      method: 'get',
      path: '/word-differences',
      right: 'look',
      query: ItemIds.partial(),
      answer: WordDifferences,
      handle: async ({ query: { ids } }) => {
        const items = ids && (await site.items.many(await site.families.whole(ids)));
        return site.jobs.run('words', 'Comparing the words of pages', ({ progress }) =>
          wordDifferences(
            site,
            items?.map((item) => item.path),
            progress,
          ),
        );
      },
    }),
  ];
};
