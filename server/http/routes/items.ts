import { z } from 'zod';
import {
  AddressesText,
  FacetsView,
  FolderView,
  type FoundGroups,
  FoundQuery,
  ItemDetail,
  ItemIds,
  ItemList,
  ItemQuery,
  ItemSum,
  ItemView,
  SnippetQuery,
  SnippetText,
  TagCounts,
  TagSense,
} from '../../../api/items.ts';
import { snippetOf } from '../../../core/address/snippet.ts';
import { excerpt } from '../../../core/find/marks.ts';
import { isEmpty } from '../../../core/plan/plan.ts';
import { snippetFor } from '../../changes/placements.ts';
import { applyProposal } from '../../changes/apply.ts';
import { proposeWords } from '../../changes/records.ts';
import type { Site } from '../../app/site.ts';
import { facetsOf, tagsAbove } from '../../db/facets.ts';
import { ALL_HERE, conditions, foundSql } from '../../db/item-query.ts';
import { viewOf } from '../../db/item-view.ts';
import { sumOf } from '../../db/item-finder.ts';
import type { Found } from '../../db/reader.ts';
import { allTagCounts, tagCountsOf } from '../../db/tags.ts';
import type { Services } from '../context.ts';
import { defineRoute, Id, Json, type Route } from '../route.ts';
import { storeQuery } from '../store-query.ts';
import { proposalsAbout } from './submissions.ts';
import { detailOf, lookAlikes, SEARCHED } from '../views/item.ts';

/** Finding items, and one item with its record. */
export const itemRoutes = ({ site }: Services): Route[] => {
  const like = (id: number) => lookAlikes(site, id);
  return [
    defineRoute({
      method: 'get',
      path: '/items',
      right: 'look',
      query: ItemQuery.strict(),
      answer: ItemList,
      handle: async ({ query, person }) =>
        Json.written(await site.finder.listJson(site.reader, storeQuery(query, person), like)),
    }),

    /**
     * All that a query finds, for a sheet of any length: the weight (float64), how many there are and how long the groups are
     * (uint32 each), the ids (uint32 each), the ratios of width to height in thousandths (uint16 each), all with the little
     * end first; then the groups as JSON.
     */
    defineRoute({
      method: 'get',
      path: '/items/found',
      right: 'look',
      query: FoundQuery.strict(),
      answer: 'file',
      handle: async ({ query: { group, ...query }, person }) => {
        const { sql, values } = foundSql(storeQuery(query, person), like, group);
        const { ids, ratios, bytes, groups, items } = await site.reader.found(sql, values);
        const names = group === 'page' ? pageNames(site, groups) : groups;
        const json = Buffer.from(JSON.stringify({ items, groups: names }));
        return {
          type: 'application/octet-stream',
          body: Buffer.concat([
            Buffer.from(Float64Array.of(bytes).buffer),
            Buffer.from(Uint32Array.of(ids.length, json.length).buffer),
            Buffer.from(ids.buffer),
            Buffer.from(ratios.buffer),
            json,
          ]),
        };
      },
    }),

    defineRoute({
      method: 'get',
      path: '/items/some',
      right: 'look',
      query: ItemIds,
      answer: z.array(ItemView),
      handle: ({ query: { ids, q } }) => {
        const words = q.split(/\s+/).filter(Boolean);
        return site.items.some(ids).map((item) => {
          const text =
            words.length > 0 && item.kind === 'document' ? site.contents.get(item.sha256)?.text : undefined;
          const found = text && excerpt(text.slice(0, SEARCHED), words, 30);
          return found ? { ...viewOf(item), excerpt: found } : viewOf(item);
        });
      },
    }),

    defineRoute({
      method: 'post',
      path: '/items/sum',
      right: 'look',
      body: 'ManyItems',
      answer: ItemSum,
      handle: ({ body }) => sumOf(site.reader, body.ids),
    }),

    defineRoute({
      method: 'post',
      path: '/items/tags',
      right: 'look',
      body: 'ManyItems',
      answer: TagCounts,
      handle: ({ body }) => tagCountsOf(site.reader, body.ids),
    }),

    defineRoute({
      method: 'post',
      path: '/items/addresses',
      right: 'look',
      body: 'AddressRequest',
      answer: AddressesText,
      handle: async ({ body: { ids, form } }) => ({
        text: (await site.items.many(ids))
          .map((item) => snippetOf(item, form, site.index.map.roots))
          .join('\n'),
      }),
    }),

    defineRoute({
      method: 'get',
      path: '/items/facets',
      right: 'look',
      query: ItemQuery.strict(),
      answer: FacetsView,
      handle: ({ query, person }) => facetsOf(site.reader, storeQuery(query, person), like),
    }),

    /** An item ready to be put on a page elsewhere; null: the web size is not made yet. */
    defineRoute({
      method: 'get',
      path: '/items/:id/snippet',
      right: 'look',
      params: Id,
      query: SnippetQuery,
      answer: SnippetText,
      handle: ({ params, query: { form, size } }) => ({
        text: snippetFor(site, site.items.need(params.id), form, size),
      }),
    }),

    defineRoute({
      method: 'get',
      path: '/items/:id',
      right: 'look',
      params: Id,
      answer: ItemDetail,
      handle: async ({ params, person }) => ({
        ...(await detailOf(site, site.items.need(params.id))),
        proposals: proposalsAbout(site, params.id, person),
      }),
    }),

    defineRoute({
      method: 'patch',
      path: '/items/:id',
      right: 'describe',
      params: Id,
      body: 'SaveWords',
      answer: ItemView,
      handle: async ({ params: { id }, body: { rowVersion, words }, person }) => {
        const proposal = await proposeWords(site, id, rowVersion, words);
        if (!isEmpty(proposal.plan)) await applyProposal(site, proposal, person.id);
        return viewOf(site.items.need(id));
      },
    }),

    defineRoute({
      method: 'get',
      path: '/folders',
      right: 'look',
      answer: z.array(FolderView),
      handle: async () => [
        ...(await site.finder.folders(site.reader)).map((one) => ({ ...one, empty: false })),
        ...site.index.emptyFolders.map((folder) => ({ folder, items: 0, empty: true })),
      ],
    }),

    defineRoute({
      method: 'get',
      path: '/tags',
      right: 'look',
      answer: TagCounts,
      handle: () => allTagCounts(site.reader),
    }),

    defineRoute({
      method: 'get',
      path: '/tags/sense',
      right: 'look',
      answer: TagSense,
      handle: async () => ({
        ...site.tags.sense(),
        found: await tagsAbove(site.reader, conditions(ALL_HERE)),
      }),
    }),
  ];
};

/** Groups of pages are called by the pages' titles. */
function pageNames(site: Pick<Site, 'references'>, groups: Found['groups']): FoundGroups['groups'] {
  return groups.map(({ name, from }) => ({
    from,
    name,
    title: name === '' ? '' : site.references.titleOf(name),
  }));
}
