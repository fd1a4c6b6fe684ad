import { joinPath, stemOf, type SitePath } from '../../core/address/path.ts';
import { writeEdit } from '../../core/picture/recipe/edit.ts';
import { merge, type Recipe, type Size } from '../../core/picture/recipe/recipe.ts';
import { emptyPlan } from '../../core/plan/plan.ts';
import type { PlanKind } from '../../core/plan/verbs.ts';
import { Fault } from '../fault.ts';
import { FILM_LIMIT } from '../limits.ts';
import type { Site } from '../app/site.ts';
import type { Item } from '../db/item-rows.ts';
import type { Running } from '../workers/pool.ts';
import { planMoves } from './addresses.ts';
import type { NewBytes } from './plan-bytes.ts';
import { madeBytes, recordStep, sourceOf, type Making, type Source } from './prepare.ts';
import { ANY_HEIGHT, fromWorkFile, renderedImage } from './rendered.ts';
import { itemsNow, newFolders, type Progress, type Proposal } from './proposal.ts';
import { Unchanged } from './unchanged.ts';

/** What is needed of a site here. */
type Needs = Pick<
  Site,
  | 'folder'
  | 'data'
  | 'planBytes'
  | 'index'
  | 'scanner'
  | 'items'
  | 'references'
  | 'contents'
  | 'findings'
  | 'pool'
  | 'metadata'
  | 'blobs'
>;

/** Formats that are made smaller without changing what they are. */
const SHRUNK = new Set(['image/jpeg', 'image/png', 'image/webp', 'image/avif']);
/** A copy that saves less is not worth a generation of losses. */
const WORTH = 0.95;

/** How an image was made anew of its original: what its record says of that from then on. */
interface Edited {
  edit: string;
  source: Source;
}
/** Other bytes of an item, or in a sentence's end why it stays as it is. */
export type Copy = (NewBytes & { edited?: Edited }) | { stays: string };
/** Makes it; `progress`: how much of a long one is done, 0 to 1. */
type Copier = (item: Item, progress?: (share: number) => void) => Promise<Copy>;

/**
 * Plans images with as many pixels as the widest place needs twice over, and PDFs whose images have as many as a screen shows, at the
 * same address; the bytes of before become a version.
 */
export async function proposeLighter(
  site: Needs,
  ids: readonly number[],
  progress?: Progress,
): Promise<Proposal> {
  const items = await itemsNow(site, ids);
  const copy = lighterCopies(site, ids, progress?.signal);
  const proposal = await rewritten('lighten', items, copy, [progress, 'items compressed']);
  const { items: count } = proposal.plan.totals;
  proposal.plan.title = `Compress ${count === 1 ? '1 item' : `${count} items`}`;
  return proposal;
}

/** Plans copies without the place where they were taken; nothing is encoded anew, and the bytes of before become a version. */
export async function proposeWithoutPlace(
  site: Needs,
  ids: readonly number[],
  progress?: Progress,
): Promise<Proposal> {
  const items = await itemsNow(site, ids);
  const without = async (item: Item): Promise<Copy> => {
    try {
      const file = await site.folder.locate(item.path);
      if (!(await site.metadata.read(file)).place) return { stays: 'it contains no location' };
      return await fromWorkFile(site, async (to, take) =>
        (await site.metadata.copyWithoutPrivate(file, to))
          ? take()
          : { stays: 'its location couldn’t be removed' },
      );
    } catch {
      // Of a batch, the others go on; where the cause is the disk, writing the plan says so.
      return { stays: 'it couldn’t be copied' };
    }
  };
  const proposal = await rewritten('without-place', items, without, [progress, 'files written']);
  const { items: count } = proposal.plan.totals;
  proposal.plan.title = `Remove the location from ${count === 1 ? '1 file' : `${count} files`}`;
  return proposal;
}

/** The same items with other bytes; what stays is told. */
async function rewritten(
  kind: PlanKind,
  items: readonly Item[],
  copy: Copier,
  [progress, what]: [Progress | undefined, string],
): Promise<Proposal> {
  const plan = emptyPlan(kind, '');
  const proposal: Proposal = { plan };
  const unchanged = new Unchanged();
  for (const [at, item] of items.entries()) {
    progress?.(at, items.length, what);
    const made = await copy(item, (share) =>
      progress?.(at, items.length, `${what}; “${item.name}” to ${Math.round(100 * share)} %`),
    );
    if ('stays' in made) {
      unchanged.add(item.path, `${made.stays}.`);
      continue;
    }
    plan.files.push({ do: 'write', path: item.path, before: item.sha256, after: made.sha256 });
    remember(proposal, item, made.edited);
    plan.totals.items++;
    plan.totals.bytesFreed += item.bytes - made.bytes;
  }
  plan.warnings.push(...unchanged.lines());
  return proposal;
}

/** The original stays at hand, and the record knows how the image was made of it. */
function remember(proposal: Proposal, item: Item, edited: Edited | undefined): void {
  if (!edited) return;
  const { file, original } = edited.source;
  proposal.keeps = [...(proposal.keeps ?? []), { file, sha256: original.sha256 }];
  recordStep(proposal.plan, item, { edit: [item.edit, edited.edit] });
}

