import { each, filter, mapOf, WITHOUT_PAUSE, type Breathe } from '../paced.ts';
import type { Kind } from '../address/kinds.ts';
import { baseName, folderOf, stemOf, type SitePath } from '../address/path.ts';

export interface VariantFacts {
  id: number;
  path: SitePath;
  kind: Kind;
  width: number | null;
  height: number | null;
}

/** A size variant: it is called as its image is, with a suffix. */
export interface Variant {
  id: number;
  /** The image that it is a size of. */
  of: number;
  /** '-400', '@2x', '' for the same image in another format. */
  suffix: string;
}

/** What programs put behind a name for a size: -400, -400w, -400x300, @2x, -small. */
const SUFFIX =
  /^(.+?)([-_.]\d{2,5}x\d{2,5}|[-_.]\d{2,5}(?:w|px)?|@[1-4]x|[-_](?:tiny|thumb|thumbnail|small|medium|large|xs|sm|md|lg|xl|mobile|tablet|desktop))$/i;
/** What an image would be called whose size bears this stem; undefined: it is no name of a size. */
export const plainStem = (stem: string): string | undefined => SUFFIX.exec(stem)?.[1];

/**
 * What a size is called when its image is called otherwise: hill-480 of hill becomes slope-480 of slope. A name that has nothing in common
 * with the image's stays. All are stems, without folder and extension.
 */
export function nameOfSize(size: string, before: string, after: string): string {
  if (before === after) return size;
  const [suffix, plain] = [SUFFIX.exec(before)?.[2] ?? '', plainStem(before)];
  const base = plain !== undefined && plain === plainStem(size) ? plain : before;
  if (!size.startsWith(base) || size === base) return size;
  const named = base === before || !after.endsWith(suffix) ? after : after.slice(0, -suffix.length);
  return `${named}${size.slice(base.length)}`;
}

/** How far shapes may differ: sizes are rounded to pixels, so small ones differ more. */
const SHAPE_TOLERANCE = 0.02;

/**
 * Recognises the size variants of images: in one folder, the same stem with a size behind it and the same shape; or
 * offered together in one srcset. The plain name is the image, else the widest one. A number that is no size (moon-2)
 * makes no variant: it must be the width or height in pixels, or half of it.
 * @param sets ids that one srcset offers for one place, in any order
 */
export async function variantsOf(
  items: readonly VariantFacts[],
  sets: readonly (readonly number[])[] = [],
  breathe: Breathe = WITHOUT_PAUSE,
): Promise<Variant[]> {
  const pictures = await filter(items, breathe, (item) => item.kind === 'image');
  const byName = new Map<string, { item: VariantFacts; suffix: string }[]>();
  const put = (stem: string, item: VariantFacts, suffix: string) => {
    const key = `${folderOf(item.path)}/${stem}`.normalize('NFC').toLowerCase();
    const there = byName.get(key);
    if (there) there.push({ item, suffix });
    else byName.set(key, [{ item, suffix }]);
  };
  await each(pictures, breathe, (item) => {
    const stem = stemOf(baseName(item.path));
    put(stem, item, '');
    const parts = SUFFIX.exec(stem);
    if (parts && saysSize(parts[2]!, item)) put(parts[1]!, item, parts[2]!);
  });
  const found = new Map<number, Variant>();
  /** How many have been found of each. */
  const mains = new Map<number, number>();
  const find = (one: Variant) => {
    const before = found.get(one.id);
    if (before) mains.set(before.of, mains.get(before.of)! - 1);
    mains.set(one.of, (mains.get(one.of) ?? 0) + 1);
    found.set(one.id, one);
  };
  const isMain = (id: number) => (mains.get(id) ?? 0) > 0;
  await each(byName.values(), breathe, (group) => {
    if (group.length < 2) return;
    const main = mainOf(group);
    for (const { item, suffix } of group) {
      if (item.id === main.item.id || found.has(item.id) || !sameShape(item, main.item)) continue;
      // As wide as its image: it is called so, but no size of it.
      if (suffix !== '' && item.width === main.item.width) continue;
      find({ id: item.id, of: main.item.id, suffix });
    }
    // Without a plain name all bear their size, the widest too.
    if (main.suffix !== '' && isMain(main.item.id))
      find({ id: main.item.id, of: main.item.id, suffix: main.suffix });
  });
  const byId = await mapOf(pictures, breathe, (item) => [item.id, item]);
  await each(sets, breathe, (set) => {
    const members = [...new Set(set)].flatMap((id) => byId.get(id) ?? []);
    const loose = members.filter((item) => !found.has(item.id));
    if (members.length < 2) return;
    const [widest] = [...members].sort((a, b) => (b.width ?? 0) - (a.width ?? 0));
    const main = found.get(widest!.id)?.of ?? widest!.id;
    for (const item of loose) {
      if (
        item.id === main ||
        // As wide as the widest: another image, or another format of it, and no size.
        item.width === widest!.width ||
        !sameShape(item, widest!) ||
        isMain(item.id)
      )
        continue;
      find({ id: item.id, of: main, suffix: `-${item.width ?? 0}w` });
    }
  });
  return [...found.values()];
}

