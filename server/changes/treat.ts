import { copyFile, writeFile } from 'node:fs/promises';
import { numberedName } from '../../core/address/name.ts';
import type { FramingView } from '../../api/edits.ts';
import {
  baseName,
  clashKey,
  folderOf,
  joinPath,
  pathFault,
  stemOf,
  type SitePath,
} from '../../core/address/path.ts';
import { newNames } from '../../core/naming/names.ts';
import type { NamePattern } from '../../core/naming/pattern.ts';
import { WHOLE } from '../../core/picture/recipe/frame.ts';
import { endingFor } from '../../core/picture/ending.ts';
import { writeEdit } from '../../core/picture/recipe/edit.ts';
import { isDrawing } from '../../core/picture/recipe/drawing.ts';
import { inOriented, recipeFor, type Treatment } from '../../core/picture/recipe/treatments.ts';
import { merge, type Frame, type Recipe } from '../../core/picture/recipe/recipe.ts';
import { SURE, type Subject } from '../../core/picture/subject.ts';
import { each, setOf } from '../../core/paced.ts';
import type { RequestOf } from '../../core/plan/kinds/index.ts';
import { emptyPlan } from '../../core/plan/plan.ts';
import { Fault } from '../fault.ts';
import type { Site } from '../app/site.ts';
import type { Item } from '../db/item-rows.ts';
import type { Prepared } from '../media/prepare.ts';
import { breathe } from '../workers/breathe.ts';
import { inLanes } from '../workers/lanes.ts';
import { planMoves } from './addresses.ts';
import { remakeSizes, sizesFollow } from './family.ts';
import { namingFacts } from './naming-facts.ts';
import type { NewBytes } from './plan-bytes.ts';
import {
  focalAfter,
  madeBytes,
  onDisk,
  positionChange,
  recordStep,
  shownImage,
  sourceOf,
  type Making,
  type Source,
} from './prepare.ts';
import { Unchanged } from './unchanged.ts';
import { itemsNow, newFolders, type Progress, type Proposal } from './proposal.ts';
import { resizeOnPages } from './replace.ts';

type Needs = Making & Pick<Site, 'index' | 'scanner' | 'families' | 'references'>;

/** So many images at once: while one is encoded, metadata of another are written. */
const LANES = 4;

/** An image that was treated. */
interface Treated {
  item: Item;
  source: Source;
  recipe: Recipe;
  made: NewBytes & Prepared;
}

/**
 * Plans many images made anew from their originals by one treatment. What cannot be treated, or would not be changed, stays and
 * is told; the others go on.
 */
export async function proposeTreat(
  site: Needs,
  { itemIds, treatment, own, to }: RequestOf<'treat'>,
  progress?: Progress,
): Promise<Proposal> {
  const items = await itemsNow(site, itemIds);
  const chosen = new Set(itemIds);
  const frames = new Map((own ?? []).map((one) => [one.itemId, one.frame]));
  const outcomes = new Map<number, Treated | string>();
  let at = 0;
  await inLanes(
    items,
    async (item) => {
      progress?.(at, items.length, 'images treated');
      outcomes.set(
        item.id,
        to.as === 'these' && to.sizes && item.sizeOf !== null && chosen.has(item.sizeOf)
          ? 'It is a smaller size and is made anew with its image.'
          : to.as === 'these' && isDrawing(item.mime)
            ? 'It is a drawing, sharp at any size. Images are made of drawings as new items.'
            : await treatedOne(site, item, treatment, frames.get(item.id)),
      );
      at++;
    },
    LANES,
  );
  const done: Treated[] = [];
  const unchanged = new Unchanged();
  for (const item of items) {
    const outcome = outcomes.get(item.id)!;
    if (typeof outcome === 'string') unchanged.add(item.path, outcome);
    else done.push(outcome);
  }
  const folder = to.as === 'new' ? to.folder : undefined;
  const paths = await pathsOf(site, done, treatment.pattern, folder);
  const proposal =
    to.as === 'new' ? asNewItems(done, paths) : await inPlace(site, done, paths, to.sizes, progress);
  const { plan } = proposal;
  plan.kind = 'prepare';
  plan.title = `${treatment.name}: ${done.length === 1 ? '1 image' : `${done.length.toLocaleString('en')} images`}`;
  plan.totals.items = done.length;
  plan.totals.bytesFreed = done.reduce((sum, { item, made }) => sum + item.bytes - made.bytes, 0);
  plan.images = done.map(({ item, made }) => ({
    ...shownImage(item, made, paths.get(item.id)),
    notes: made.notes,
  }));
  plan.warnings = [...new Set([...unchanged.lines(), ...plan.warnings])];
  plan.folders = await newFolders(site, plan);
  return {
    ...proposal,
    keeps: done.map(({ source }) => ({ file: source.file, sha256: source.original.sha256 })),
  };
}

