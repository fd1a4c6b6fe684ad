import { describe, expect, test } from 'vitest';
import { variantsOf, type VariantFacts } from './variants.ts';

describe('size variants', () => {
  const picture = (id: number, path: string, width: number, height: number): VariantFacts => ({
    id,
    path,
    kind: 'image',
    width,
    height,
  });
  test('a size behind the name and the same shape make a variant; another number, folder or shape does not', async () => {
    const found = await variantsOf([
      picture(1, 'a/dome.jpg', 1600, 1200),
      picture(2, 'a/dome-800.jpg', 800, 600),
      picture(3, 'a/dome-400x300.webp', 400, 300),
      picture(4, 'a/dome@2x.jpg', 3200, 2400),
      picture(5, 'a/dome-small.jpg', 200, 150),
      picture(6, 'a/dome-2.jpg', 1600, 1200),
      picture(7, 'b/dome-800.jpg', 800, 600),
      picture(8, 'a/dome-640.jpg', 640, 640),
      picture(9, 'a/dome.webp', 1600, 1200),
      picture(10, 'a/dome-500.jpg', 700, 525),
    ]);
    expect(found.map(({ id, of, suffix }) => [id, of, suffix]).sort()).toEqual([
      [2, 1, '-800'],
      [3, 1, '-400x300'],
      [4, 1, '@2x'],
      [5, 1, '-small'],
      [9, 1, ''],
    ]);
  });

  test('without a plain name the widest leads', async () => {
    const items = [picture(1, 'a/sky-400.jpg', 400, 300), picture(2, 'a/sky-800.jpg', 800, 600)];
    expect(await variantsOf(items)).toContainEqual({ id: 1, of: 2, suffix: '-400' });
  });

  test('what has as many pixels as the widest is no size, whatever number a camera gave it', async () => {
    const burst = [1499, 1500, 1501, 2000, 4000].map((number, at) =>
      picture(at + 1, `a/IMG_${number}.jpg`, 4000, 3000),
    );
    expect(await variantsOf(burst)).toEqual([]);
    expect(
      await variantsOf([picture(1, 'a/dome.jpg', 800, 600), picture(2, 'a/dome-small.jpg', 800, 600)]),
    ).toEqual([]);
  });

  test('what one srcset offers belongs together, whatever the names; other shapes are other images', async () => {
    const items = [
      picture(1, 'a/hero.jpg', 2000, 1000),
      picture(2, 'a/kopf.jpg', 1000, 500),
      picture(3, 'a/square.jpg', 500, 500),
    ];
    expect(await variantsOf(items, [[2, 1, 3]])).toEqual([{ id: 2, of: 1, suffix: '-1000w' }]);
  });
});
