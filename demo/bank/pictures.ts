import { Chance } from '../chance.ts';
import { shotDrawing, shotOf, type Thing } from '../shots.ts';
import type { COLOURS } from '../../core/bank/protocol.ts';

export type Colour = (typeof COLOURS)[number];

/** What an image of the bank shows, in words and as a drawing for any size. */
export interface Subject {
  title: string;
  keywords: string[];
  colours: Colour[];
  draw(width: number, height: number): string;
}

/** A sky from top to horizon, the hills from far to near, and what falls from it. */
interface Light {
  word: string;
  keywords: string[];
  sky: [string, string];
  hills: string[];
  colours: Colour[];
}
const LIGHTS: readonly Light[] = [
  {
    word: 'in snow',
    keywords: ['snow', 'winter', 'white'],
    sky: ['#c9d6e2', '#eef2f5'],
    hills: ['#dfe7ee', '#f2f5f8', '#ffffff'],
    colours: ['white', 'grey'],
  },
  {
    word: 'at dusk',
    keywords: ['dusk', 'evening', 'sunset'],
    sky: ['#2b2a55', '#f0a35c'],
    hills: ['#5b4a6b', '#3a3150', '#1f1b33'],
    colours: ['orange', 'purple'],
  },
  {
    word: 'in the morning',
    keywords: ['morning', 'light', 'spring'],
    sky: ['#8fc3e8', '#fdf3d8'],
    hills: ['#a8c8a0', '#7fae74', '#4f8a4b'],
    colours: ['green', 'blue'],
  },
  {
    word: 'in fog',
    keywords: ['fog', 'mist', 'autumn'],
    sky: ['#c5c6c4', '#dfdfdb'],
    hills: ['#c0c2be', '#a4a8a3', '#858a85'],
    colours: ['grey'],
  },
  {
    word: 'in heather',
    keywords: ['heather', 'moor', 'summer'],
    sky: ['#a9c7e0', '#e9eef0'],
    hills: ['#b79cc0', '#94719f', '#6d4f79'],
    colours: ['purple', 'blue'],
  },
  {
    word: 'in autumn',
    keywords: ['autumn', 'leaves', 'gold'],
    sky: ['#d9cfae', '#f6ead0'],
    hills: ['#d8a24a', '#b8742c', '#7c4a1f'],
    colours: ['orange', 'brown'],
  },
  {
    word: 'at night',
    keywords: ['night', 'stars', 'dark'],
    sky: ['#05070f', '#1b2540'],
    hills: ['#141c2e', '#0d1320', '#070a12'],
    colours: ['black', 'blue'],
  },
];

const frame = (width: number, height: number, inside: string, defs = '') =>
  `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}" viewBox="0 0 1000 ${Math.round((1000 * height) / width)}" preserveAspectRatio="none"><defs>${defs}</defs>${inside}</svg>`;
const sky = ([top, low]: readonly [string, string]) =>
  `<linearGradient id="sky" x2="0" y2="1"><stop stop-color="${top}"/><stop offset="1" stop-color="${low}"/></linearGradient>`;

/** A line of hills across the width, from a height downwards. */
function ridge(chance: Chance, at: number, rough: number, bottom: number, colour: string): string {
  const points = Array.from(
    { length: 9 },
    (_, one) => [one * 125, at + chance.between(-rough, rough)] as const,
  );
  const way = points.slice(1).map(([x, y], one) => {
    const [px, py] = points[one]!;
    return `C${px + 62} ${py} ${x - 62} ${y} ${x} ${y}`;
  });
  return `<path d="M0 ${points[0]![1]}${way.join('')}V${bottom}H0z" fill="${colour}"/>`;
}

function stars(chance: Chance, tall: number): string {
  return Array.from(
    { length: 160 },
    () =>
      `<circle cx="${chance.between(0, 1000).toFixed(1)}" cy="${chance.between(0, tall * 0.7).toFixed(1)}" r="${chance.between(0.5, 1.8).toFixed(1)}" fill="#fff" opacity="${chance.between(0.4, 1).toFixed(2)}"/>`,
  ).join('');
}

