import { createReadStream } from 'node:fs';
import { rm, stat } from 'node:fs/promises';
import type { Context } from 'koa';
import { z } from 'zod';
import { Treatment } from '../../../core/picture/recipe/treatments.ts';
import { EditView, TriedView } from '../../../api/edits.ts';
import { sourceOf, tried, tryRecipe, type Source } from '../../changes/prepare.ts';
import { HEIF } from '../../media/heif.ts';
import type { Services } from '../context.ts';
import { defineRoute, Id, type Route } from '../route.ts';

/** Pixels of a side of what the bench works on: enough to judge by, quick to reckon with. */
const SHOWN = 1800;

/** Images on the bench: items, and what waits to be brought in. */
export const editRoutes = ({ site, arrivals }: Services): Route[] => [
  defineRoute({
    method: 'get',
    path: '/items/:id/edit',
    right: 'look',
    params: Id,
    answer: EditView,
    handle: async ({ params }) => {
      const { file, original, recipe } = await sourceOf(site, params.id);
      const { size: bytes } = await stat(file);
      const { name } = site.items.need(params.id);
      return { name, original, bytes, recipe, sizes: site.families.sizesOfOne(params.id).length };
    },
  }),

  defineRoute({
    method: 'get',
    path: '/arrivals/:id/edit',
    right: 'bring-in',
    params: Id,
    answer: EditView,
    handle: ({ params, person }) => {
      const { original, bytes, recipe } = arrivals.sourceOf(params.id, person.id);
      const { name } = arrivals.need(params.id, person.id);
      return { name, original, bytes, recipe, sizes: 0 };
    },
  }),

  /** The original, upright, as large as the bench shows it. Its address names the bytes, so browsers may keep it. */
  defineRoute({
    method: 'get',
    path: '/items/:id/edit/image',
    right: 'look',
    params: Id,
    query: Of,
    answer: 'file',
    handle: async ({ params }) => shown(site, await sourceOf(site, params.id)),
  }),

  defineRoute({
    method: 'get',
    path: '/arrivals/:id/edit/image',
    right: 'bring-in',
    params: Id,
    query: Of,
    answer: 'file',
    handle: ({ params, person }) => shown(site, arrivals.sourceOf(params.id, person.id)),
  }),

  /** The treatments that people keep; those that come along are known to the interface. */
  defineRoute({
    method: 'get',
    path: '/treatments',
    right: 'look',
    answer: z.array(Treatment),
    handle: () => site.treatments.all(),
  }),

  /** What a recipe would come to, with its real size. Who changes something again before this is known asks anew. */
  defineRoute({
    method: 'post',
    path: '/items/:id/edit/try',
    right: 'look',
    params: Id,
    body: 'TryRecipe',
    answer: TriedView,
    handle: ({ params, body, ctx }) => tryRecipe(site, params.id, body.recipe, leaving(ctx)),
  }),

  defineRoute({
    method: 'post',
    path: '/arrivals/:id/edit/try',
    right: 'bring-in',
    params: Id,
    body: 'TryRecipe',
    answer: TriedView,
    handle: ({ params, body, person, ctx }) =>
      tried(site, arrivals.sourceOf(params.id, person.id), body.recipe, { signal: leaving(ctx) }),
  }),
];

const Of = z.strictObject({ of: z.string().regex(/^[0-9a-f]{64}$/) });

function leaving(ctx: Context): AbortSignal {
  const gone = new AbortController();
  ctx.res.once('close', () => gone.abort());
  return gone.signal;
}

/** An original as the bench shows it. */
async function shown(site: Services['site'], { file, original }: Pick<Source, 'file' | 'original'>) {
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
}
