import { describe, expect, test } from 'vitest';
import { seeded } from '../test/chance.ts';
import { verify, type Alike } from './alike.ts';
import { candidatesOf } from './matcher.ts';
import { PLANE } from './signature.ts';
import { Prepared } from './windows.ts';

/** A drawn scene in grey, `width` x `height`: soft ground, blobs and strokes. Another number, another scene. */
class Scene {
  readonly grey: Float64Array;
  constructor(
    readonly width: number,
    readonly height: number,
    number: number,
  ) {
    const { below } = seeded(number * 7919 + 13);
    this.grey = new Float64Array(width * height);
    const slope = [below(100) / 100, below(100) / 100];
    const blobs = Array.from({ length: 26 }, () => ({
      x: below(width),
      y: below(height),
      r: 6 + below(width / 7),
      flat: 0.4 + below(100) / 60,
      value: below(200) - 90,
    }));
    for (let y = 0; y < height; y++)
      for (let x = 0; x < width; x++) {
        let value = 90 + (slope[0]! * 50 * x) / width + (slope[1]! * 50 * y) / height;
        for (const one of blobs)
          if (((x - one.x) / one.r) ** 2 + ((y - one.y) / (one.r * one.flat)) ** 2 < 1) value += one.value;
        this.grey[y * width + x] = Math.max(0, Math.min(255, value + ((x * 31 + y * 17) % 7)));
      }
  }

  /** The image that a window of it makes, after something was done to each value, in one of 8 orientations. */
  seen(
    window = { x: 0, y: 0, w: 1, h: 1 },
    change: (value: number) => number = (value) => value,
    orientation = 0,
    border = 0,
  ): Prepared {
    const [w, h] = [this.width * window.w, this.height * window.h];
    const plane = new Uint8Array(PLANE * PLANE);
    for (let y = 0; y < PLANE; y++)
      for (let x = 0; x < PLANE; x++) {
        const fx = orientation & 1 ? PLANE - 1 - x : x;
        const fy = orientation & 2 ? PLANE - 1 - y : y;
        const [px, py] = orientation & 4 ? [fy, fx] : [fx, fy];
        const [u, v] = [(px + 0.5) / PLANE, (py + 0.5) / PLANE].map(
          (one) => (one - border) / (1 - 2 * border),
        );
        if (u! < 0 || v! < 0 || u! >= 1 || v! >= 1) {
          plane[y * PLANE + x] = 255;
          continue;
        }
        let sum = 0;
        for (let i = 0; i < 9; i++) {
          const sx = Math.floor(this.width * (window.x + window.w * u!) + (i % 3) - 1);
          const sy = Math.floor(this.height * (window.y + window.h * v!) + Math.floor(i / 3) - 1);
          sum +=
            this.grey[
              Math.min(this.height - 1, Math.max(0, sy)) * this.width +
                Math.min(this.width - 1, Math.max(0, sx))
            ]!;
        }
        plane[y * PLANE + x] = Math.max(0, Math.min(255, change(sum / 9)));
      }
    const turned = orientation & 4;
    const [width, height] = [w / (1 - 2 * border), h / (1 - 2 * border)].map(Math.round);
    return new Prepared({
      plane,
      width: turned ? height! : width!,
      height: turned ? width! : height!,
      chroma: null,
    });
  }
}

/** What is painted over a part of an image, in stripes: a caption, a logo. */
function over({ picture }: Prepared, x: number, y: number, w: number, h: number, stripe = 0): Prepared {
  const plane = picture.plane.slice();
  for (let py = Math.round(y * PLANE); py < Math.round((y + h) * PLANE); py++)
    for (let px = Math.round(x * PLANE); px < Math.round((x + w) * PLANE); px++)
      plane[py * PLANE + px] = stripe > 0 && px % (2 * stripe) < stripe ? 245 : 10;
  return new Prepared({ ...picture, plane });
}

/** Both ways round, as a search does it. */
function alike(a: Prepared, b: Prepared): Alike | undefined {
  for (const way of candidatesOf(a, b)) {
    const found = way.one === 0 ? verify(a, b, way) : verify(b, a, way);
    if (found) return found;
  }
  return undefined;
}
const scenes = Array.from({ length: 20 }, (_, i) => new Scene(480, i % 3 ? 320 : 480, i + 1));

