import { mimeOf } from '../../core/address/kinds.ts';
import {
  baseName,
  clashKey,
  extensionOf,
  folderOf,
  isWithin,
  joinPath,
  stemOf,
  type SitePath,
} from '../../core/address/path.ts';
import { each, filter, mapOf, setOf } from '../../core/paced.ts';
import { nameOfSize } from '../../core/naming/variants.ts';
import { emptyPlan, type RecordStep, type RecordValues } from '../../core/plan/plan.ts';
import { wordsToTakeOver } from '../../core/upkeep/keeper.ts';
import { Fault } from '../fault.ts';
import type { Site } from '../app/site.ts';
import type { Item } from '../db/item-rows.ts';
import { needAllHere, needHere, type Proposal } from './proposal.ts';
import { ANY_HEIGHT, renderedImage } from './rendered.ts';
import { breathe } from '../workers/breathe.ts';

/** Image formats that are made smaller without changing what they are. */
export const SCALED: ReadonlySet<string> = new Set(['image/jpeg', 'image/png', 'image/webp', 'image/avif']);

/** Sizes that go along with their images. */
export interface SizesAlong {
  /** Sizes that get another address with their image. */
  sizes: Item[];
  to: Map<number, SitePath>;
  /** Those that stay where they are: a person's word keeps them with their image, as their names no longer do. */
  staying: RecordStep[];
  /** Which stay, and why. */
  warnings: string[];
}

/**
 * Where the sizes of images go when these get other addresses: into the same folder, or below it as before, called as their image is
 * now. One whose new address is taken stays, as its image's record does not depend on it.
 * @param extension what all of them end with now; undefined: as before
 */
export async function sizesFollow(
  site: Pick<Site, 'index' | 'items' | 'families'>,
  items: readonly Item[],
  to: ReadonlyMap<number, SitePath>,
  extension?: string,
): Promise<SizesAlong> {
  const along: SizesAlong = { sizes: [], to: new Map(), staying: [], warnings: [] };
  const moving = await filter(items, breathe, (item) => to.get(item.id) !== item.path);
  const mains = await mapOf(moving, breathe, (item) => [item.id, item]);
  const own = await setOf(items, breathe, (item) => item.id);
  const sizes = (await site.items.many(await site.families.sizesOf([...mains.keys()]))).filter(
    (size) => size.state === 'here' && !own.has(size.id),
  );
  if (sizes.length === 0) return along;
  const leaving = await setOf([...moving, ...sizes], breathe, (item) => item.path);
  const taken = await setOf(site.index.paths, breathe, (path) =>
    leaving.has(path) ? undefined : clashKey(path),
  );
  await each(moving, breathe, (item) => taken.add(clashKey(to.get(item.id)!)));
  await each(sizes, breathe, (size) => {
    const main = mains.get(size.sizeOf!)!;
    const path = addressOfSize(size.path, main.path, to.get(main.id)!, extension);
    if (path === size.path) return;
    if (taken.has(clashKey(path))) {
      along.warnings.push(`“${size.path}”, a size of “${main.name}”, stays where it is: “${path}” is taken.`);
      if (size.family !== main.id)
        along.staying.push(step(size, { family: size.family }, { family: main.id }));
      taken.add(clashKey(size.path));
      return;
    }
    taken.add(clashKey(path));
    along.sizes.push(size);
    along.to.set(size.id, path);
  });
  return along;
}

function addressOfSize(size: SitePath, main: SitePath, to: SitePath, extension?: string): SitePath {
  const [from, folder] = [folderOf(main), folderOf(to)];
  const moved = from !== folder;
  const below = from !== '' && isWithin(from, folderOf(size)) ? folderOf(size).slice(from.length) : '';
  const stem = nameOfSize(stemOf(baseName(size)), stemOf(baseName(main)), stemOf(baseName(to)));
  return joinPath(
    moved ? `${folder}${folder === '' ? below.slice(1) : below}` : folderOf(size),
    `${stem}${extension ?? extensionOf(size)}`,
  );
}