/**
 * An image made anew by a treatment, as a file that isn't there yet; the site is not changed.
 * @returns its media type, or why it stays as it is
 */
export function treatedCopy(
  site: Making,
  item: Item,
  treatment: Treatment,
  to: string,
): Promise<{ mime: string } | { why: string }> {
  return site.planBytes.during(async () => {
    const treated = await treatedOne(site, item, treatment, undefined);
    if (typeof treated === 'string') return { why: treated };
    const { sha256, mime } = treated.made;
    const at = site.planBytes.at(sha256)!;
    await ('bytes' in at ? writeFile(to, at.bytes) : copyFile(at.file, to));
    return { mime };
  });
}

/** One image by a treatment, or why it stays as it is: what one cannot keeps none of the others. */
async function treatedOne(
  site: Making,
  item: Item,
  treatment: RequestOf<'treat'>['treatment'],
  frame: Frame | undefined,
): Promise<Treated | string> {
  if (item.kind !== 'image') return 'It isn’t an image.';
  try {
    const source = await sourceOf(site, item.id);
    const { found, recipe } = await framed(site, source, treatment, frame);
    const made = await madeBytes(site, source, item, recipe);
    if (typeof found === 'string') made.notes.push(`Framed as a whole: ${found}.`);
    return made.sha256 === item.sha256 ? 'It is like that already.' : { item, source, recipe, made };
  } catch (error) {
    // Where the cause is the disk, or a stop, all of it ends.
    if (error instanceof Fault && ['bad-request', 'not-found'].includes(error.code)) return error.message;
    throw error;
  }
}

/** The recipe that a treatment is for an image, with what was found on it: a frame of its own needs nothing found. */
async function framed(
  site: Pick<Site, 'pool'>,
  source: Source,
  treatment: Treatment,
  frame: Frame | undefined,
): Promise<{ found: Subject | string | undefined; recipe: Recipe }> {
  const wanted = treatment.shape?.how === 'subject' && !frame && !isDrawing(source.original.mime);
  const found = wanted ? await subjectIn(site, source.file, source.original.mime) : undefined;
  const common = recipeFor(treatment, source.original, typeof found === 'string' ? undefined : found);
  return { found, recipe: frame ? merge(common, { frame }) : common };
}

/** How a treatment frames images, to be looked at side by side before anything is made. */
export async function framings(
  site: Making & Pick<Site, 'items'>,
  itemIds: readonly number[],
  treatment: Treatment,
): Promise<FramingView[]> {
  const views: FramingView[] = [];
  await inLanes(
    itemIds,
    async (itemId) => {
      const item = site.items.get(itemId);
      if (!item) return;
      const told = { itemId, path: item.path };
      try {
        const source = await sourceOf(site, itemId);
        const { found, recipe } = await framed(site, source, treatment, undefined);
        const { original } = source;
        const { orient, frame = WHOLE } = recipe;
        const subject = typeof found === 'object' ? inOriented(found, orient, original) : null;
        const why = typeof found === 'string' ? `Framed as a whole: ${found}.` : '';
        views.push({ ...told, original, orient: orient ?? null, frame, subject, why });
      } catch (error) {
        if (!(error instanceof Fault) || !['bad-request', 'not-found'].includes(error.code)) throw error;
        views.push({
          ...told,
          original: null,
          orient: null,
          frame: WHOLE,
          subject: null,
          why: error.message,
        });
      }
    },
    LANES,
  );
  const order = new Map(itemIds.map((id, at) => [id, at]));
  return views.sort((a, b) => order.get(a.itemId)! - order.get(b.itemId)!);
}

/** What stands in an image, or why that is not known. */
export async function subjectIn(
  site: Pick<Site, 'pool'>,
  file: string,
  mime: string,
): Promise<Subject | string> {
  const answer = await site.pool.run('subject', { file, mime });
  if ('refused' in answer) throw new Fault('bad-request', answer.refused, 'Choose another image.');
  const { found } = answer;
  if (found === 'no plain ground') return 'it has no plain ground';
  if (found === 'nothing on it') return 'nothing stands out from its ground';
  return found.sure < SURE ? 'it isn’t clear where the thing on it ends' : found;
}