/**
 * The image that each of some is a size of; the same name in another format is an image of its own.
 * @param sets ids that one srcset offers for one place: that is said, so they need not look alike
 * @param alike whether two that are only called so show the same; undefined: it is not known, and the name is believed
 */
export async function sizesAmong(
  items: readonly VariantFacts[],
  sets: readonly (readonly number[])[],
  alike: (one: number, other: number) => boolean | undefined = () => undefined,
  breathe: Breathe = WITHOUT_PAUSE,
): Promise<Map<number, number>> {
  const offered = new Map<number, Set<number>>();
  await each(sets, breathe, (set) => {
    for (const id of set) {
      const with_ = offered.get(id) ?? new Set<number>();
      set.forEach((other) => with_.add(other));
      offered.set(id, with_);
    }
  });
  const sizeOf = new Map<number, number>();
  await each(await variantsOf(items, sets, breathe), breathe, ({ id, of, suffix }) => {
    if (id === of || suffix === '' || sizeOf.has(id)) return;
    if (!offered.get(id)?.has(of) && alike(id, of) === false) return;
    sizeOf.set(id, of);
  });
  return sizeOf;
}

/**
 * What was found, with what people have said of it: a size of a size is one of the image that both belong to.
 * @param byHand the image that one is a size of; null: it stands for itself, whatever it is called
 */
export async function familiesOf(
  found: ReadonlyMap<number, number>,
  byHand: ReadonlyMap<number, number | null> = new Map(),
  breathe: Breathe = WITHOUT_PAUSE,
): Promise<Map<number, number>> {
  const of = new Map(found);
  await each(byHand, breathe, ([id, main]) => {
    if (main === null) of.delete(id);
    else of.set(id, main);
  });
  // An image that others were put to by hand is no size because of its name alone.
  await each(byHand.values(), breathe, (main) => main !== null && !byHand.has(main) && of.delete(main));
  const families = new Map<number, number>();
  await each(of, breathe, ([id]) => {
    const way = new Set([id]);
    let main = of.get(id)!;
    for (let next = of.get(main); next !== undefined && !way.has(main); next = of.get(main)) {
      way.add(main);
      main = next;
    }
    // In a circle, the first of them stands for all.
    if (way.has(main)) main = Math.min(...way);
    if (main !== id) families.set(id, main);
  });
  return families;
}

function mainOf(group: { item: VariantFacts; suffix: string }[]) {
  return group.reduce((best, one) => {
    if ((one.suffix === '') !== (best.suffix === '')) return one.suffix === '' ? one : best;
    return (one.item.width ?? 0) > (best.item.width ?? 0) ? one : best;
  });
}

/** A number must be the size itself, or twice or half of it, so that 'crater-14' is no size of 'crater'. */
function saysSize(suffix: string, item: VariantFacts): boolean {
  const numbers = suffix.match(/\d+/g)?.map(Number) ?? [];
  if (suffix.startsWith('@') || numbers.length === 0) return true;
  if (item.width === null || item.height === null) return false;
  const sides = [item.width, item.height];
  return numbers.every((number) =>
    sides.some((side) => [side, side * 2, side / 2].some((one) => Math.abs(one - number) <= 1)),
  );
}

function sameShape(one: VariantFacts, other: VariantFacts): boolean {
  if (!one.width || !one.height || !other.width || !other.height) return false;
  const pixel = 1 / Math.min(one.width, one.height, other.width, other.height);
  const ratio = (one.width * other.height) / (one.height * other.width);
  return Math.abs(ratio - 1) <= Math.max(SHAPE_TOLERANCE, pixel);
}
