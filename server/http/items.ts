import { createReadStream } from 'node:fs';
import { ItemQuery, SaveWords, type ItemDetail, type ItemList, type ItemView } from '../../api/items.ts';
import { cleanName, NAME_FAULT_TEXTS, nameFaults } from '../../core/address/name.ts';
import { addressOf } from '../../core/address/redirects.ts';
import { careMarks } from '../../core/describe/record.ts';
import { isEmpty } from '../../core/plan/plan.ts';
import { textAround } from '../../core/reference/read.ts';
import { readSource } from '../../core/reference/source.ts';
import { Fault } from '../fault.ts';
import { applyProposal, proposeWords } from '../ledger/propose.ts';
import type { Site } from '../site/site.ts';
import type { ItemQuery as StoreQuery } from '../store/item-query.ts';
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
  router.get('/items', (ctx) => {
    const list = site.items.list(storeQuery(ItemQuery.parse(ctx.query)));
    ctx.body = { ...list, items: list.items.map(viewOf) } satisfies ItemList;
  });

  router.get('/items/ids', (ctx) => {
    ctx.body = site.items.ids(storeQuery(ItemQuery.parse(ctx.query)));
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
