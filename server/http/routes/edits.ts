import { createReadStream } from 'node:fs';
import { rm, stat } from 'node:fs/promises';
import { z } from 'zod';
import { Treatment } from '../../../core/picture/recipe/treatments.ts';
import { EditView, TriedView } from '../../../api/edits.ts';
import { sourceOf, tryRecipe } from '../../changes/prepare.ts';
import { HEIF } from '../../media/heif.ts';
import type { Services } from '../context.ts';
import { defineRoute, Id, type Route } from '../route.ts';

/** Pixels of a side of what the bench works on: enough to judge by, quick to reckon with. */
const SHOWN = 1800;

/** Images on the bench. */
export const editRoutes = ({ site }: Services): Route[] => [
  defineRoute({
    method: 'get',
    path: '/items/:id/edit',
    right: 'look',
    params: Id,
    answer: EditView,
    handle: async ({ params }) => {
      const { file, original, recipe } = await sourceOf(site, params.id);
      const { size: bytes } = await stat(file);
      return { original, bytes, recipe, sizes: site.families.sizesOfOne(params.id).length };
    },
  }),

  /** The original, upright, as large as the bench shows it. Its address names the bytes, so browsers may keep it. */
  defineRoute({
    method: 'get',
    path: '/items/:id/edit/image',
    right: 'look',
    params: Id,
    query: z.strictObject({ of: z.string().regex(/^[0-9a-f]{64}$/) }),
    answer: 'file',
    handle: async ({ params }) => {
      const { file, original } = await sourceOf(site, params.id);
      const to = site.data.workFile();
      const sentAs = HEIF.has(original.mime) ? { sentAs: original.mime } : {};
      await site.pool.run('render', {
        file,
        to,
        rendering: { width: SHOWN, height: SHOWN, mime: 'image/webp', quality: 90, ...sentAs },
      });
      const body = createReadStream(to);
      body.once('close', () => {
        rm(to, { force: true }).catch(() => undefined);
      });
      return {
        type: 'image/webp',
        cache: 'private, max-age=31536000, immutable',
        policy: "default-src 'none'",
        body,
      };
    },
  }),

  /** The treatments that people keep; those that come along are known to the interface. */
  defineRoute({
    method: 'get',
    path: '/treatments',
    right: 'look',
    answer: z.array(Treatment),
    handle: () => site.treatments.all(),
  }),

  /** What a recipe would come to, with its real size. */
  defineRoute({
    method: 'post',
    path: '/items/:id/edit/try',
    right: 'look',
    params: Id,
    body: 'TryRecipe',
    answer: TriedView,
    handle: ({ params, body, ctx }) => {
      // Who changes something again before this is known asks anew.
      const leaving = new AbortController();
      ctx.res.once('close', () => leaving.abort());
      return tryRecipe(site, params.id, body.recipe, leaving.signal);
    },
  }),
];
