import { expect, test } from 'vitest';
import { nearTags } from './tags.ts';

const tags = (...names: string[]) => names.map((name, at) => ({ name, items: names.length - at }));
/** Each tag that is told, with what it is near to: the names are given from the commonest to the rarest. */
const told = async (...names: string[]) =>
  (await nearTags(tags(...names))).map(({ name, to }) => `${name} = ${to}`);

test('case, accents, signs and endings: each is told once, with the commonest it is near to', async () => {
  expect(await told('telescope', 'telescopes', 'Telescope', 'teléscope', 'Teleskope')).toEqual([
    'telescopes = telescope',
    'Telescope = telescope',
    'teléscope = telescope',
    'Teleskope = telescope',
  ]);
  expect(await told('open night', 'open-night', 'Open Nights')).toEqual([
    'open-night = open night',
    'Open Nights = open night',
  ]);
  expect(await told('galaxies', 'galaxy')).toEqual(['galaxy = galaxies']);
});

test('short words need more: a plural is one, another word with one other letter is not', async () => {
  expect(await told('dome', 'Domes', 'star', 'stars')).toEqual(['Domes = dome', 'stars = star']);
  expect(await told('stars', 'star')).toEqual(['star = stars']);
  expect(await told('sun', 'sub', 'son', 'suns')).toEqual([]);
  expect(await told('comet', 'covet')).toEqual([]);
  expect(await told('nebula', 'nebola')).toEqual(['nebola = nebula']);
});

test('numbers are told apart, and so are words that begin otherwise', async () => {
  expect(await told('ngc2024', 'ngc2025')).toEqual([]);
  expect(await told('season 2024', 'season 2025')).toEqual([]);
  expect(await told('lantern', 'pantern')).toEqual([]);
});

test('of as many items the first by name is kept; what is merged already is not told of another', async () => {
  expect(
    (
      await nearTags([
        { name: 'Moons', items: 3 },
        { name: 'moon', items: 3 },
        { name: 'MOON', items: 1 },
      ])
    ).map(({ name, to }) => [name, to]),
  ).toEqual([
    ['moon', 'Moons'],
    ['MOON', 'Moons'],
  ]);
});

test('of several that differ in one letter it is the one as long, then the shorter, then the longer; of those the commonest', async () => {
  expect(await told('plasterz', 'paster', 'plaxter', 'plaster')).toEqual(['plaster = plaxter']);
  expect(await told('plasterz', 'paster', 'plaster')).toEqual(['plaster = paster']);
  expect(await told('plasterz', 'plaster')).toEqual(['plaster = plasterz']);
  expect(await told('plaxter', 'plazzer', 'plazter')).toEqual(['plazter = plaxter']);
});

test('tags of any number are gone through once: each is compared with those alone that share what is left of it', async () => {
  let turns = 0;
  const letters = 'abcdefghij';
  // All of one length, with one first letter, and no two within one letter of each other.
  const many = Array.from({ length: 10_000 }, (_, at) => {
    const digits = String(at).padStart(4, '0');
    const word = [...digits].map((one) => letters[Number(one)]!.repeat(2)).join('');
    return { name: `z${word}`, items: 1 };
  });
  const near = await nearTags(many, () => void turns++);
  expect(near).toEqual([]);
  expect(turns).toBe(many.length);
});
