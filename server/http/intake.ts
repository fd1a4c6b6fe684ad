import type { Readable } from 'node:stream';
import { z } from 'zod';
import { ArrivalsQuery, type ArrivalList, type ReplacementView } from '../../api/intake.ts';
import { targetFault } from '../../core/address/target.ts';
import { SITE_RULE } from '../../core/intake/rules.ts';
import { Fault } from '../fault.ts';
import { fetchFile } from '../intake/fetch.ts';
import { LIMITS } from '../intake/limits.ts';
import { takeIn } from '../intake/uploads.ts';
import type { Item } from '../store/item-rows.ts';
import type { Site } from '../site/site.ts';
import { unpack } from '../intake/unpack.ts';
import type { Route, Services } from './app.ts';
import { idOf, readBody } from './body.ts';

/** Takes one file for one item, as bytes, through the door; answers when it is checked. */
async function takeReplacement(
  site: Site,
  item: Item,
  personId: number,
  givenName: string,
  body: Readable,
): Promise<ReplacementView> {
  const id = await takeIn(site, body, {
    personId,
    givenName,
    folder: item.folder,
    below: '',
    inside: false,
    most: LIMITS.fileBytes,
  });
  await site.checking.settled();
  const row = site.arrivals.get(id);
  if (row?.state !== 'ready') {
    if (row) site.arrivals.remove(id);
    throw new Fault('refused-file', row?.refused || 'The file could not be taken.', 'Choose another one.');
  }
  return {
    arrivalId: id,
    name: row.name,
    bytes: row.ready?.bytes ?? row.bytes,
    width: row.ready?.facts.width ?? row.facts.width ?? null,
    height: row.ready?.facts.height ?? row.facts.height ?? null,
  };
}

export function intakeRoutes(router: Route, { site, arrivals, uploads, fetching }: Services): void {
  /** Resumable uploads (tus): creation, sending on, asking how far it came, giving up. */
  router.all('/uploads{/*rest}', async (ctx) => {
    ctx.respond = false;
    await uploads.handle(ctx.req, ctx.res, ctx.state.person.id);
    site.checking.changed();
  });

  /** The person's list: all of it, or what has changed after a revision of it. */
  router.get('/arrivals', async (ctx) => {
    const { after } = ArrivalsQuery.parse(ctx.query);
    ctx.body = (await arrivals.since(ctx.state.person.id, after)) satisfies ArrivalList;
  });

  router.patch('/arrivals', async (ctx) => {
    const { ids, ...change } = await readBody(ctx, 'ArrivalChanges');
    if (change.folder !== undefined) needFolder(change.folder);
    ctx.body = await arrivals.change(ids, ctx.state.person.id, change);
  });

  /** A file that is to take the place of an item's: its bytes are the body. */
  router.put('/items/:id/replacement', async (ctx) => {
    const name = z.string().min(1).max(1000).parse(ctx.query['name']);
    const item = site.items.need(idOf(ctx));
    ctx.body = await takeReplacement(site, item, ctx.state.person.id, name, ctx.req);
  });

  router.delete('/arrivals/:id', async (ctx) => {
    await arrivals.drop(idOf(ctx), ctx.state.person.id);
    ctx.body = {};
  });

  router.post('/arrivals/:id/unpack', async (ctx) => {
    const files = await unpack(site, idOf(ctx), ctx.state.person.id);
    await arrivals.drop(idOf(ctx), ctx.state.person.id);
    ctx.body = { files };
  });

  router.post('/arrivals/fetch', async (ctx) => {
    const { address, folder } = await readBody(ctx, 'FetchRequest');
    needFolder(folder);
    const leaves = new AbortController();
    ctx.res.once('close', () => leaves.abort(new Error('nobody waits for it any more')));
    const to = { personId: ctx.state.person.id, folder };
    ctx.body = { id: await fetchFile(site, fetching, address, to, leaves.signal) };
  });

  router.post('/arrivals/bring-in', async (ctx) => {
    const { arrivalIds } = await readBody(ctx, 'BringIn');
    const { entryId, itemIds, used, plan } = await arrivals.bringIn(arrivalIds, ctx.state.person.id);
    ctx.body = { entryId, itemIds, used, title: plan?.title ?? '', totals: plan?.totals ?? null };
  });

  router.get('/folder-rules', (ctx) => {
    ctx.body = { rules: site.rules.all(), otherwise: SITE_RULE };
  });
}

/** Other rules: what waits to be brought in is looked at again. */
export async function rulesChanged(site: Site, personId: number): Promise<void> {
  site.arrivals.allChanged();
  for (const row of site.arrivals.of(personId)) await site.checking.prepare(row.id);
  site.checking.changed();
}

function needFolder(folder: string): void {
  const fault = folder === '' ? undefined : targetFault(folder);
  if (fault) throw new Fault('bad-request', fault, 'Choose another folder.');
}
