import { expect, test } from 'vitest';
import { nearTags } from './tags.ts';

const tags = (...names: string[]) => names.map((name, at) => ({ name, items: names.length - at }));
/** Each tag that is told, with what it is near to: the names are given from the commonest to the rarest. */
const told = (...names: string[]) => nearTags(tags(...names)).map(({ name, to }) => `${name} = ${to}`);

test('case, accents, signs and endings: each is told once, with the commonest it is near to', () => {
  expect(told('telescope', 'telescopes', 'Telescope', 'teléscope', 'Teleskope')).toEqual([
    'telescopes = telescope',
    'Telescope = telescope',
    'teléscope = telescope',
    'Teleskope = telescope',
  ]);
  expect(told('open night', 'open-night', 'Open Nights')).toEqual([
    'open-night = open night',
    'Open Nights = open night',
  ]);
  expect(told('galaxies', 'galaxy')).toEqual(['galaxy = galaxies']);
});

test('short words need more: a plural is one, another word with one other letter is not', () => {
  expect(told('dome', 'Domes', 'star', 'stars')).toEqual(['Domes = dome', 'stars = star']);
  expect(told('stars', 'star')).toEqual(['star = stars']);
  expect(told('sun', 'sub', 'son', 'suns')).toEqual([]);
  expect(told('comet', 'covet')).toEqual([]);
  expect(told('nebula', 'nebola')).toEqual(['nebola = nebula']);
});

test('numbers are told apart, and so are words that begin otherwise', () => {
  expect(told('ngc2024', 'ngc2025')).toEqual([]);
  expect(told('season 2024', 'season 2025')).toEqual([]);
  expect(told('lantern', 'pantern')).toEqual([]);
});

test('of as many items the first by name is kept; what is merged already is not told of another', () => {
  expect(
    nearTags([
      { name: 'Moons', items: 3 },
      { name: 'moon', items: 3 },
      { name: 'MOON', items: 1 },
    ]).map(({ name, to }) => [name, to]),
  ).toEqual([
    ['moon', 'Moons'],
    ['MOON', 'Moons'],
  ]);
});