/** Makes items lighter that are shown somewhere: only for their own ids. */
export function lighterCopies(
  site: Making & Pick<Site, 'findings'>,
  ids: readonly number[],
  signal?: AbortSignal,
): Copier {
  const widest = new Map(site.findings.checkInputs(ids).map((one) => [one.id, one.widest]));
  return async (item, progress) => {
    if (item.mime === 'application/pdf') return lighterPdf(site, item);
    if (item.kind === 'video') {
      const made = await lighterFilm(site, item, { signal, progress });
      return 'stays' in made ? made : worth(item, made);
    }
    const wide = widest.get(item.id) ?? null;
    if (!SHRUNK.has(item.mime) || !item.width || wide === null || item.width <= 2 * wide)
      return { stays: 'no page displays it smaller' };
    return madeAnew(site, item, (recipe) => merge(recipe, { size: noWider(recipe.size, item, 2 * wide) }));
  };
}

const worth = (item: Item, made: NewBytes & { edited?: Edited }): Copy =>
  made.bytes > item.bytes * WORTH ? { stays: 'it would hardly get smaller' } : made;

/** An image made anew of its original by a further step of its recipe: it loses once, however often it was changed. */
async function madeAnew(site: Making, item: Item, further: (recipe: Recipe) => Recipe): Promise<Copy> {
  try {
    const source = await sourceOf(site, item.id);
    const recipe = further(source.recipe);
    const made = await madeBytes(site, source, item, recipe);
    const edit = writeEdit({ recipe, original: source.original }, made.sha256);
    return worth(item, { sha256: made.sha256, bytes: made.bytes, edited: { edit, source } });
  } catch (error) {
    if (error instanceof Fault && ['bad-request', 'not-found'].includes(error.code))
      return { stays: lowered(error.message) };
    throw error;
  }
}
/** A sentence as the end of another one. */
const lowered = (sentence: string) =>
  sentence.replace(/\.$/, '').replace(/^[A-Z](?=[a-z ])/, (one) => one.toLowerCase());

/** The size step that brings an image to a width, in the shape that it has now. */
function noWider(size: Size | undefined, item: Item, width: number): Size {
  const sharpen = size?.sharpen ? { sharpen: size.sharpen } : {};
  if (size?.by === 'cover')
    return {
      by: 'cover',
      width,
      height: Math.max(1, Math.round((item.height! * width) / item.width!)),
      ...sharpen,
    };
  return { by: 'width', width, ...sharpen };
}

async function lighterPdf(
  site: Pick<Site, 'folder' | 'data' | 'planBytes' | 'pool'>,
  item: Item,
): Promise<Copy> {
  const file = await site.folder.locate(item.path);
  return fromWorkFile(site, async (to, take) => {
    const answer = await site.pool.run('shrinkPdf', { file, to });
    if ('left' in answer) return { stays: answer.left };
    return answer.shrunk === 0 ? { stays: 'it has no photographs to compress' } : worth(item, await take());
  });
}

/** @param piece only a part of it, in seconds */
async function lighterFilm(
  site: Pick<Site, 'folder' | 'data' | 'planBytes' | 'pool'>,
  item: Item,
  how: Running,
  piece?: { from: number; seconds: number },
): Promise<Copy> {
  try {
    const file = await site.folder.locate(item.path);
    return await fromWorkFile(site, async (to, take) => {
      const task = { file, to, mime: item.mime, piece };
      const { left } = await site.pool.run('shrinkFilm', task, { ...how, limit: FILM_LIMIT });
      return left === undefined ? take() : { stays: left };
    });
  } catch (error) {
    if (how.signal?.aborted) throw error;
    return { stays: `it couldn’t be encoded: ${(error as Error).message}` };
  }
}

/** Seconds of a video that are encoded to know what all of it would weigh. */
const PIECE = 3;
/** What a video would weigh if all of it were as its beginning. */
export async function filmSample(
  site: Pick<Site, 'folder' | 'data' | 'planBytes' | 'pool'>,
  item: Item,
  signal: AbortSignal,
) {
  const duration = item.duration ?? 0;
  const seconds = Math.min(PIECE, duration / 2);
  const made = await lighterFilm(site, item, { signal }, { from: Math.min(5, duration / 4), seconds });
  return 'stays' in made ? item.bytes : Math.min(item.bytes, (made.bytes * duration) / seconds);
}

/** CSS pixels that a phone is wide, on a screen twice as dense. */
const PHONE = 2 * 400;
/** What a phone would load of an image if it were offered a size for it. */
export async function phoneCopy(
  site: Pick<Site, 'folder' | 'data' | 'planBytes' | 'pool'>,
  item: Item,
): Promise<Copy> {
  if (!SHRUNK.has(item.mime)) return { stays: 'no sizes can be made of it' };
  const file = await site.folder.locate(item.path);
  const box = { width: PHONE, height: ANY_HEIGHT, mime: item.mime };
  return worth(item, await renderedImage(site, file, box));
}

