import { createReadStream } from 'node:fs';
import {
  FoundQuery,
  type FoundGroups,
  ItemIds,
  ItemQuery,
  type FacetsView,
  type FolderView,
  type ItemDetail,
  type ItemView,
  type TagCounts,
  type TagSense,
  SnippetQuery,
} from '../../api/items.ts';
import { cleanName, NAME_FAULT_TEXTS } from '../../core/address/name.ts';
import { addressOf } from '../../core/address/redirects.ts';
import { snippetOf } from '../../core/address/snippet.ts';
import { snippetFor } from '../ledger/placements.ts';
import { excerpt } from '../../core/find/marks.ts';
import { isEmpty } from '../../core/plan/plan.ts';
import { textAround } from '../../core/reference/read.ts';
import { readSource } from '../../core/reference/source.ts';
import { familyPlacements } from '../describe/standings.ts';
import { conditionsOf } from '../../core/find/query.ts';
import { Fault } from '../fault.ts';
import { applyProposal } from '../ledger/proposal.ts';
import { proposeWords } from '../ledger/records.ts';
import type { Site } from '../site/site.ts';
import { facetsOf, tagsAbove } from '../store/facets.ts';
import { ALL_HERE, conditions, foundSql, type ItemQuery as StoreQuery } from '../store/item-query.ts';
import { viewOf } from '../store/item-view.ts';
import type { Found } from '../store/reader.ts';
import type { Item } from '../store/item-rows.ts';
import type { Route, Services } from './app.ts';
import { idOf, readBody } from './body.ts';
import { sumOf } from '../store/items.ts';
import { allTagCounts, tagCountsOf } from '../store/tags.ts';

/** Placements shown in a record with their surrounding text; the rest is counted. */
const SHOWN_PLACEMENTS = 50;

/** Words that one search may ask for; conditions likewise. More would keep the reading threads from others. */
const MOST_WORDS = 20;
const MOST_CONDITIONS = 60;

/** @throws Fault for a search that asks for too much at once */
export function storeQuery(query: ItemQuery): StoreQuery {
  const { q, ...rest } = query;
  // The same word twice, in whatever case, finds no less than once.
  const words = new Map(
    q
      .split(/\s+/)
      .filter((word) => word !== '')
      .map((word) => [word.toLowerCase(), word]),
  );
  if (words.size > MOST_WORDS)
    throw new Fault(
      'bad-request',
      `A search takes ${MOST_WORDS} words at most; this one has ${words.size}.`,
      'Search for fewer words.',
    );
  if ([...conditionsOf(rest.where)].length > MOST_CONDITIONS)
    throw new Fault(
      'bad-request',
      `A query takes ${MOST_CONDITIONS} conditions at most.`,
      'Take some of its conditions out.',
    );
  return { ...rest, words: [...words.values()] };
}

export function itemRoutes(router: Route, { site }: Services): void {
  const like = (id: number) => lookAlikes(site, id);

  router.get('/items', async (ctx) => {
    ctx.body = Buffer.from(
      await site.items.listJson(site.reader, storeQuery(ItemQuery.parse(ctx.query)), like),
    );
    ctx.type = 'application/json';
  });

  /**
   * All that a query finds, for a sheet of any length: the weight (float64), how many there are and how long the groups are
   * (uint32 each), the ids (uint32 each), the ratios of width to height in thousandths (uint16 each), all with the little
   * end first; then the groups as JSON.
   */
  router.get('/items/found', async (ctx) => {
    const { group, ...query } = FoundQuery.parse(ctx.query);
    const { sql, values } = foundSql(storeQuery(query), like, group);
    const { ids, ratios, bytes, groups, items } = await site.reader.found(sql, values);
    const names = group === 'page' ? pageNames(site, groups) : groups;
    const json = Buffer.from(JSON.stringify({ items, groups: names }));
    ctx.type = 'application/octet-stream';
    ctx.body = Buffer.concat([
      Buffer.from(Float64Array.of(bytes).buffer),
      Buffer.from(Uint32Array.of(ids.length, json.length).buffer),
      Buffer.from(ids.buffer),
      Buffer.from(ratios.buffer),
      json,
    ]);
  });

  router.get('/items/some', (ctx) => {
    const { ids, q } = ItemIds.parse(ctx.query);
    const words = q.split(/\s+/).filter(Boolean);
    ctx.body = site.items.some(ids).map((item) => {
      const text =
        words.length > 0 && item.kind === 'document' ? site.contents.get(item.sha256)?.text : undefined;
      const found = text && excerpt(text.slice(0, SEARCHED), words, 30);
      return found ? { ...viewOf(item), excerpt: found } : viewOf(item);
    }) satisfies ItemView[];
  });

  router.post('/items/sum', async (ctx) => {
    ctx.body = await sumOf(site.reader, (await readBody(ctx, 'ManyItems')).ids);
  });

  router.post('/items/tags', async (ctx) => {
    ctx.body = (await tagCountsOf(site.reader, (await readBody(ctx, 'ManyItems')).ids)) satisfies TagCounts;
  });

  router.post('/items/addresses', async (ctx) => {
    const { ids, form } = await readBody(ctx, 'AddressRequest');
    ctx.body = {
      text: (await site.items.many(ids)).map((item) => snippetOf(item, form, site.siteMap.roots)).join('\n'),
    };
  });

  /** An item ready to be put on a page elsewhere; null: the web size is not made yet. */
  router.get('/items/:id/snippet', (ctx) => {
    const { form, size } = SnippetQuery.parse(ctx.query);
    ctx.body = { text: snippetFor(site, site.items.need(idOf(ctx)), form, size) };
  });

  router.get('/items/facets', async (ctx) => {
    ctx.body = (await facetsOf(
      site.reader,
      storeQuery(ItemQuery.parse(ctx.query)),
      like,
    )) satisfies FacetsView;
  });

  router.get('/folders', async (ctx) => {
    ctx.body = [
      ...(await site.items.folders(site.reader)).map((one) => ({ ...one, empty: false })),
      ...site.emptyFolders.map((folder) => ({ folder, items: 0, empty: true })),
    ] satisfies FolderView[];
  });

  router.get('/tags', async (ctx) => {
    ctx.body = await allTagCounts(site.reader);
  });

  router.get('/tags/sense', async (ctx) => {
    const found = await tagsAbove(site.reader, conditions(ALL_HERE));
    ctx.body = { ...site.tags.sense(), found } satisfies TagSense;
  });

  router.get('/items/:id', async (ctx) => {
    ctx.body = await detailOf(site, site.items.need(idOf(ctx)));
  });

  /** What was sent, where a smaller copy of it stands on the site: always as a download. */
  router.get('/items/:id/original', (ctx) => {
    const item = site.items.need(idOf(ctx));
    const sha256 = site.items.originalOf(item.id);
    if (sha256 === null || !site.blobs.has(sha256))
      throw new Fault(
        'not-found',
        'No other original is kept of this item.',
        'The file itself is on the site.',
      );
    ctx.attachment(item.originalName ?? item.name);
    ctx.type = 'application/octet-stream';
    ctx.body = createReadStream(site.blobs.path(sha256));
  });

  router.patch('/items/:id', async (ctx) => {
    const id = idOf(ctx);
    const { rowVersion, words } = await readBody(ctx, 'SaveWords');
    const proposal = await proposeWords(site, id, rowVersion, words);
    if (!isEmpty(proposal.plan)) await applyProposal(site, proposal, ctx.state.person.id);
    ctx.body = viewOf(site.items.need(id));
  });
}

