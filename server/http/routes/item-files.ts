import { createReadStream } from 'node:fs';
import { stat } from 'node:fs/promises';
import { z } from 'zod';
import { ItemText, VersionView } from '../../../api/items.ts';
import { DifferingView } from '../../../api/upkeep.ts';
import { Fault } from '../../fault.ts';
import { mayDraft } from '../../../core/people/rights.ts';
import { areOwnDrafts } from '../../people/drafts.ts';
import { THUMBNAIL_SIZES } from '../../../core/media/analysis.ts';
import { versionsOf } from '../../changes/versions.ts';
import type { Site } from '../../app/site.ts';
import type { Item } from '../../db/item-rows.ts';
import type { Services } from '../context.ts';
import { defineRoute, Id, StoredFile, type Route } from '../route.ts';
import { textOf } from '../views/text.ts';
import { versionView } from '../views/version.ts';

/** Kinds that browsers draw or play and that cannot run anything. */
const HARMLESS = /^(image\/(jpeg|png|gif|webp|avif|bmp)|audio\/[\w.-]+|video\/[\w.-]+)$/;
const id = z.coerce.number().int().min(1);
const sha256 = z.string().regex(/^[0-9a-f]{64}$/);

/** The bytes of items: to be looked at in place, compared and saved; also those that they had. */
export const itemFileRoutes = ({ site }: Services): Route[] => [
  defineRoute({
    method: 'get',
    path: '/items/:id/file',
    right: 'download',
    params: Id,
    answer: 'file',
    handle: async ({ params }) => {
      const item = site.items.need(params.id);
      return {
        type: 'application/octet-stream',
        download: item.name,
        body: await bytesOf(site, item, item.sha256),
      };
    },
  }),

  /** How a draft looks and sounds: its file is on no server yet. Only kinds that run nothing, each as what it is. */
  defineRoute({
    method: 'get',
    path: '/items/:id/content',
    right: 'look',
    params: Id,
    answer: 'file',
    handle: async ({ params }) => {
      const item = site.items.need(params.id);
      if (!HARMLESS.test(item.mime))
        throw new Fault('bad-request', `“${item.name}” can’t be shown here.`, 'Download it instead.');
      return {
        type: item.mime,
        cache: 'private, no-store',
        policy: "default-src 'none'; sandbox",
        body: await bytesOf(site, item, item.sha256),
      };
    },
  }),

  /** What was sent, where a smaller copy of it stands on the site: always as a download. */
  defineRoute({
    method: 'get',
    path: '/items/:id/original',
    right: 'download',
    params: Id,
    answer: 'file',
    handle: ({ params }) => {
      const item = site.items.need(params.id);
      const original = site.items.originalOf(item.id);
      if (original === null || !site.blobs.has(original))
        throw new Fault(
          'not-found',
          'No separate original is kept for this item.',
          'The file itself is on the site.',
        );
      return {
        type: 'application/octet-stream',
        download: item.originalName ?? item.name,
        body: new StoredFile(site.blobs.get(original)),
      };
    },
  }),

  defineRoute({
    method: 'get',
    path: '/items/:id/text',
    right: 'look',
    params: Id,
    answer: ItemText,
    handle: ({ params }) => textOf(site, site.items.need(params.id)),
  }),

  defineRoute({
    method: 'get',
    path: '/items/:id/versions',
    right: 'look',
    params: Id,
    answer: z.array(VersionView),
    handle: async ({ params }) =>
      (await versionsOf(site, site.items.need(params.id).id)).map((version) => versionView(site, version)),
  }),

  /** Bytes that an item had. Only those of its own versions, and only as an image or a download. */
  defineRoute({
    method: 'get',
    path: '/items/:id/versions/:sha/file',
    right: 'download',
    params: Id.extend({ sha: sha256 }),
    answer: 'file',
    handle: async ({ params: { id, sha } }) => {
      const item = site.items.need(id);
      const own = (await versionsOf(site, item.id)).some(
        ({ file }) => file?.before === sha || file?.after === sha,
      );
      if (!own || (sha !== item.sha256 && !site.blobs.has(sha)))
        throw new Fault('not-found', 'This version isn’t kept.', 'Reload the record.');
      return {
        policy: "default-src 'none'; sandbox",
        ...(HARMLESS.test(item.mime)
          ? { type: item.mime }
          : { type: 'application/octet-stream', download: item.name }),
        body: await bytesOf(site, item, sha),
      };
    },
  }),

  /** Where two images on the site differ. */
  defineRoute({
    method: 'get',
    path: '/items/:id/differences/:other',
    right: 'look',
    params: Id.extend({ other: id }),
    answer: DifferingView,
    handle: async ({ params }) => {
      const [one, other] = [site.items.need(params.id), site.items.need(params.other)];
      for (const item of [one, other])
        if (item.kind !== 'image' || item.state !== 'here')
          throw new Fault(
            'bad-request',
            `“${item.name}” isn’t an image on the site.`,
            'Choose two pictures.',
          );
      const [first, second] = [await site.folder.locate(one.path), await site.folder.locate(other.path)];
      return site.pool.run('differences', { one: first, other: second });
    },
  }),

  /** A small image of some bytes. Its address holds their hash, so browsers may keep it for ever. */
  defineRoute({
    method: 'get',
    path: '/thumbnails/:size/:sha',
    right: 'look',
    params: z.strictObject({
      size: z.coerce.number().refine((size) => THUMBNAIL_SIZES.some((one) => one === size)),
      sha: sha256,
    }),
    answer: 'file',
    handle: async ({ params, person }) => {
      // What nothing else shows is seen by those who may see one of the drafts.
      if (!mayDraft(person.role, false)) {
        const drafts = site.items.onlyDrafts(params.sha);
        if (drafts.length > 0 && !drafts.some(({ id }) => areOwnDrafts(site, person, [id])))
          throw new Fault('not-found', 'There is no such image.', 'Reload the Library.');
      }
      return {
        type: 'image/webp',
        cache: 'private, max-age=31536000, immutable',
        policy: "default-src 'none'",
        body: createReadStream(await site.analyser.file(params.sha, params.size)),
      };
    },
  }),
];

async function bytesOf(
  site: Pick<Site, 'folder' | 'blobs'>,
  item: Item,
  sha256: string,
): Promise<StoredFile> {
  if (item.state === 'here' && item.sha256 === sha256) {
    const file = await site.folder.locate(item.path);
    await stat(file).catch(() => {
      throw new Fault('not-found', 'The file no longer exists.', 'Reload the Library.');
    });
    return new StoredFile(file);
  }
  if (!site.blobs.has(sha256))
    throw new Fault('not-found', 'Its content isn’t kept.', 'Look for it in the Ledger.');
  return new StoredFile(site.blobs.get(sha256));
}