/** A photograph that is a PNG, as a JPEG. */
export async function jpegCopy(site: Making & Pick<Site, 'contents'>, item: Item): Promise<Copy> {
  if (item.mime === 'image/jpeg')
    return {
      stays: 'a drawing saved as JPEG can’t get its clean edges back; replace it with the original',
    };
  if (item.mime !== 'image/png' || !item.width) return { stays: 'it isn’t a readable PNG' };
  const opaque = site.contents.isOpaque(item.sha256);
  if (opaque === undefined) return { stays: 'it hasn’t been checked yet and may be transparent' };
  if (!opaque) return { stays: 'it has transparent parts, which JPEG can’t store' };
  return madeAnew(site, item, (recipe) => merge(recipe, { file: { ...recipe.file, format: 'jpeg' } }));
}

/**
 * Plans photographs that are PNGs as JPEGs, each under its name with another ending: every reference follows, a redirect is kept, and the
 * bytes of before become a version. What has transparent parts, or would hardly be lighter, stays.
 */
export async function proposeJpegs(
  site: Needs,
  ids: readonly number[],
  progress?: Progress,
): Promise<Proposal> {
  const items = await itemsNow(site, ids);
  const encoded = new Map<number, NewBytes & { edited?: Edited }>();
  const copy = async (item: Item) => {
    const made = await jpegCopy(site, item);
    if (!('stays' in made)) encoded.set(item.id, made);
    return made;
  };
  const { plan: tried } = await rewritten('convert', items, copy, [progress, 'images encoded']);
  const turned = items.filter(({ id }) => encoded.has(id));
  const to = new Map(turned.map((item): [number, SitePath] => [item.id, renamed(item, '.jpg')]));
  const proposal = await planExtensionChange(site, items, to, progress);
  const { plan } = proposal;
  plan.kind = 'convert';
  plan.title = `Convert ${to.size === 1 ? '1 image' : `${to.size} images`} to JPEG`;
  plan.warnings.push(...tried.warnings);
  plan.totals.bytesFreed = tried.totals.bytesFreed;
  if (plan.clashes.length > 0) return proposal;
  for (const item of turned) {
    const { sha256: after, edited } = encoded.get(item.id)!;
    plan.files.push({ do: 'write', path: to.get(item.id)!, before: item.sha256, after });
    remember(proposal, item, edited);
  }
  plan.folders = await newFolders(site, plan);
  return proposal;
}

/** Endings of what a file's first bytes can be. */
const ENDING_OF: Record<string, string> = {
  'image/jpeg': '.jpg',
  'image/png': '.png',
  'image/apng': '.png',
  'image/webp': '.webp',
  'image/avif': '.avif',
  'image/gif': '.gif',
  'image/tiff': '.tif',
  'image/bmp': '.bmp',
  'image/heic': '.heic',
  'application/pdf': '.pdf',
  'video/mp4': '.mp4',
  'video/webm': '.webm',
  'video/quicktime': '.mov',
  'audio/mpeg': '.mp3',
  'audio/wav': '.wav',
  'audio/ogg': '.ogg',
  'audio/flac': '.flac',
};

/** Plans that files whose content is of another type than their name says get the ending of what they are; every reference follows. */
export async function proposeRightEndings(
  site: Needs,
  ids: readonly number[],
  progress?: Progress,
): Promise<Proposal> {
  const items = await itemsNow(site, ids);
  const content = new Map(site.findings.checkInputs(ids).map((one) => [one.id, one.contentMime]));
  const unchanged = new Unchanged();
  const to = new Map<number, SitePath>();
  for (const item of items) {
    const mime = content.get(item.id) ?? '';
    const ending = ENDING_OF[mime];
    if (ending && mime !== item.mime) to.set(item.id, renamed(item, ending));
    else
      unchanged.add(
        item.path,
        mime === item.mime ? 'its extension is right.' : 'no extension is known for its content.',
      );
  }
  const proposal = await planExtensionChange(site, items, to, progress);
  const { plan } = proposal;
  plan.title = `Correct the extension of ${to.size === 1 ? '1 file' : `${to.size} files`}`;
  plan.warnings.push(...unchanged.lines());
  return proposal;
}

const renamed = (item: Item, ending: string): SitePath =>
  joinPath(item.folder, `${stemOf(item.name)}${ending}`);

/** The plan of new addresses with other endings; one without changes where there are none. */
async function planExtensionChange(
  site: Pick<Site, 'folder' | 'planBytes' | 'index' | 'references' | 'pool'>,
  items: readonly Item[],
  to: ReadonlyMap<number, SitePath>,
  progress?: Progress,
): Promise<Proposal> {
  const some = items.filter(({ id }) => to.has(id));
  const proposal: Proposal =
    some.length > 0
      ? await planMoves(site, [...some], to, [], progress, true)
      : { plan: emptyPlan('rename', '') };
  proposal.plan.totals.items = some.length;
  return proposal;
}
