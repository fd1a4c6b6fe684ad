import { createReadStream } from 'node:fs';
import {
  AddressRequest,
  ItemIds,
  ItemQuery,
  ManyItems,
  SaveWords,
  type FacetsView,
  type ItemDetail,
  type ItemList,
  type ItemView,
  type TagCounts,
} from '../../api/items.ts';
import { cleanName, NAME_FAULT_TEXTS, nameFaults } from '../../core/address/name.ts';
import { addressOf } from '../../core/address/redirects.ts';
import { snippetOf } from '../../core/address/snippet.ts';
import { careMarks } from '../../core/describe/record.ts';
import { isEmpty } from '../../core/plan/plan.ts';
import { textAround } from '../../core/reference/read.ts';
import { readSource } from '../../core/reference/source.ts';
import { Fault } from '../fault.ts';
import { applyProposal, proposeWords } from '../ledger/propose.ts';
import type { Site } from '../site/site.ts';
import { facetsOf } from '../store/facets.ts';
import { conditions, orderOf, type ItemQuery as StoreQuery } from '../store/item-query.ts';
import type { Item } from '../store/items.ts';
import type { Route, Services } from './app.ts';
import { idOf, readBody } from './body.ts';

/** Placements shown in a record with their surrounding text; the rest is counted. */
const SHOWN_PLACEMENTS = 50;

export function viewOf(item: Item): ItemView {
  return { ...item, marks: careMarks(item) };
}

export function storeQuery(query: ItemQuery): StoreQuery {
  const { q, ...rest } = query;
  return { ...rest, words: q.split(/\s+/).filter((word) => word !== '') };
}

export function itemRoutes(router: Route, { site }: Services): void {
  const like = (id: number) => lookAlikes(site, id);

  router.get('/items', async (ctx) => {
    const list = await site.items.listBy(site.reader, storeQuery(ItemQuery.parse(ctx.query)), like);
    ctx.body = { ...list, items: list.items.map(viewOf) } satisfies ItemList;
  });

  /**
   * All that a query finds, for a sheet of any length: the weight (float64), the ids (uint32 each), the ratios of width to
   * height in thousandths (uint16 each), all with the little end first.
   */
  router.get('/items/found', async (ctx) => {
    const query = storeQuery(ItemQuery.parse(ctx.query));
    const { where, values } = conditions(query, like);
    const { order, before, join, values: ranked } = orderOf(query);
    const { ids, ratios, bytes } = await site.reader.found(
      `${before} select item.id, item.width, item.height, item.kind, item.bytes from item ${join} where ${where} order by ${order}`,
      { ...values, ...ranked },
    );
    ctx.type = 'application/octet-stream';
    ctx.body = Buffer.concat([
      Buffer.from(Float64Array.of(bytes).buffer),
      Buffer.from(ids.buffer),
      Buffer.from(ratios.buffer),
    ]);
  });

  router.get('/items/some', (ctx) => {
    ctx.body = site.items.some(ItemIds.parse(ctx.query).ids).map(viewOf) satisfies ItemView[];
  });

  router.post('/items/sum', async (ctx) => {
    ctx.body = site.items.sum((await readBody(ctx, ManyItems)).ids);
  });

  router.post('/items/tags', async (ctx) => {
    ctx.body = site.items.tags((await readBody(ctx, ManyItems)).ids) satisfies TagCounts;
  });

  router.post('/items/addresses', async (ctx) => {
    const { ids, form } = await readBody(ctx, AddressRequest);
    ctx.body = {
      text: site.items
        .some(ids)
        .map((item) => snippetOf(item, form))
        .join('\n'),
    };
  });

  router.get('/items/facets', async (ctx) => {
    ctx.body = (await facetsOf(
      site.reader,
      storeQuery(ItemQuery.parse(ctx.query)),
      like,
    )) satisfies FacetsView;
  });

  router.get('/folders', (ctx) => {
    ctx.body = site.items.folders();
  });

  router.get('/tags', (ctx) => {
    ctx.body = site.items.tags();
  });

  router.get('/copies', (ctx) => {
    ctx.body = site.items.copies().map((group) => group.map(viewOf));
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
    const { rowVersion, words } = await readBody(ctx, SaveWords);
    const proposal = proposeWords(site, id, rowVersion, words);
    if (!isEmpty(proposal.plan)) await applyProposal(site, proposal, ctx.state.person.id);
    ctx.body = viewOf(site.items.need(id));
  });
}

/** Hashes of the pictures that look like an item, as the door tells them. */
function lookAlikes(site: Site, id: number): string[] {
  const item = site.items.get(id);
  const plane = item && site.contents.planeOf(item.sha256);
  return plane ? [item.sha256, ...site.checking.alike(item.sha256, plane).map((one) => one.sha256)] : [];
}

async function detailOf(site: Site, item: Item): Promise<ItemDetail> {
  const rows = site.references.placementsOf(item.path);
  const placements: ItemDetail['placements'] = [];
  for (const { page, pageTitle, line, place, url, alt, hasAlt, start, end } of rows.slice(
    0,
    SHOWN_PLACEMENTS,
  )) {
    // A page that has changed or gone since the last scan only loses its surrounding text here.
    const source = (await site.folder.facts(page)) ? readSource(await site.folder.read(page)) : undefined;
    const around = source && 'raw' in source ? textAround(source, start, end) : { before: '', after: '' };
    placements.push({ page, pageTitle, line, place, url, alt, hasAlt, ...around });
  }
  return {
    item: viewOf(item),
    address: addressOf(item.path),
    placements,
    mentions: site.references.mentionsOf(item.path).map(({ page, line }) => ({ page, line })),
    copies: site.items
      .withHash(item.sha256)
      .filter((other) => other.id !== item.id)
      .map(({ id, path }) => ({ id, path })),
    nameFaults: nameFaults(item.name).map((fault) => NAME_FAULT_TEXTS[fault]),
    cleanName: cleanName(item.name),
    content: contentOf(site, item),
    hasOriginal: site.items.originalOf(item.id) !== null,
  };
}

/** Characters of a document's text that its record shows. */
const EXCERPT = 300;

function contentOf(site: Site, item: Item): ItemDetail['content'] {
  const content = site.contents.get(item.sha256);
  if (!content) return null;
  const { colours, frames, pages, codecs, profile, takenAt, notes, text } = content;
  return { colours, frames, pages, codecs, profile, takenAt, notes, excerpt: text.slice(0, EXCERPT) };
}
