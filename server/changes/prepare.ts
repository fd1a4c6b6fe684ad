import { rename, rm, writeFile } from 'node:fs/promises';
import { clashKey, joinPath, pathFault, stemOf, type SitePath } from '../../core/address/path.ts';
import { endingFor } from '../../core/picture/ending.ts';
import { positionOf, readFocal, writeFocal, type FocalPoint } from '../../core/picture/focal.ts';
import { describe } from '../../core/picture/recipe/describe.ts';
import { readEdit, writeEdit, type Edit } from '../../core/picture/recipe/edit.ts';
import { geometry } from '../../core/picture/recipe/geometry.ts';
import { isNothing, normalise, NO_RECIPE, type Recipe } from '../../core/picture/recipe/recipe.ts';
import type { RequestOf } from '../../core/plan/kinds/index.ts';
import { writeContent } from '../../core/plan/draft-content.ts';
import { emptyPlan, type ChangedImage, type Plan } from '../../core/plan/plan.ts';
import { Fault } from '../fault.ts';
import type { Site } from '../app/site.ts';
import type { Item } from '../db/item-rows.ts';
import type { Prepared } from '../media/prepare.ts';
import { contentOf } from './drafts.ts';
import { remakeSizes } from './family.ts';
import type { NewBytes } from './plan-bytes.ts';
import { needHere, newFolders, type Proposal } from './proposal.ts';
import { fromWorkFile } from './rendered.ts';
import { replaced } from './replace.ts';

type Reading = Pick<Site, 'folder' | 'blobs' | 'items'>;

/** An item that can be edited: on the site, or a draft. @throws Fault */
const needEditable = (site: Reading, itemId: number): Item => {
  const item = site.items.need(itemId);
  return item.state === 'draft' ? item : needHere(site, itemId);
};
export type Making = Reading & Pick<Site, 'data' | 'planBytes' | 'pool' | 'metadata'>;

/** What an image is edited from: its own original, or the file as it is. */
export interface Source extends Edit {
  /** Where its bytes are on the disk. */
  file: string;
}

/**
 * The original of an image and what has been made of it.
 * @throws Fault when it is no image that can be edited, or its original is not kept
 */
export async function sourceOf(site: Reading, itemId: number): Promise<Source> {
  const item = needEditable(site, itemId);
  if (item.kind !== 'image')
    throw new Fault(
      'bad-request',
      `“${item.name}” can’t be edited here: it isn’t an image.`,
      'Choose a JPEG, PNG, WebP, AVIF, TIFF or SVG image.',
    );
  if (item.unreadable !== null || !item.width || !item.height)
    throw new Fault(
      'bad-request',
      `“${item.name}” can’t be read, so it can’t be edited.`,
      'Replace the file.',
    );
  const edit = editOf(item);
  if (!edit) {
    const original = { sha256: item.sha256, mime: item.mime, width: item.width, height: item.height };
    const file = item.state === 'draft' ? site.blobs.get(item.sha256) : await site.folder.locate(item.path);
    return { recipe: NO_RECIPE, original, file };
  }
  if (!site.blobs.has(edit.original.sha256))
    throw new Fault(
      'not-found',
      `The original of “${item.name}” isn’t kept any more.`,
      'Restore it from a backup of the data folder, or replace the file to edit it anew.',
    );
  return { ...edit, file: site.blobs.get(edit.original.sha256) };
}

/** How an image was made of its original. @throws Fault when a newer version made it */
function editOf(item: Pick<Item, 'edit' | 'sha256'>): Edit | undefined {
  try {
    return readEdit(item.edit, item.sha256);
  } catch (error) {
    throw new Fault('bad-request', (error as Error).message, 'Nothing was changed.');
  }
}

/** What a recipe makes of an image, as it would be saved; the bytes are let go of. `signal`: nobody waits for it any more. */
export async function tryRecipe(
  site: Making,
  itemId: number,
  recipe: Recipe,
  signal?: AbortSignal,
): Promise<Prepared> {
  const item = needEditable(site, itemId);
  const source = await sourceOf(site, itemId);
  return tried(site, source, recipe, { focal: focalOf(item), signal });
}

/** What a recipe makes of an original; the bytes are let go of. */
export function tried(
  site: Pick<Site, 'data' | 'planBytes' | 'pool'>,
  source: Source,
  recipe: Recipe,
  how: { focal?: FocalPoint | undefined; signal?: AbortSignal | undefined } = {},
): Promise<Prepared> {
  return fromWorkFile(site, (to) => rendered(site, source, recipe, to, how));
}

/** Writes what a recipe makes of an original. @throws Fault when nothing can be made */
export async function rendered(
  site: Pick<Site, 'pool'>,
  { original, file }: Source,
  recipe: Recipe,
  to: string,
  how: { focal?: FocalPoint | undefined; signal?: AbortSignal | undefined; bare?: boolean } = {},
): Promise<Prepared> {
  const { focal, signal, bare } = how;
  const task = { file, to, asked: { recipe, mime: original.mime, bare, ...(focal ? { focal } : {}) } };
  const answer = await site.pool.run('prepare', task, { signal });
  if ('refused' in answer) throw new Fault('bad-request', answer.refused, 'Change the edit, then try again.');
  return answer;
}