/**
 * Where each image goes, by the names that a pattern gives, else by its own with the ending of what it becomes. Names that are taken get
 * a number; in place, those that stay keep theirs.
 * @param folder of new items; undefined: each stays in its own
 */
async function pathsOf(
  site: Pick<Site, 'index' | 'references'>,
  done: readonly Treated[],
  pattern: NamePattern | undefined,
  folder: SitePath | undefined,
): Promise<Map<number, SitePath>> {
  const ended = ({ item, made }: Treated) =>
    joinPath(folder ?? item.folder, `${stemOf(item.name)}${endingFor(item.name, made.mime)}`);
  const named = pattern && pattern.pieces.length > 0 ? pattern : undefined;
  if (!named && folder === undefined) return new Map(done.map((one) => [one.item.id, ended(one)]));
  const leaving = new Set(folder === undefined ? done.map(({ item }) => clashKey(item.path)) : []);
  if (!named) {
    const taken = await setOf(site.index.paths, breathe, clashKey);
    return new Map(
      done.map((one): [number, SitePath] => {
        const wanted = ended(one);
        let path = wanted;
        for (let number = 2; taken.has(clashKey(path)); number++)
          path = joinPath(folderOf(wanted), numberedName(baseName(wanted), number));
        taken.add(clashKey(path));
        return [one.item.id, path];
      }),
    );
  }
  const titles = site.references.pageTitles(
    done.map(({ item }) => item.id),
    true,
  );
  const facts = done.map((one) => ({
    ...namingFacts(one.item, titles.get(one.item.id) ?? []),
    path: ended(one),
    width: one.made.width,
    height: one.made.height,
  }));
  const taken = new Map<SitePath, string[]>(facts.map(({ path }) => [folderOf(path), []]));
  await each(site.index.paths, breathe, (path) => {
    if (!leaving.has(clashKey(path))) taken.get(folderOf(path))?.push(baseName(path));
  });
  return new Map(newNames(facts, named, taken).map(({ id, to }) => [id, to]));
}

function asNewItems(done: readonly Treated[], paths: ReadonlyMap<number, SitePath>): Proposal {
  const plan = emptyPlan('prepare', '');
  const copies: NonNullable<Proposal['copies']> = [];
  for (const { item, source, recipe, made } of done) {
    const path = paths.get(item.id)!;
    const fault = pathFault(path);
    if (fault) plan.clashes.push({ path, why: fault });
    plan.files.push({ do: 'create', path, sha256: made.sha256 });
    copies.push({ path, of: item, edit: writeEdit({ recipe, original: source.original }, made.sha256) });
  }
  return { plan, copies };
}

async function inPlace(
  site: Needs,
  done: readonly Treated[],
  to: ReadonlyMap<number, SitePath>,
  sizes: boolean,
  progress?: Progress,
): Promise<Proposal> {
  const moving = done.filter(({ item }) => to.get(item.id) !== item.path).map(({ item }) => item);
  const moves = new Map(moving.map((item): [SitePath, SitePath] => [item.path, to.get(item.id)!]));
  const sizesTo = new Map<number, SitePath>();
  let proposal: Proposal = { plan: emptyPlan('prepare', '') };
  if (moving.length > 0) {
    const own = new Map(moving.map(({ id }) => [id, to.get(id)!]));
    const along = await sizesFollow(site, moving, own);
    for (const [id, path] of along.to) sizesTo.set(id, path);
    proposal = await planMoves(
      site,
      [...moving],
      new Map([...own, ...along.to]),
      [],
      progress,
      true,
      along.sizes,
    );
    proposal.plan.warnings.push(...along.warnings);
    proposal.plan.records.push(...along.staying);
  }
  const { plan } = proposal;
  if (plan.clashes.length > 0) return proposal;
  for (const { item, source, recipe, made } of done) {
    const path = to.get(item.id)!;
    plan.files.push({ do: 'write', path, before: item.sha256, after: made.sha256 });
    const focal = focalAfter(item, source, recipe);
    recordStep(plan, item, {
      edit: [item.edit, writeEdit({ recipe, original: source.original }, made.sha256)],
      ...(focal === item.focal ? {} : { focal: [item.focal, focal] }),
    });
    if (sizes)
      await onDisk(site, made.sha256, (file) =>
        remakeSizes(site, proposal, item, { file, width: made.width, mime: made.mime }, sizesTo),
      );
    const position = positionChange(item, focal);
    await resizeOnPages(site, proposal, item, path, moves, { ...made, position });
  }
  plan.totals.pages = plan.pages.length;
  plan.totals.spans = plan.pages.reduce((sum, page) => sum + page.changes.length, 0);
  return proposal;
}