function land(light: Light, seed: string, on: (chance: Chance, tall: number, horizon: number) => string) {
  return (width: number, height: number): string => {
    const chance = new Chance(seed);
    const tall = Math.round((1000 * height) / width);
    const horizon = tall * chance.between(0.45, 0.62);
    const far = ridge(chance, horizon, tall * 0.06, tall, light.hills[0]!);
    const middle = ridge(chance, horizon + tall * 0.12, tall * 0.05, tall, light.hills[1]!);
    const near = ridge(chance, horizon + tall * 0.26, tall * 0.04, tall, light.hills[2]!);
    const above = light.word === 'at night' ? stars(chance, tall) : '';
    const falling =
      light.word === 'in snow'
        ? Array.from(
            { length: 120 },
            () =>
              `<circle cx="${chance.between(0, 1000).toFixed(1)}" cy="${chance.between(0, tall).toFixed(1)}" r="${chance.between(1, 3).toFixed(1)}" fill="#fff" opacity=".8"/>`,
          ).join('')
        : '';
    return frame(
      width,
      height,
      `<rect width="1000" height="${tall}" fill="url(#sky)"/>${above}${far}${middle}${on(chance, tall, horizon)}${near}${falling}`,
      sky(light.sky),
    );
  };
}

/** Somebody who stands on a ridge, seen against the sky. */
const person = (x: number, y: number, size: number, { word }: Light) =>
  `<g transform="translate(${x} ${y}) scale(${size / 100})" fill="${word === 'at night' ? '#46557a' : '#15161c'}"><circle cx="0" cy="-88" r="11"/><path d="M-15-74q15-9 30 0l5 38-7 2-4-24-2 58h-9l-2-34-2 34h-9l-2-58-4 24-7-2z"/></g>`;
const tree = (x: number, y: number, size: number, colour: string) =>
  `<g transform="translate(${x} ${y}) scale(${size / 100})"><path d="M-4 0h8v-40h-8z" fill="#3b2d22"/><circle cx="0" cy="-62" r="34" fill="${colour}"/><circle cx="-22" cy="-46" r="22" fill="${colour}"/><circle cx="22" cy="-48" r="24" fill="${colour}"/></g>`;

const PLACES: readonly [
  title: string,
  keywords: string[],
  on: (light: Light) => (chance: Chance, tall: number, horizon: number) => string,
][] = [
  ['Hill', ['hill', 'landscape'], () => () => ''],
  [
    'Lone tree on a hill',
    ['tree', 'hill', 'landscape'],
    ({ hills }) =>
      (chance, tall, horizon) =>
        tree(chance.between(250, 750), horizon + tall * 0.17, tall * 0.3, hills[2]!),
  ],
  [
    'Walker on a ridge',
    ['person', 'people', 'walker', 'silhouette', 'ridge'],
    (light) => (chance, tall, horizon) =>
      person(chance.between(250, 750), horizon + tall * 0.16, tall * 0.26, light),
  ],
  [
    'Friends on a hill',
    ['people', 'friends', 'group', 'silhouette', 'hill'],
    (light) => (chance, tall, horizon) =>
      [0, 1, 2]
        .map((one) =>
          person(
            330 + one * chance.between(60, 110),
            horizon + tall * 0.16,
            tall * chance.between(0.2, 0.26),
            light,
          ),
        )
        .join(''),
  ],
  [
    'Lake below the hills',
    ['lake', 'water', 'landscape'],
    ({ sky: [, low] }) =>
      (chance, tall, horizon) =>
        `<ellipse cx="${chance.between(350, 650)}" cy="${horizon + tall * 0.24}" rx="360" ry="${tall * 0.06}" fill="${low}" opacity=".85"/>`,
  ],
  [
    'House under the hill',
    ['house', 'village', 'hill'],
    () => (chance, tall, horizon) => {
      const x = chance.between(250, 700);
      const y = horizon + tall * 0.2;
      return `<path d="M${x} ${y}h90v-52l-45-34-45 34z" fill="#8c3b2e"/><path d="M${x + 36} ${y}h18v-30h-18z" fill="#2c1b16"/>`;
    },
  ],
];