/** What must be seen of the original: of an image that was edited, the point lies where the recipe took it. */
export function focalOf(item: Item) {
  const focal = readFocal(item.focal);
  const edit = editOf(item);
  if (!focal || !edit) return focal;
  const { x, y } = geometry(edit.recipe, edit.original).toSource(focal);
  const held = (value: number) => Math.min(1, Math.max(0, value));
  return { x: held(x), y: held(y) };
}

/**
 * Plans an image made anew from its original: at its address, with everything that names it and shows it following, or as an
 * item of its own.
 */
export async function proposePrepare(
  site: Making & Pick<Site, 'index' | 'scanner' | 'families' | 'references' | 'arrivals'>,
  { itemId, recipe: asked, to }: RequestOf<'prepare'>,
): Promise<Proposal> {
  await site.scanner.scan();
  const item = needEditable(site, itemId);
  const recipe = normalise(asked);
  const source = await sourceOf(site, itemId);
  const onlySizes = to.as === 'this' && to.sizes === 'sizes';
  if (isNothing(recipe) && source.original.sha256 === item.sha256)
    throw new Fault('bad-request', 'Nothing has been edited yet.', 'Change something first, then save.');
  const made = await madeBytes(site, source, item, recipe);
  const edit = isNothing(recipe) ? '' : writeEdit({ recipe, original: source.original }, made.sha256);
  const keeps = [{ file: source.file, sha256: source.original.sha256 }];
  const ending = endingFor(item.name, made.mime);
  const file = {
    sha256: made.sha256,
    name: `${stemOf(item.name)}${ending}`,
    width: made.width,
    height: made.height,
    takenAt: item.words.taken,
  };
  const back = isNothing(recipe) ? 'Back to the original' : describe(recipe).replace(/\.$/, '');
  if (item.state === 'draft')
    return editedDraft(site, { item, source, recipe, made, edit, ending, to, back });
  if (to.as === 'new')
    return newItem(site, item, made, edit, keeps, joinPath(to.folder, `${to.stem}${ending}`));

  if (onlySizes) {
    const proposal: Proposal = { plan: emptyPlan('prepare', `Edit the sizes of “${item.name}”: ${back}`) };
    await onDisk(site, made.sha256, (at) =>
      remakeSizes(site, proposal, item, { ...file, mime: made.mime, file: at }),
    );
    proposal.plan.totals.items = proposal.plan.files.length;
    proposal.plan.warnings.push(...made.notes);
    return proposal;
  }
  const focal = focalAfter(item, source, recipe);
  const position = positionChange(item, focal);
  const proposal = await onDisk(site, made.sha256, (at) =>
    replaced(
      site,
      item,
      { ...file, file: at, position },
      { name: 'keep', dates: 'keep' },
      to.sizes === 'all',
    ),
  );
  const { plan } = proposal;
  plan.kind = 'prepare';
  plan.title = `Edit “${item.name}”: ${back}`;
  plan.warnings.unshift(...made.notes);
  plan.images = [shownImage(item, made)];
  recordStep(plan, item, {
    edit: [item.edit, edit],
    ...(focal === item.focal ? {} : { focal: [item.focal, focal] as [string, string] }),
  });
  return { ...proposal, keeps };
}

/** Plans other bytes for a draft: no file of the site changes. @throws Fault when it is to become an item beside itself */
function editedDraft(
  site: Pick<Site, 'index' | 'items'>,
  {
    item,
    source,
    recipe,
    made,
    edit,
    ending,
    to,
    back,
  }: {
    item: Item;
    source: Source;
    recipe: Recipe;
    made: NewBytes & Prepared;
    edit: string;
    ending: string;
    to: RequestOf<'prepare'>['to'];
    back: string;
  },
): Proposal {
  if (to.as === 'new')
    throw new Fault(
      'bad-request',
      'A draft is edited in its place.',
      'Publish it first to save a copy beside it, or bring the file in twice.',
    );
  const plan = emptyPlan('prepare', `Edit the draft “${item.name}”: ${back}`);
  const focal = focalAfter(item, source, recipe);
  const path = joinPath(item.folder, `${stemOf(item.name)}${ending}`);
  const taken = [...site.index.paths, ...site.items.draftPaths()].some(
    (one) => one !== item.path && clashKey(one) === clashKey(path),
  );
  if (taken)
    plan.clashes.push({ path, why: 'There is a file with this name already. Rename the draft first.' });
  recordStep(plan, item, {
    content: [contentOf(item), writeContent(made)],
    edit: [item.edit, edit],
    ...(path === item.path ? {} : { path: [item.path, path] as [SitePath, SitePath] }),
    ...(focal === item.focal ? {} : { focal: [item.focal, focal] as [string, string] }),
  });
  plan.totals.items = 1;
  plan.warnings.push(...made.notes);
  plan.images = [shownImage(item, made)];
  return { plan, keeps: [{ file: source.file, sha256: source.original.sha256 }] };
}

