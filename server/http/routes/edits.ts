import { createReadStream } from 'node:fs';
import { rm, stat } from 'node:fs/promises';
import type { Context } from 'koa';
import { z } from 'zod';
import { ratioOf, ruleFor } from '../../../core/intake/rules.ts';
import type { FocalPoint } from '../../../core/picture/focal.ts';
import type { Recipe } from '../../../core/picture/recipe/recipe.ts';
import { Treatment } from '../../../core/picture/recipe/treatments.ts';
import { EditView, FramingView, SubjectView, TriedView } from '../../../api/edits.ts';
import { focalOf, onDisk, rendered, sourceOf, tried, tryRecipe, type Source } from '../../changes/prepare.ts';
import { framings, subjectIn } from '../../changes/treat.ts';
import { Fault } from '../../fault.ts';
import type { Services } from '../context.ts';
import { defineRoute, Id, type Route } from '../route.ts';

/** Pixels of a side of what the bench works on: enough to judge by, quick to reckon with. */
const SHOWN = 1800;
/** Of what stands in a table. */
const SMALL = 160;

/** Images on the bench: items, and what waits to be brought in; and what treatments make of many. */
export const editRoutes = ({ site, arrivals, proposals }: Services): Route[] => [
  defineRoute({
    method: 'get',
    path: '/items/:id/edit',
    right: 'look',
    params: Id,
    answer: EditView,
    handle: async ({ params }) => {
      const { file, original, recipe } = await sourceOf(site, params.id);
      const { size: bytes } = await stat(file);
      const { name, folder, state } = site.items.need(params.id);
      const [known] = site.findings.checkInputs([params.id]);
      const widest = known === undefined || known.widest === null ? null : Math.round(known.widest);
      return {
        name,
        original,
        bytes,
        draft: state === 'draft',
        recipe,
        sizes: site.families.sizesOfOne(params.id).length,
        widest,
        ratio: ratioOf(ruleFor(folder, site.rules.all())) ?? null,
      };
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
      const { name, folder } = arrivals.need(params.id, person.id);
      const ratio = ratioOf(ruleFor(folder, site.rules.all())) ?? null;
      return { name, original, bytes, draft: true, recipe, sizes: 0, widest: null, ratio };
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
    handle: async ({ params, query }) => shown(site, await sourceOf(site, params.id), query.side),
  }),

  defineRoute({
    method: 'get',
    path: '/arrivals/:id/edit/image',
    right: 'bring-in',
    params: Id,
    query: Of,
    answer: 'file',
    handle: ({ params, query, person }) => shown(site, arrivals.sourceOf(params.id, person.id), query.side),
  }),

  /** The treatments that people keep; those that come along are known to the interface. */
  defineRoute({
    method: 'get',
    path: '/treatments',
    right: 'look',
    answer: z.array(Treatment),
    handle: () => site.treatments.all(),
  }),

  /** How a treatment frames some images. */
  defineRoute({
    method: 'post',
    path: '/treatments/framing',
    right: 'look',
    body: 'FramingRequest',
    answer: z.array(FramingView),
    handle: ({ body }) => framings(site, body.itemIds, body.treatment),
  }),

  /** An image that a plan would make, small; it lies there as long as the plan. */
  defineRoute({
    method: 'get',
    path: '/plans/:id/images/:sha256',
    right: 'look',
    params: z.strictObject({ id: z.string().max(100), sha256: z.string().max(64) }),
    answer: 'file',
    handle: ({ params: { id, sha256 } }) => {
      const image = proposals.at(id)?.plan.images?.find(({ after }) => after.sha256 === sha256);
      if (!image || !site.planBytes.at(sha256))
        throw new Fault('not-found', 'These changes are no longer available.', 'Start again.');
      const original = { ...image.after, sha256 };
      return onDisk(site, sha256, (file) => shown(site, { file, original }, SMALL));
    },
  }),

  /** The thing on an image, for a frame around it. */
  defineRoute({
    method: 'get',
    path: '/items/:id/edit/subject',
    right: 'look',
    params: Id,
    answer: SubjectView,
    handle: async ({ params }) => thingOn(site, await sourceOf(site, params.id)),
  }),

  defineRoute({
    method: 'get',
    path: '/arrivals/:id/edit/subject',
    right: 'bring-in',
    params: Id,
    answer: SubjectView,
    handle: ({ params, person }) => thingOn(site, arrivals.sourceOf(params.id, person.id)),
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
    path: '/items/:id/edit/made',
    right: 'look',
    params: Id,
    body: 'TryRecipe',
    answer: 'file',
    handle: async ({ params, body, ctx }) => {
      const source = await sourceOf(site, params.id);
      return madeFile(site, source, body.recipe, focalOf(site.items.need(params.id)), leaving(ctx));
    },
  }),

  defineRoute({
    method: 'post',
    path: '/arrivals/:id/edit/made',
    right: 'bring-in',
    params: Id,
    body: 'TryRecipe',
    answer: 'file',
    handle: ({ params, body, person, ctx }) =>
      madeFile(site, arrivals.sourceOf(params.id, person.id), body.recipe, undefined, leaving(ctx)),
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

async function thingOn(site: Services['site'], { file, original }: Source): Promise<SubjectView> {
  const found = await subjectIn(site, file, original.mime);
  return typeof found === 'string'
    ? { subject: null, why: `Nothing was framed: ${found}.` }
    : { subject: found, why: '' };
}

/** The very file that would be saved, for looking at its pixels. */
async function madeFile(
  site: Services['site'],
  source: Source,
  recipe: Recipe,
  focal: FocalPoint | undefined,
  signal: AbortSignal,
) {
  const to = site.data.workFile();
  const made = await rendered(site, source, recipe, to, { focal, signal });
  const body = createReadStream(to);
  body.once('close', () => {
    rm(to, { force: true }).catch(() => undefined);
  });
  return { type: made.mime, cache: 'no-store', policy: "default-src 'none'", body };
}

const Of = z.strictObject({
  of: z.string().regex(/^[0-9a-f]{64}$/),
  /** Pixels of its longer side at most. */
  side: z.coerce.number().int().min(40).max(SHOWN).default(SHOWN),
});

function leaving(ctx: Context): AbortSignal {
  const gone = new AbortController();
  ctx.res.once('close', () => gone.abort());
  return gone.signal;
}

/** An original as the bench shows it. */
async function shown(
  site: Services['site'],
  { file, original }: Pick<Source, 'file' | 'original'>,
  side: number,
) {
  const to = site.data.workFile();
  const recipe: Recipe = {
    version: 1,
    size: { by: 'fit', width: side, height: side },
    file: { format: 'webp', quality: 90 },
  };
  const made = await site.pool.run('prepare', {
    file,
    to,
    asked: { recipe, mime: original.mime, bare: true },
  });
  if ('refused' in made) throw new Fault('bad-request', made.refused, 'Choose another image.');
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