/**
 * Makes the sizes of an image anew, as it gets other bytes.
 * @param file the new bytes, on the disk
 * @param at where each size lies by then
 */
export async function remakeSizes(
  site: Pick<Site, 'data' | 'planBytes' | 'items' | 'families' | 'pool'>,
  proposal: Proposal,
  item: Item,
  { file, width, mime }: { file: string; width: number | null; mime: string },
  at: ReadonlyMap<number, SitePath> = new Map(),
): Promise<void> {
  const sizes = site.items.some(site.families.sizesOfOne(item.id)).filter((size) => size.state === 'here');
  for (const size of sizes) {
    const path = at.get(size.id) ?? size.path;
    if (proposal.plan.files.some((one) => one.do === 'write' && one.path === path)) continue;
    if (!SCALED.has(mime) || !size.width || mimeOf(path) !== mime) {
      proposal.plan.warnings.push(
        `“${size.path}”, a size of it, can’t be made from the new file, so it still shows the old image.`,
      );
      continue;
    }
    if (width !== null && width < size.width)
      proposal.plan.warnings.push(
        `“${size.path}”, a size of it, becomes ${width} pixels wide instead of ${size.width}: the new file has no more.`,
      );
    const { sha256: after } = await renderedImage(site, file, {
      width: size.width,
      height: ANY_HEIGHT,
      mime,
    });
    if (after !== size.sha256) proposal.plan.files.push({ do: 'write', path, before: size.sha256, after });
  }
}

/**
 * Plans what a person says of families: that images are sizes of another one, that they stand for themselves, or that it is to be found
 * out again. Words that sizes have and their image lacks become the image's.
 * @param of the image; 'apart': they stand for themselves; 'found': as it is found
 */
export async function proposeFamily(
  site: Pick<Site, 'items'>,
  ids: readonly number[],
  of: number | 'apart' | 'found',
): Promise<Proposal> {
  const items = await needAllHere(site, ids);
  const what = items.length === 1 ? `“${items[0]!.name}”` : `${items.length.toLocaleString('en')} images`;
  const main = typeof of === 'number' ? needHere(site, of) : undefined;
  const plan = emptyPlan(
    'arrange',
    main
      ? `Add ${what} to “${main.name}” as ${items.length === 1 ? 'a size' : 'sizes'}`
      : of === 'apart'
        ? `Separate ${what} from ${items.length === 1 ? 'its main image' : 'their main images'}`
        : `Detect the main image of ${what} again`,
  );
  for (const item of [...items, ...(main ? [main] : [])])
    if (item.kind !== 'image')
      plan.clashes.push({ path: item.path, why: 'Only images have sizes. Skip this one.' });
  if (main && ids.includes(main.id))
    throw new Fault('bad-request', 'An image can’t be a size of itself.', 'Choose another one.');
  const after = main ? main.id : of === 'apart' ? 0 : null;
  for (const item of items)
    if (item.family !== after) plan.records.push(step(item, { family: item.family }, { family: after }));
  if (main) {
    // It may be called a size of another one itself: it is the image now.
    const before: Partial<RecordValues> = {};
    const becomes: Partial<RecordValues> = {};
    if (main.sizeOf !== null) Object.assign(before, { family: main.family });
    if (main.sizeOf !== null) Object.assign(becomes, { family: 0 });
    const words = wordsToTakeOver(
      main.words,
      items.map((item) => item.words),
    );
    for (const field of Object.keys(words) as (keyof typeof words)[]) {
      Object.assign(before, { [field]: main.words[field] });
      Object.assign(becomes, { [field]: words[field] });
    }
    if (Object.keys(becomes).length > 0) plan.records.push(step(main, before, becomes));
  }
  plan.totals.items = items.length;
  return { plan };
}

const step = (item: Item, before: Partial<RecordValues>, after: Partial<RecordValues>) => ({
  itemId: item.id,
  rowVersion: item.rowVersion,
  before,
  after,
});