/** New bytes of a plan as a file, for as long as they are needed as one. */
export async function onDisk<Result>(
  { planBytes, data }: Making,
  sha256: string,
  use: (file: string) => Promise<Result>,
): Promise<Result> {
  const at = planBytes.at(sha256)!;
  if ('file' in at) return use(at.file);
  const file = data.workFile();
  try {
    await writeFile(file, at.bytes);
    return await use(file);
  } finally {
    await rm(file, { force: true });
  }
}

async function newItem(
  site: Pick<Site, 'folder' | 'index'>,
  item: Item,
  made: NewBytes & Prepared,
  edit: string,
  keeps: Proposal['keeps'],
  path: SitePath,
): Promise<Proposal> {
  const plan = emptyPlan('prepare', `Save an edited copy of “${item.name}” as “${path}”`);
  const fault = pathFault(path);
  if (fault) plan.clashes.push({ path, why: fault });
  for (const one of site.index.paths)
    if (clashKey(one) === clashKey(path))
      plan.clashes.push({ path, why: 'There is a file with this name already. Choose another one.' });
  plan.files.push({ do: 'create', path, sha256: made.sha256 });
  plan.totals.items = 1;
  plan.warnings.push(...made.notes);
  plan.images = [shownImage(item, made, path)];
  plan.folders = await newFolders(site, plan);
  return { plan, copies: [{ path, of: item, edit }], ...(keeps ? { keeps } : {}) };
}

/** The focal point in the image as it will be: it stays on what it was set on, and is the middle where that was cut away. */
export function focalAfter(item: Item, source: Source, recipe: Recipe): string {
  const focal = focalOf(item);
  if (!focal) return item.focal;
  const { x, y } = geometry(recipe, source.original, focal).toOutput(focal);
  return x < 0 || y < 0 || x > 1 || y > 1 ? '' : writeFocal({ x, y });
}

/** How pages write the focal point, before and after; undefined where it stays. */
export const positionChange = (item: Item, focal: string) =>
  focal === item.focal
    ? undefined
    : { from: positionOf(readFocal(item.focal)), to: positionOf(readFocal(focal)) };

/** The bytes that a recipe makes, with what the original tells of itself, but for places, serial numbers and names of owners. */
export async function madeBytes(
  site: Making,
  source: Source,
  item: Item,
  recipe: Recipe,
): Promise<NewBytes & Prepared> {
  if (isNothing(recipe)) {
    const kept = await site.planBytes.copy(source.file, source.original.sha256);
    const { width, height, mime } = source.original;
    return { ...kept, width, height, mime, carried: true, tells: true, notes: [] };
  }
  return fromWorkFile(site, async (to) => {
    const focal = focalOf(item);
    const prepared = await rendered(site, source, recipe, to, { focal });
    return fromWorkFile(site, async (bare, take) => {
      const carried = await withoutPrivate(site, source, prepared, to, bare).catch(() => false);
      if (carried) return { ...prepared, ...(await take()) };
      // What it tells of itself could not be written, or held what must not get out: the image goes without it.
      await rm(bare, { force: true });
      await rendered(site, source, recipe, bare, { focal, bare: true });
      return {
        ...prepared,
        ...(await take()),
        notes: [...prepared.notes, 'Its metadata couldn’t be carried over into the new file.'],
      };
    });
  });
}

/** What was made, with what the original tells of itself but for what is private. @returns whether that could be done; else nothing is at `bare` */
async function withoutPrivate(
  { metadata }: Pick<Site, 'metadata'>,
  source: Source,
  prepared: Prepared,
  to: string,
  bare: string,
): Promise<boolean> {
  if (prepared.tells && prepared.carried) return metadata.copyWithoutPrivate(to, bare);
  if (prepared.tells && !(await metadata.carryWithoutPrivate(source.file, to))) return false;
  await rename(to, bare);
  return true;
}

/** An image before and after, as a plan shows it. */
export const shownImage = (
  item: Item,
  made: NewBytes & Prepared,
  to: SitePath = item.path,
): ChangedImage => ({
  itemId: item.id,
  path: item.path,
  ...(to === item.path ? {} : { to }),
  before: {
    width: item.width!,
    height: item.height!,
    bytes: item.bytes,
    mime: item.mime,
    sha256: item.sha256,
  },
  after: {
    width: made.width,
    height: made.height,
    bytes: made.bytes,
    mime: made.mime,
    sha256: made.sha256,
  },
  notes: [],
});

/** Adds to the record step of an item, or makes one. */
export function recordStep(
  plan: Plan,
  item: Item,
  changes: Partial<Record<'edit' | 'focal' | 'content' | 'path', [before: string, after: string]>>,
): void {
  const before = Object.fromEntries(Object.entries(changes).map(([key, [value]]) => [key, value]));
  const after = Object.fromEntries(Object.entries(changes).map(([key, [, value]]) => [key, value]));
  const step = plan.records.find((one) => one.itemId === item.id);
  if (step) {
    Object.assign(step.before, before);
    Object.assign(step.after, after);
  } else plan.records.push({ itemId: item.id, rowVersion: item.rowVersion, before, after });
}
