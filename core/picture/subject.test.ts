import { expect, test } from 'vitest';
import { seeded, type Chance } from '../test/chance.ts';
import { framing, subjectOf, SURE, type Subject } from './subject.ts';

const [width, height] = [320, 240];
interface Shot {
  data: Uint8Array;
  channels: 3 | 4;
  box: { left: number; top: number; right: number; bottom: number };
}
interface Kind {
  shadow?: boolean;
  gradient?: number;
  noise?: number;
  ground?: [number, number, number];
  clear?: boolean;
  touching?: boolean;
  two?: boolean;
  weak?: boolean;
}

/** A made product shot, with the box of what stands in it. */
function shot(chance: Chance, kind: Kind): Shot {
  const ground = kind.ground ?? [250, 250, 248];
  const colours: [number, number, number][] = kind.weak
    ? [[ground[0] - 6, ground[1] - 6, ground[2] - 6]]
    : [
        [160, 40, 40],
        [30, 70, 150],
        [40, 40, 44],
        [200, 160, 60],
        [70, 130, 80],
      ];
  const colour = chance.pick(colours);
  const wide = chance.whole(40, 180);
  const high = chance.whole(40, 140);
  const left = kind.touching ? 0 : chance.whole(14, width - wide - 14);
  const top = chance.whole(14, height - high - 20);
  const round = chance.below(2) === 0;
  const inside = (x: number, y: number, l: number, t: number, w: number, h: number) =>
    round
      ? ((x + 0.5 - l - w / 2) / (w / 2)) ** 2 + ((y + 0.5 - t - h / 2) / (h / 2)) ** 2 <= 1
      : x >= l && x < l + w && y >= t && y < t + h;
  const second =
    kind.two && left + wide + 30 < width
      ? { left: left + wide + 10, width: 20, top, height: high }
      : undefined;
  const channels = kind.clear ? 4 : 3;
  const data = new Uint8Array(width * height * channels);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++) {
      const at = (y * width + x) * channels;
      const isThing =
        inside(x, y, left, top, wide, high) ||
        (second && inside(x, y, second.left, second.top, second.width, second.height));
      let shade = 1 - ((kind.gradient ?? 0) * (x / width + y / height)) / 2;
      if (kind.shadow && !isThing) {
        const away = Math.hypot((x - left - wide / 2) / (wide * 0.62), (y - top - high) / 16);
        if (away < 1) shade *= 1 - 0.22 * (1 - away);
      }
      for (let channel = 0; channel < 3; channel++) {
        const plain = isThing ? colour[channel]! * (0.9 + 0.2 * (x / width)) : ground[channel]! * shade;
        data[at + channel] = Math.min(
          255,
          Math.max(0, plain + (kind.noise ? chance.whole(-kind.noise, kind.noise) : 0)),
        );
      }
      if (channels === 4) data[at + 3] = isThing ? 255 : 0;
    }
  const right = second ? second.left + second.width : left + wide;
  return { data, channels, box: { left, top, right, bottom: top + high } };
}

/** The largest error of an edge, in parts of the image's side. */
const errorOf = (found: Subject, { box }: Shot) =>
  Math.max(
    Math.abs(found.x - box.left / width),
    Math.abs(found.y - box.top / height),
    Math.abs(found.x + found.width - box.right / width),
    Math.abs(found.y + found.height - box.bottom / height),
  );

test.each<[string, Kind]>([
  ['on white', {}],
  ['with a soft shadow', { shadow: true }],
  ['on a ground that changes', { gradient: 0.18 }],
  ['with noise', { noise: 9 }],
  ['on off-white, with shadow and noise', { ground: [236, 230, 220], shadow: true, noise: 5 }],
  ['on a dark ground', { ground: [38, 40, 46] }],
  ['cut out', { clear: true }],
  ['two things', { two: true }],
])('%s: the box is found, within one in a hundred of the side in the middle of all', (_, kind) => {
  const chance = seeded(31);
  const errors: number[] = [];
  for (let round = 0; round < 60; round++) {
    const one = shot(chance, kind);
    const found = subjectOf(one.data, width, height, one.channels);
    // Grey on grey: it is said that nothing is to be seen.
    if (typeof found === 'string' || found.sure < SURE) continue;
    errors.push(errorOf(found, one));
  }
  errors.sort((a, b) => a - b);
  expect(errors.length).toBeGreaterThan(40);
  expect(errors[errors.length >> 1]).toBeLessThan(0.01);
  // Whatever is told as sure is never far off.
  expect(errors[Math.floor(errors.length * 0.95)]).toBeLessThan(0.05);
});

test('what cannot be known is told so: no plain ground, nothing on it, touching the edge, hardly apart', () => {
  const chance = seeded(8);
  const noise = Uint8Array.from({ length: width * height * 3 }, () => chance.below(256));
  expect(subjectOf(noise, width, height, 3)).toBe('no plain ground');
  expect(subjectOf(new Uint8Array(width * height * 3).fill(240), width, height, 3)).toBe('nothing on it');
  for (let round = 0; round < 30; round++) {
    const one = shot(chance, { touching: true });
    const found = subjectOf(one.data, width, height, 3);
    if (typeof found !== 'string') expect(found.sure).toBeLessThan(SURE);
    const weak = subjectOf(shot(chance, { weak: true }).data, width, height, 3);
    if (typeof weak !== 'string') expect(weak.sure).toBeLessThan(SURE);
  }
});

test('a framing leaves the same margin around whatever stands in it', () => {
  const chance = seeded(2);
  const image = { width: 1000, height: 800 };
  for (let round = 0; round < 300; round++) {
    const thing = {
      x: chance.whole(5, 40) / 100,
      y: chance.whole(5, 40) / 100,
      width: chance.whole(5, 50) / 100,
      height: chance.whole(5, 50) / 100,
    };
    const how = {
      ratio: [chance.whole(1, 4), chance.whole(1, 4)] as [number, number],
      margin: chance.whole(0, 30) / 100,
    };
    const frame = framing(thing, { ...how, place: 'centred' }, image);
    const px = { width: frame.width * image.width, height: frame.height * image.height };
    expect(px.width / px.height).toBeCloseTo(how.ratio[0] / how.ratio[1], 6);
    const free = {
      left: (thing.x - frame.x) / frame.width,
      right: (frame.x + frame.width - thing.x - thing.width) / frame.width,
      top: (thing.y - frame.y) / frame.height,
      bottom: (frame.y + frame.height - thing.y - thing.height) / frame.height,
    };
    expect(free.left).toBeCloseTo(free.right, 6);
    expect(free.top).toBeCloseTo(free.bottom, 6);
    expect(Math.min(free.left, free.top)).toBeCloseTo(how.margin, 6);
    const standing = framing(thing, { ...how, place: 'base' }, image);
    expect((standing.y + standing.height - thing.y - thing.height) / standing.height).toBeCloseTo(
      how.margin,
      6,
    );
  }
});