/** Groups of pages are called by the pages' titles. */
function pageNames(site: Site, groups: Found['groups']): FoundGroups['groups'] {
  return groups.map(({ name, from }) => ({
    from,
    name,
    title: name === '' ? '' : site.references.titleOf(name),
  }));
}

/** Hashes of the pictures that look like an item, as the door tells them. */
export function lookAlikes(site: Site, id: number): string[] {
  const item = site.items.get(id);
  const alike = item ? site.alikes.of(item.sha256) : [];
  return item && alike.length > 0 ? [item.sha256, ...alike.map((one) => one.sha256)] : [];
}

async function detailOf(site: Site, item: Item): Promise<ItemDetail> {
  const rows = familyPlacements(site, item);
  const placements: ItemDetail['placements'] = [];
  for (const { path, page, pageTitle, line, place, url, alt, hasAlt, start, end } of rows.slice(
    0,
    SHOWN_PLACEMENTS,
  )) {
    // A page that has changed or gone since the last scan only loses its surrounding text here.
    const source = (await site.folder.facts(page)) ? readSource(await site.folder.read(page)) : undefined;
    const around = source && 'raw' in source ? textAround(source, start, end) : { before: '', after: '' };
    placements.push({ path, page, pageTitle, start, line, place, url, alt, hasAlt, ...around });
  }
  return {
    item: viewOf(item),
    address: addressOf(item.path, site.siteMap.roots),
    placements,
    live: site.live.placementsOf(item.path),
    mentions: site.references.mentionsOf(item.path).map(({ page, line }) => ({ page, line })),
    copies: site.items
      .withHash(item.sha256)
      .filter((other) => other.id !== item.id)
      .map(({ id, path }) => ({ id, path })),
    nameFaults: item.nameFaults.map((fault) => NAME_FAULT_TEXTS[fault]),
    cleanName: cleanName(item.name),
    content: contentOf(site, item),
    hasOriginal: site.items.originalOf(item.id) !== null,
    family: familyView(site, item),
  };
}

function familyView(site: Site, item: Item): ItemDetail['family'] {
  const main = item.sizeOf === null ? undefined : site.items.get(item.sizeOf);
  return {
    of: main ? { id: main.id, path: main.path, name: main.name } : null,
    said: item.family !== null,
    sizes: site.items
      .some(site.families.sizesOfOne(item.id))
      .map(({ id, path, name, width, height, bytes }) => ({ id, path, name, width, height, bytes }))
      .sort((a, b) => (b.width ?? 0) - (a.width ?? 0)),
  };
}

/** Characters of a document's text that are searched for where the words stand. */
const SEARCHED = 200_000;
/** Characters of a document's text that its record shows. */
const EXCERPT = 300;

function contentOf(site: Site, item: Item): ItemDetail['content'] {
  const content = site.contents.get(item.sha256);
  if (!content) return null;
  const { colours, frames, pages, codecs, profile, takenAt, notes, text } = content;
  return { colours, frames, pages, codecs, profile, takenAt, notes, excerpt: text.slice(0, EXCERPT) };
}