describe('the same image is found again, and how it is related', () => {
  test.each<[string, string, number, (scene: Scene) => Prepared]>([
    [
      'other bytes',
      're-encoded',
      1,
      (scene) => scene.seen(undefined, (value) => value + (value % 2 ? 1 : -1)),
    ],
    ['lighter', 'edited', 0.9, (scene) => scene.seen(undefined, (value) => value * 0.85 + 32)],
    ['a twentieth cropped off', 'cropped', 0.9, (scene) => scene.seen({ x: 0.05, y: 0, w: 0.95, h: 0.95 })],
    [
      'a tenth cropped off around',
      'cropped',
      0.9,
      (scene) => scene.seen({ x: 0.05, y: 0.05, w: 0.9, h: 0.9 }),
    ],
    ['a fifth cropped off', 'cropped', 0.8, (scene) => scene.seen({ x: 0, y: 0.2, w: 0.8, h: 0.8 })],
    ['a white border', 'edited', 0.8, (scene) => scene.seen(undefined, undefined, 0, 0.04)],
    ['a caption under it', 'edited', 0.9, (scene) => over(scene.seen(), 0, 0.87, 1, 0.13, 2)],
    ['a logo in a corner', 'edited', 0.95, (scene) => over(scene.seen(), 0.83, 0.03, 0.15, 0.14)],
    [
      'a date at the edge, and lighter',
      'edited',
      0.9,
      (scene) =>
        over(
          scene.seen(undefined, (value) => value * 0.9 + 20),
          0,
          0.4,
          0.18,
          0.2,
          1,
        ),
    ],
    ['mirrored', 'turned', 0.9, (scene) => scene.seen(undefined, undefined, 1)],
    ['turned by a quarter', 'turned', 0.9, (scene) => scene.seen(undefined, undefined, 5)],
  ])('%s: %s', (_what, relation, least, make) => {
    const found = scenes.map((scene) => alike(scene.seen(), make(scene)));
    const right = found.filter((one) => one?.relation === relation).length;
    expect(found.filter(Boolean).length / scenes.length).toBeGreaterThanOrEqual(least);
    expect(right / Math.max(1, found.filter(Boolean).length)).toBeGreaterThanOrEqual(0.85);
  });
  test('a smaller copy is a resized one', () => {
    const [scene] = scenes;
    const { plane } = scene!.seen().picture;
    const small = new Prepared({ plane, width: 240, height: 240, chroma: null });
    expect(alike(scene!.seen(), small)?.relation).toBe('resized');
  });
});

test('other images are not alike, whatever is done to them', () => {
  const seen = scenes.map((scene) => scene.seen());
  const changed = scenes.map((scene, i) => scene.seen({ x: 0, y: 0, w: 0.9, h: 0.9 }, undefined, i % 8));
  for (const [i, one] of seen.entries())
    for (const [j, other] of [...seen.entries(), ...changed.entries()])
      if (i !== j) expect(alike(one, other), `${i} and ${j}`).toBeUndefined();
});

test('forms filled in differently are not alike, though all around it is the same', () => {
  const [form] = scenes;
  const filled = (number: number) => {
    const plane = form!.seen().picture.plane.slice();
    const { plane: within } = new Scene(480, 480, 100 + number).seen().picture;
    for (let y = 24; y < 104; y++)
      plane.set(within.subarray(y * PLANE + 24, y * PLANE + 104), y * PLANE + 24);
    return new Prepared({ plane, width: 480, height: 480, chroma: null });
  };
  const forms = Array.from({ length: 8 }, (_, number) => filled(number));
  for (const [i, one] of forms.entries())
    for (const other of forms.slice(i + 1)) expect(alike(one, other)).toBeUndefined();
});

test('flat and blank pictures: alike only when they are the same in shape, structure and colour', () => {
  const plain = (from: number, to: number, chroma: number) =>
    new Prepared({
      plane: Uint8Array.from({ length: PLANE * PLANE }, (_, i) => from + ((to - from) * (i % PLANE)) / PLANE),
      width: 300,
      height: 200,
      chroma: new Int8Array(128).fill(chroma),
    });
  expect(plain(80, 80, 0).windows).toEqual([]);
  expect(alike(plain(80, 80, 0), plain(80, 80, 0))).toBeUndefined();
  expect(alike(plain(60, 120, 0), plain(60, 120, 0))).toMatchObject({ weak: true });
  expect(alike(plain(60, 120, 20), plain(60, 120, -20))).toBeUndefined();
  expect(alike(plain(60, 120, 0), plain(120, 60, 0))).toBeUndefined();
});
