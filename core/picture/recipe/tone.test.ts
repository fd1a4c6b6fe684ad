import { expect, test } from 'vitest';
import { seeded } from '../../test/chance.ts';
import {
  applyTone,
  histogramOf,
  histogramWithin,
  levelsOf,
  LUMA,
  rgbOf,
  toneTables,
  withLevels,
} from './tone.ts';
import type { Tone } from './recipe.ts';

const toned = (tone: Tone, ...pixels: [number, number, number][]) => {
  const bytes = Uint8Array.from(pixels.flat());
  const tables = toneTables(tone);
  if (tables) applyTone(bytes, 3, tables);
  return pixels.map((_, at) => [...bytes.subarray(3 * at, 3 * at + 3)]);
};

test('levels: black and white points become black and white, the mid-tone becomes middle grey', () => {
  const levels = { black: 40, mid: 90, white: 200 };
  const [black, mid, white, below, above] = toned(
    { levels },
    [40, 40, 40],
    [90, 90, 90],
    [200, 200, 200],
    [3, 3, 3],
    [250, 250, 250],
  );
  expect([black, white, below, above]).toEqual([
    [0, 0, 0],
    [255, 255, 255],
    [0, 0, 0],
    [255, 255, 255],
  ]);
  expect(Math.abs(mid![0]! - 127.5)).toBeLessThan(1);
});

test('black and white is the luminance; a veil lies over it as it would over the image', () => {
  const grey = Math.round(LUMA[0] * 200 + LUMA[1] * 100 + LUMA[2] * 50);
  expect(toned({ blackAndWhite: true }, [200, 100, 50])).toEqual([[grey, grey, grey]]);
  const veil = { colour: '#0000ff', opacity: 0.5 };
  const [veiled] = toned({ blackAndWhite: true, veil }, [200, 100, 50]);
  for (const [at, wanted] of [grey / 2, grey / 2, grey / 2 + 127.5].entries())
    expect(Math.abs(veiled![at]! - wanted)).toBeLessThanOrEqual(1);
  expect(toned({ veil: { colour: '#102030', opacity: 1 } }, [1, 2, 3])).toEqual([rgbOf('#102030')]);
});

test('no saturation is black and white, more of it keeps greys grey; warm is redder, cold is bluer', () => {
  expect(toned({ saturation: -100 }, [200, 100, 50])).toEqual(toned({ blackAndWhite: true }, [200, 100, 50]));
  expect(toned({ saturation: 100 }, [80, 80, 80])).toEqual([[80, 80, 80]]);
  const [warm] = toned({ warmth: 50 }, [120, 120, 120]);
  expect(warm![0]).toBeGreaterThan(120);
  expect(warm![2]).toBeLessThan(120);
  const [cold] = toned({ warmth: -50 }, [120, 120, 120]);
  expect(cold![0]).toBeLessThan(120);
  expect(cold![2]).toBeGreaterThan(120);
});

test('brightness and contrast are even: nothing dark becomes lighter than what was lighter, ends are held', () => {
  const chance = seeded(2);
  for (let round = 0; round < 200; round++) {
    const tone: Tone = {
      brightness: chance.whole(-100, 100),
      contrast: chance.whole(-100, 100),
      levels: { black: chance.whole(0, 60), mid: chance.whole(70, 180), white: chance.whole(190, 255) },
    };
    const { green } = toneTables(tone)!;
    for (let value = 1; value < 256; value++) expect(green[value]).toBeGreaterThanOrEqual(green[value - 1]!);
  }
  expect(toned({ brightness: 100 }, [200, 200, 200])).toEqual([[255, 255, 255]]);
  expect(toned({ contrast: -100 }, [0, 90, 255])).toEqual([[128, 128, 128]]);
});

test('transparency stays, and what cannot be seen is not counted', () => {
  const bytes = Uint8ClampedArray.from([10, 20, 30, 77, 200, 200, 200, 0]);
  applyTone(bytes, 4, toneTables({ brightness: 20, saturation: 50 })!);
  expect([bytes[3], bytes[7]]).toEqual([77, 0]);
  const counts = histogramOf(Uint8Array.from([10, 10, 10, 255, 200, 200, 200, 0]), 4);
  expect([counts[10], counts[200]]).toEqual([1, 0]);
});

test('every pixel is counted at its luminance, rounded; of a part, those of the part alone', () => {
  const chance = seeded(31);
  const [width, height] = [40, 30];
  const bytes = Uint8ClampedArray.from({ length: width * height * 4 }, (_, at) =>
    at % 4 === 3 ? 255 : chance.below(256),
  );
  bytes.set([255, 255, 255, 255, 0, 0, 0, 255]);
  const part = { left: 7, top: 3, width: 20, height: 11 };
  const counted = (within: typeof part) => {
    const counts = new Uint32Array(256);
    for (let y = within.top; y < within.top + within.height; y++)
      for (let x = within.left; x < within.left + within.width; x++) {
        const at = (y * width + x) * 4;
        const light = LUMA[0] * bytes[at]! + LUMA[1] * bytes[at + 1]! + LUMA[2] * bytes[at + 2]!;
        counts[Math.round(light)]!++;
      }
    return counts;
  };
  // Where the luminance lies half way, within a few thousandths, it may be the level beside it.
  const moved = (one: Uint32Array, other: Uint32Array) => {
    let [ahead, sum] = [0, 0];
    for (let level = 0; level < 256; level++) sum += Math.abs((ahead += one[level]! - other[level]!));
    expect(ahead).toBe(0);
    return sum;
  };
  expect(moved(histogramOf(bytes, 4), counted({ left: 0, top: 0, width, height }))).toBeLessThanOrEqual(4);
  expect(moved(histogramWithin(bytes, 4, part, width), counted(part))).toBeLessThanOrEqual(1);
});

test('automatic levels open a dull image and leave a full one alone', () => {
  const dull = new Uint32Array(256);
  for (let level = 60; level <= 180; level++) dull[level] = 100;
  const levels = levelsOf(dull);
  expect(levels.black).toBeLessThanOrEqual(61);
  expect(levels.white).toBeGreaterThanOrEqual(179);
  expect(Math.abs(levels.mid - 120)).toBeLessThan(3);
  const full = new Uint32Array(256).fill(100);
  expect(levelsOf(full)).toMatchObject({ black: 1, white: 254 });
  // One grey, and nothing at all: still levels that the schema takes.
  const flat = new Uint32Array(256);
  flat[255] = 9;
  for (const one of [levelsOf(flat), levelsOf(new Uint32Array(256))]) {
    expect(one.black).toBeLessThan(one.mid);
    expect(one.mid).toBeLessThan(one.white);
    expect(one.white).toBeLessThanOrEqual(255);
  }
  expect(withLevels({ version: 1, tone: { levels: 'auto' } }, dull).tone!.levels).toEqual(levels);
  expect(() => toneTables({ levels: 'auto' })).toThrow();
});

test('bytes of a canvas and bytes of a server come out the same', () => {
  const chance = seeded(9);
  const bytes = Uint8Array.from({ length: 3000 }, () => chance.below(256));
  const tone: Tone = {
    levels: { black: 12, mid: 100, white: 240 },
    saturation: 40,
    warmth: 20,
    veil: { colour: '#204060', opacity: 0.3 },
  };
  const canvas = Uint8ClampedArray.from(bytes);
  applyTone(bytes, 3, toneTables(tone)!);
  applyTone(canvas, 3, toneTables(tone)!);
  expect([...canvas]).toEqual([...bytes]);
});
