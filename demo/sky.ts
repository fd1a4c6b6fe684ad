import { Chance } from './chance.ts';
import type { Made } from './recipe.ts';
import type { Scene } from './sky/scene.ts';

export const PEOPLE = [
  'Ottilie Marrow',
  'Ben Thistlewick',
  'Ines Cobbledale',
  'Piet Larkspur',
  'Wanda Fernhollow',
] as const;

export const LICENCE = 'Corvane Hill Observatory, all uses on this site';

export const GALAXIES = [
  'Lantern',
  'Millstone',
  'Heron',
  'Pinwheel Moor',
  'Two Sisters',
  'Weathercock',
  'Ammonite',
  'Long Ladder',
  'Saltbox',
  'Quiet Spiral',
  'Hedgerow',
  'Tinker’s Wheel',
  'Snail of the North',
  'Barn Door',
  'Wicker',
];

export const NEBULAE = [
  'Ember Veil',
  'Fox Brush',
  'Drowned Orchard',
  'Copper Kettle',
  'Ragged Sail',
  'Bell Heather',
  'Otter Pool',
  'Smith’s Forge',
  'Curlew',
  'Thornback',
  'Peat Smoke',
  'Rowan Berry',
  'Harbour Light',
  'Green Lady',
];

export const CLUSTERS = ['Beehive of Corvane', 'Salt Spill', 'Old Lamp', 'Gorse Cluster', 'Spilled Sugar'];

export function slug(text: string): string {
  return text
    .toLowerCase()
    .replace(/’/g, '')
    .replace(/[^a-z0-9]+/g, '-');
}

/** One image in its full size and the small one that pages offer to phones. */
export function pair(
  items: Made[],
  path: string,
  scene: Scene,
  words: Omit<Made, 'path' | 'recipe'>,
  width = 1600,
  height = 1067,
): void {
  const exif = { Artist: words.creator ?? '', ImageDescription: words.title ?? '' };
  items.push({
    path: `${path}.jpg`,
    recipe: { make: 'picture', scene, width, height, format: 'jpg', exif },
    ...words,
  });
  const small = {
    make: 'picture',
    scene,
    width: 640,
    height: Math.round((640 * height) / width),
    format: 'jpg',
    quality: 76,
  } as const;
  items.push({ path: `${path}-640.jpg`, recipe: small, ...words });
}

export function starTable(seed: string): string[][] {
  const chance = new Chance(`${seed} stars`);
  const names = [
    'Harrow',
    'Lintel',
    'Sedge',
    'Wren',
    'Cairn',
    'Plover',
    'Tarn',
    'Bracken',
    'Kestrel',
    'Fell',
  ];
  return [
    ['star', 'magnitude', 'colour', 'best month'],
    ...names.map((name) => [
      name,
      chance.between(-0.5, 3).toFixed(2),
      chance.pick(['blue', 'white', 'yellow', 'orange']),
      chance.pick(['January', 'April', 'August', 'November']),
    ]),
  ];
}
