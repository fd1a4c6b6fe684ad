import { createReadStream } from 'node:fs';
import type { ReadStream } from 'node:fs';
import { stat } from 'node:fs/promises';
import { parse } from 'csv-parse/sync';
import { z } from 'zod';
import type { ItemText, VersionView } from '../../api/items.ts';
import { extensionOf } from '../../core/address/path.ts';
import type { Differing } from '../../core/picture/difference.ts';
import { RECORD_NAMES } from '../../core/plan/words.ts';
import { Fault } from '../fault.ts';
import { PLAIN_TEXT, readText } from '../intake/document.ts';
import { versionsOf } from '../ledger/versions.ts';
import type { Site } from '../site/site.ts';
import type { Item } from '../store/item-rows.ts';
import type { Route, Services } from './app.ts';
import { idOf } from './body.ts';
import { shownValue } from './plans.ts';

/** Rows of a table that are shown; the file itself has all. */
const SHOWN_ROWS = 500;
const PageNumber = z.coerce.number().int().min(1).max(10_000);
/** Kinds of picture that browsers draw and that cannot run anything. */
const HARMLESS = /^image\/(jpeg|png|gif|webp|avif|bmp)$/;

/** Reading items in place, and what they were before. */
export function readingRoutes(router: Route, { site }: Services): void {
  router.get('/items/:id/file', async (ctx) => {
    const item = site.items.need(idOf(ctx));
    ctx.attachment(item.name);
    ctx.type = 'application/octet-stream';
    ctx.body = await bytesOf(site, item, item.sha256);
  });

  router.get('/items/:id/text', async (ctx) => {
    ctx.body = await textOf(site, site.items.need(idOf(ctx)));
  });

  router.get('/items/:id/pages/:number', async (ctx) => {
    const item = site.items.need(idOf(ctx));
    const number = PageNumber.parse(ctx.params['number']);
    if (item.mime !== 'application/pdf') throw new Fault('not-found', 'It has no pages.', 'Open the file.');
    ctx.set('Cache-Control', 'private, max-age=3600');
    ctx.type = 'image/webp';
    ctx.body = createReadStream(await site.deriving.page(item.sha256, item.path, number));
  });

  router.get('/items/:id/versions', async (ctx) => {
    const item = site.items.need(idOf(ctx));
    ctx.body = (await versionsOf(site, item.id)).map(({ before, after, file, ...version }) => ({
      ...version,
      fields: (Object.keys(after) as (keyof typeof RECORD_NAMES)[]).map((field) => ({
        field: RECORD_NAMES[field],
        before: shownValue(before[field]),
        after: shownValue(after[field]),
      })),
      file: file && { ...file, kept: site.blobs.has(file.before) },
    })) satisfies VersionView[];
  });

  /** Bytes that an item had. Only those of its own versions, and only as a picture or a download. */
  router.get('/items/:id/differences/:other', async (ctx) => {
    const pair = z.object({ id: z.coerce.number().int(), other: z.coerce.number().int() }).parse(ctx.params);
    const [one, other] = [site.items.need(pair.id), site.items.need(pair.other)];
    for (const item of [one, other])
      if (item.kind !== 'image' || item.state !== 'here')
        throw new Fault('bad-request', `“${item.name}” is no picture on the site.`, 'Choose two pictures.');
    const [first, second] = [await site.folder.locate(one.path), await site.folder.locate(other.path)];
    ctx.body = (await site.pool.run('differences', { one: first, other: second })) satisfies Differing | null;
  });

  router.get('/items/:id/versions/:sha/file', async (ctx) => {
    const item = site.items.need(idOf(ctx));
    const sha256 = String(ctx.params['sha']);
    const own = (await versionsOf(site, item.id)).some(
      ({ file }) => file?.before === sha256 || file?.after === sha256,
    );
    if (!own || (sha256 !== item.sha256 && !site.blobs.has(sha256)))
      throw new Fault('not-found', 'The bytes of that version are not kept.', 'Reload the record.');
    ctx.set('Content-Security-Policy', "default-src 'none'; sandbox");
    if (HARMLESS.test(item.mime)) ctx.type = item.mime;
    else {
      ctx.attachment(item.name);
      ctx.type = 'application/octet-stream';
    }
    ctx.body = await bytesOf(site, item, sha256);
  });
}

async function bytesOf(site: Site, item: Item, sha256: string): Promise<ReadStream> {
  if (item.state === 'here' && item.sha256 === sha256) {
    const file = await site.folder.locate(item.path);
    await stat(file).catch(() => {
      throw new Fault('not-found', 'The file is not there any more.', 'Reload the Library.');
    });
    return createReadStream(file);
  }
  if (!site.blobs.has(sha256))
    throw new Fault('not-found', 'Its bytes are not kept.', 'Look for it in the Ledger.');
  return createReadStream(site.blobs.path(sha256));
}

/** What an item says, to be read in place: a table for CSV, else text. */
async function textOf(site: Site, item: Item): Promise<ItemText> {
  if (!PLAIN_TEXT.test(item.name))
    return { text: site.contents.get(item.sha256)?.text ?? '', rows: null, more: false };
  const file = item.state === 'here' ? await site.folder.locate(item.path) : site.blobs.path(item.sha256);
  const text = await readText(file);
  if (!/^\.(csv|tsv)$/.test(extensionOf(item.name))) return { text, rows: null, more: false };
  try {
    const rows = parse(text, {
      delimiter: delimiterOf(text),
      relax_quotes: true,
      relax_column_count: true,
      skip_empty_lines: true,
      to: SHOWN_ROWS + 1,
    });
    return { text, rows: rows.slice(0, SHOWN_ROWS), more: rows.length > SHOWN_ROWS };
  } catch {
    // A table that cannot be read as one is still text, and shown so.
    return { text, rows: null, more: false };
  }
}

/** The sign that its first line holds most of. */
function delimiterOf(text: string): string {
  const line = /^.*/.exec(text)![0];
  const count = (sign: string) => line.split(sign).length;
  return ['\t', ';', ','].reduce((best, sign) => (count(sign) > count(best) ? sign : best), ',');
}
