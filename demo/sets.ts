import { Chance } from './chance.ts';
import type { Made } from './recipe.ts';
import { shotOf, type Shot, type Thing } from './shots.ts';
import { LICENCE, slug } from './sky.ts';
import type { Scene, Weather } from './sky/scene.ts';

/** Sets that have just come and are still to be prepared: shots for the shop, and the photographs of an evening. */
export const SHOTS_FOLDER = 'images/shop/autumn-shots';
export const EVENT_FOLDER = 'images/events/open-night';

const GOODS: readonly [name: string, thing: Thing][] = [
  ['Crater mug', 'mug'],
  ['Comet mug', 'mug'],
  ['Tin of night biscuits', 'tin'],
  ['Tin of peat tea', 'tin'],
  ['Bottle for cold nights', 'bottle'],
  ['Bottle of bramble juice', 'bottle'],
  ['Observer’s notebook', 'notebook'],
  ['Star diary', 'notebook'],
  ['Red-light lamp', 'lamp'],
  ['Reading lamp', 'lamp'],
  ['Chart bag', 'bag'],
  ['Canvas bag', 'bag'],
];

/** Twelve shots of things for sale; the last but one lies on a striped cloth, where nothing can be told from its ground. */
export function shopShots(seed: string): (Made & { shot: Shot })[] {
  return GOODS.map(([title, thing], at) => {
    const shot = shotOf(seed, at, thing, at === 10 ? 'cloth' : undefined);
    return {
      path: `${SHOTS_FOLDER}/${slug(title)}.jpg`,
      recipe: { make: 'shot', shot, seed: `${seed} ${title}` },
      title,
      shot,
    };
  });
}

const SIZES = [
  [3000, 2000],
  [2000, 3000],
  [2400, 1600],
  [1600, 1200],
  [1200, 900],
  [640, 480],
] as const;
const WEATHERS: readonly Weather[] = ['dusk', 'night', 'aurora', 'morning'];

/** Twenty-four photographs of one evening as cameras call them, of mixed sizes; the smallest are smaller than a gallery shows. */
export function eventPhotos(seed: string): Made[] {
  const chance = new Chance(`${seed} open night`);
  let number = 1040;
  return Array.from({ length: 24 }, (_, at) => {
    number += chance.whole(1, 6);
    const [width, height] = SIZES[at % SIZES.length]!;
    const scene: Scene = {
      motif: (['dome', 'milkyway', 'dome', 'trails', 'dome', 'moon'] as const)[at % 6]!,
      seed: `${seed} evening ${at}`,
      weather: WEATHERS[at % WEATHERS.length]!,
      phase: 0.4,
    };
    return {
      path: `${EVENT_FOLDER}/DSC_${number}.JPG`,
      recipe: { make: 'picture', scene, width, height, format: 'jpg', quality: 92 },
      creator: 'Wanda Fernhollow',
      licence: LICENCE,
    };
  });
}

export const freshSets = (seed: string): Made[] => [...shopShots(seed), ...eventPhotos(seed)];