const TEXTURES: readonly [
  title: string,
  keywords: string[],
  base: string,
  over: string,
  frequency: string,
  colours: Colour[],
][] = [
  ['Grey stone', ['stone', 'rock', 'texture', 'background'], '#8d8f90', '#4c4f52', '0.02 0.02', ['grey']],
  [
    'Oak boards',
    ['wood', 'oak', 'boards', 'texture', 'background'],
    '#b98a55',
    '#6b4524',
    '0.004 0.09',
    ['brown'],
  ],
  ['Handmade paper', ['paper', 'texture', 'background', 'white'], '#f4efe4', '#d8cfba', '0.5 0.5', ['white']],
  [
    'Rippled sand',
    ['sand', 'beach', 'texture', 'background'],
    '#e2c795',
    '#b6925a',
    '0.01 0.05',
    ['yellow', 'brown'],
  ],
  ['Deep water', ['water', 'sea', 'texture', 'background'], '#1f5f7d', '#0c2f45', '0.01 0.06', ['blue']],
  ['Moss', ['moss', 'plant', 'green', 'texture', 'background'], '#5c8a3a', '#2f5420', '0.06 0.06', ['green']],
  [
    'Red plaster',
    ['plaster', 'wall', 'red', 'texture', 'background'],
    '#a0452f',
    '#6d2a1c',
    '0.05 0.2',
    ['red'],
  ],
  [
    'Frost on a window',
    ['frost', 'ice', 'window', 'winter', 'texture'],
    '#cfe0ec',
    '#8fb3cc',
    '0.03 0.03',
    ['blue', 'white'],
  ],
];
function texture(base: string, over: string, frequency: string, seed: number) {
  return (width: number, height: number): string => {
    const tall = Math.round((1000 * height) / width);
    return frame(
      width,
      height,
      `<rect width="1000" height="${tall}" fill="${base}"/><rect width="1000" height="${tall}" fill="${over}" filter="url(#grain)" opacity=".75"/>`,
      `<filter id="grain" x="0" y="0" width="1" height="1"><feTurbulence type="fractalNoise" baseFrequency="${frequency}" numOctaves="3" seed="${seed}" result="noise"/><feColorMatrix in="noise" type="matrix" values="0 0 0 0 0 0 0 0 0 0 0 0 0 0 0 0 0 0 2.2 -0.7"/><feComposite in2="SourceGraphic" operator="in" result="mask"/><feFlood flood-color="${over}"/><feComposite in2="mask" operator="in"/></filter>`,
    );
  };
}

const THINGS: readonly [Thing, string, string[]][] = [
  ['mug', 'Mug', ['mug', 'cup', 'tea', 'drink']],
  ['tin', 'Biscuit tin', ['tin', 'biscuits', 'food']],
  ['bottle', 'Bottle', ['bottle', 'drink']],
  ['notebook', 'Notebook', ['notebook', 'writing', 'paper']],
  ['lamp', 'Desk lamp', ['lamp', 'light', 'desk']],
  ['bag', 'Cloth bag', ['bag', 'shopping']],
];

/** Everything that the bank shows, in the order of its numbers: 7 lights by 6 places, four times; textures and things. */
export function subjects(seed: string): Subject[] {
  const all: Subject[] = [];
  for (let round = 0; round < 4; round++)
    for (const light of LIGHTS)
      for (const [title, keywords, on] of PLACES)
        all.push({
          title: `${title} ${light.word}`,
          keywords: [...keywords, ...light.keywords],
          colours: light.colours,
          draw: land(light, `${seed} ${title} ${light.word} ${round}`, on(light)),
        });
  for (let round = 0; round < 8; round++)
    for (const [title, keywords, base, over, frequency, colours] of TEXTURES)
      all.push({ title, keywords, colours, draw: texture(base, over, frequency, round * 17 + 3) });
  for (let round = 0; round < 12; round++)
    for (const [thing, title, keywords] of THINGS) {
      const shot = shotOf(
        `${seed} bank`,
        round * THINGS.length + THINGS.findIndex(([one]) => one === thing),
        thing,
      );
      all.push({
        title: `${title} on a plain ground`,
        keywords: [...keywords, 'object', 'product', 'studio'],
        colours: ['grey', 'white'],
        draw: (width, height) => shotDrawing({ ...shot, width, height }),
      });
    }
  return all;
}
