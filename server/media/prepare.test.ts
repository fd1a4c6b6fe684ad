import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import sharp from 'sharp';
import { afterAll, beforeAll, expect, test } from 'vitest';
import { geometry } from '../../core/picture/recipe/geometry.ts';
import { applyTone, toneTables } from '../../core/picture/recipe/tone.ts';
import { ssim } from '../../core/picture/ssim.ts';
import type { Recipe } from '../../core/picture/recipe/recipe.ts';
import { painted } from '../test/media.ts';
import { prepare } from './prepare.ts';
import { Undecodable } from './undecodable.ts';

let folder = '';
beforeAll(async () => {
  folder = await mkdtemp(join(tmpdir(), 'iconomos-prepare-'));
});
afterAll(() => rm(folder, { recursive: true, force: true }));

type Colour = [number, number, number];
const RED: Colour = [255, 0, 0];
const GREEN: Colour = [0, 255, 0];
const BLUE: Colour = [0, 0, 255];
const GREY: Colour = [128, 128, 128];
/** Four fields of one colour each: red and green above, blue and grey below. */
const fields = (width: number, height: number, colours = [RED, GREEN, BLUE, GREY]) => {
  const data = Buffer.alloc(width * height * 3);
  for (let y = 0; y < height; y++)
    for (let x = 0; x < width; x++)
      Buffer.from(colours[(y < height / 2 ? 0 : 2) + (x < width / 2 ? 0 : 1)]!).copy(
        data,
        (y * width + x) * 3,
      );
  return sharp(data, { raw: { width, height, channels: 3 } });
};

let count = 0;
async function put(bytes: Uint8Array): Promise<string> {
  const file = join(folder, `${count++}`);
  await writeFile(file, bytes);
  return file;
}
async function made(bytes: Uint8Array, recipe: Omit<Recipe, 'version'>, mime = 'image/png') {
  const to = join(folder, `${count++}`);
  const prepared = await prepare(await put(bytes), to, { recipe: { version: 1, ...recipe }, mime });
  const { data, info } = await sharp(to).raw().toBuffer({ resolveWithObject: true });
  expect([info.width, info.height]).toEqual([prepared.width, prepared.height]);
  const at = (x: number, y: number) => {
    const start = (Math.floor(y * info.height) * info.width + Math.floor(x * info.width)) * info.channels;
    return [...data.subarray(start, start + info.channels)];
  };
  return { ...prepared, at, to, data, info };
}
const near = (pixel: number[], wanted: number[], by = 3) => {
  expect(pixel.length).toBe(wanted.length);
  for (const [channel, value] of wanted.entries())
    expect(Math.abs(pixel[channel]! - value)).toBeLessThanOrEqual(by);
};
const png = (image: ReturnType<typeof fields>) => image.png().toBuffer();

test('no step leaves every pixel as it was', async () => {
  const bytes = await painted(3, 90, 60);
  const plain = await made(bytes, { file: { format: 'png' } }, 'image/jpeg');
  const before = await sharp(bytes).raw().toBuffer();
  expect(plain.data.equals(before)).toBe(true);
});

test.each([
  [{ turns: 1 }, [BLUE, RED, GREY, GREEN]],
  [{ turns: 2 }, [GREY, BLUE, GREEN, RED]],
  [{ turns: 3 }, [GREEN, GREY, RED, BLUE]],
  [{ mirror: true }, [GREEN, RED, GREY, BLUE]],
  [{ flip: true }, [BLUE, GREY, RED, GREEN]],
  [{ turns: 1, mirror: true }, [RED, BLUE, GREEN, GREY]],
] as const)('oriented by %o', async (orient, [leftTop, rightTop, leftBottom, rightBottom]) => {
  const one = await made(await png(fields(80, 40)), { orient });
  near(one.at(0.2, 0.2), leftTop);
  near(one.at(0.8, 0.2), rightTop);
  near(one.at(0.2, 0.8), leftBottom);
  near(one.at(0.8, 0.8), rightBottom);
  const odd = 'turns' in orient && orient.turns % 2 === 1;
  expect([one.width, one.height]).toEqual(odd ? [40, 80] : [80, 40]);
});

test('what a camera says of upright comes first: a frame is of what people see', async () => {
  const bytes = await fields(80, 40).withMetadata({ orientation: 6 }).jpeg({ quality: 100 }).toBuffer();
  // Shown by browsers turned right: blue at the left top.
  const one = await made(
    bytes,
    { frame: { x: 0, y: 0, width: 0.5, height: 0.5 }, file: { format: 'png' } },
    'image/jpeg',
  );
  expect([one.width, one.height]).toEqual([20, 40]);
  near(one.at(0.5, 0.5), BLUE, 6);
});

test('cropped to the pixel; beyond the image is what was asked for', async () => {
  const bytes = await png(fields(80, 40));
  const cropped = await made(bytes, { frame: { x: 0.5, y: 0.5, width: 0.5, height: 0.5 } });
  expect([cropped.width, cropped.height]).toEqual([40, 20]);
  near(cropped.at(0, 0), GREY, 0);
  const frame = { x: -0.5, y: 0, width: 2, height: 1 };
  const filled = await made(bytes, { frame: { ...frame, beyond: { fill: 'colour', colour: '#102030' } } });
  expect([filled.width, filled.height]).toEqual([160, 40]);
  near(filled.at(0.1, 0.5), [16, 32, 48], 0);
  near(filled.at(0.3, 0.2), RED, 0);
  near((await made(bytes, { frame })).at(0.1, 0.5), [255, 255, 255], 0);
  near((await made(bytes, { frame: { ...frame, beyond: { fill: 'none' } } })).at(0.1, 0.5), [0, 0, 0, 0], 0);
  const plain = await png(fields(80, 40, [BLUE, BLUE, BLUE, BLUE]));
  near((await made(plain, { frame: { ...frame, beyond: { fill: 'edge' } } })).at(0.1, 0.5), BLUE, 0);
  near((await made(plain, { frame: { ...frame, beyond: { fill: 'blur' } } })).at(0.1, 0.5), BLUE, 2);
});

test('straightened: points lie where the geometry says, and no ground shows', async () => {
  // A small white spot on black, off the middle.
  const [width, height] = [400, 300];
  const data = Buffer.alloc(width * height * 3);
  const spot = { x: 280, y: 120 };
  for (let y = spot.y - 4; y < spot.y + 4; y++)
    for (let x = spot.x - 4; x < spot.x + 4; x++)
      data.fill(255, (y * width + x) * 3, (y * width + x) * 3 + 3);
  const bytes = await sharp(data, { raw: { width, height, channels: 3 } })
    .png()
    .toBuffer();
  for (const straighten of [-12.5, -3, 4.2, 20]) {
    const recipe: Recipe = { version: 1, orient: { straighten } };
    const one = await made(bytes, { orient: { straighten } });
    expect(one.info.channels).toBe(3);
    const { toOutput, output } = geometry(recipe, { width, height });
    expect(output).toEqual({ width: one.width, height: one.height });
    let [sum, across, down] = [0, 0, 0];
    for (let at = 0; at < one.data.length; at += 3) {
      sum += one.data[at]!;
      across += one.data[at]! * ((at / 3) % one.width);
      down += one.data[at]! * Math.floor(at / 3 / one.width);
    }
    const wanted = toOutput({ x: spot.x / width, y: spot.y / height });
    expect(Math.abs(across / sum + 0.5 - wanted.x * one.width)).toBeLessThan(1.6);
    expect(Math.abs(down / sum + 0.5 - wanted.y * one.height)).toBeLessThan(1.6);
  }
  // A frame of its own that reaches over the turned corners is filled there.
  const corners = await made(await png(fields(80, 80, [BLUE, BLUE, BLUE, BLUE])), {
    orient: { straighten: 45 },
    frame: { x: -0.2, y: -0.2, width: 1.4, height: 1.4, beyond: { fill: 'colour', colour: '#00ff00' } },
  });
  near(corners.at(0.02, 0.02), GREEN);
  near(corners.at(0.5, 0.5), BLUE);
});

test('the tone of the server is the tone of the window: pixel by pixel less than two apart', async () => {
  const bytes = await painted(8, 120, 90);
  const tone = {
    levels: { black: 20, mid: 110, white: 230 },
    contrast: 20,
    saturation: -30,
    warmth: 15,
    veil: { colour: '#203040', opacity: 0.25 },
  };
  const one = await made(bytes, { tone, file: { format: 'png' } }, 'image/jpeg');
  // As the window does it: the pixels of a canvas, all steps in one table.
  const canvas = Uint8ClampedArray.from(await sharp(bytes).ensureAlpha().raw().toBuffer());
  applyTone(canvas, 4, toneTables(tone)!);
  let sum = 0;
  for (let at = 0; at < one.data.length / 3; at++)
    for (let channel = 0; channel < 3; channel++)
      sum += Math.abs(one.data[3 * at + channel]! - canvas[4 * at + channel]!);
  expect(sum / one.data.length).toBeLessThan(2);
  expect(sum).toBeGreaterThanOrEqual(0);
});

test('automatic levels open what the frame holds, a fill beyond it stays as it was asked for', async () => {
  const dull = await png(
    fields(80, 40, [
      [90, 90, 90],
      [110, 110, 110],
      [130, 130, 130],
      [150, 150, 150],
    ]),
  );
  const one = await made(dull, {
    tone: { levels: 'auto', brightness: -20 },
    frame: { x: 0, y: -0.5, width: 1, height: 2, beyond: { fill: 'colour', colour: '#ffffff' } },
  });
  near(one.at(0.5, 0.05), [255, 255, 255], 0);
  expect(one.at(0.1, 0.35)[0]).toBeLessThan(10);
});

test('sizes: never larger unless asked, to the pixel otherwise', async () => {
  const bytes = await png(fields(80, 40));
  const small = await made(bytes, { size: { by: 'fit', width: 800, height: 600 } });
  expect(small).toMatchObject({ width: 80, height: 40 });
  expect(small.notes).toEqual(['Already small enough: it isn’t enlarged.']);
  expect(await made(bytes, { size: { by: 'fit', width: 800, height: 600, enlarge: true } })).toMatchObject({
    width: 800,
    height: 400,
    notes: [],
  });
  expect(await made(bytes, { size: { by: 'cover', width: 20, height: 20 } })).toMatchObject({
    width: 20,
    height: 20,
  });
  expect(await made(bytes, { size: { by: 'longest', pixels: 40, sharpen: 'light' } })).toMatchObject({
    width: 40,
    height: 20,
  });
  const one = await sharp({ create: { width: 1, height: 1, channels: 3, background: 'red' } })
    .png()
    .toBuffer();
  expect(await made(one, { orient: { straighten: 10 }, size: { by: 'percent', percent: 50 } })).toMatchObject(
    { width: 1, height: 1 },
  );
});

test('transparent onto JPEG gets a ground and says so; grey, 16 bits and four inks become sRGB', async () => {
  const clear = await sharp({
    create: { width: 20, height: 20, channels: 4, background: { r: 255, g: 0, b: 0, alpha: 0 } },
  })
    .png()
    .toBuffer();
  const onWhite = await made(clear, { file: { format: 'jpeg' } });
  near(onWhite.at(0.5, 0.5), [255, 255, 255]);
  expect(onWhite.notes).toEqual(['What was transparent is now white.']);
  near((await made(clear, { file: { format: 'jpeg', ground: '#000000' } })).at(0.5, 0.5), [0, 0, 0]);
  expect((await made(clear, { file: { format: 'webp' } })).info.channels).toBe(4);
  const grey = await fields(20, 20, [GREY, GREY, GREY, GREY]).toColourspace('b-w').png().toBuffer();
  near((await made(grey, { tone: { warmth: 100 } })).at(0.5, 0.5), [160, 128, 96]);
  const deep = await fields(20, 20, [GREY, GREY, GREY, GREY]).toColourspace('rgb16').png().toBuffer();
  expect((await sharp(deep).metadata()).depth).toBe('ushort');
  near((await made(deep, { tone: { blackAndWhite: true } })).at(0.5, 0.5), GREY);
  const inks = await fields(20, 20, [RED, RED, RED, RED])
    .toColourspace('cmyk')
    .jpeg({ quality: 95 })
    .toBuffer();
  const shown = (await made(inks, { tone: { brightness: 1 }, file: { format: 'png' } }, 'image/jpeg')).at(
    0.5,
    0.5,
  );
  expect(shown[0]).toBeGreaterThan(180);
  expect(shown[1]).toBeLessThan(90);
});

test('as small as looks the same: lighter than the fixed quality where it can be, and it looks the same', async () => {
  const bytes = await painted(21, 640, 480);
  const fixed = await made(bytes, { file: { format: 'jpeg', quality: 92 } }, 'image/jpeg');
  const same = await made(bytes, { file: { format: 'jpeg', quality: 'same' } }, 'image/jpeg');
  expect(same.bytes).toBeLessThan(fixed.bytes);
  const grey = async (file: string | Buffer) => sharp(file).greyscale().raw().toBuffer();
  const likeness = ssim(await grey(Buffer.from(bytes)), await grey(same.to), 640, 480);
  expect(likeness.mean).toBeGreaterThan(0.96);
  const most = Math.round(fixed.bytes * 0.7);
  const light = await made(bytes, { file: { format: 'jpeg', quality: { mostBytes: most } } }, 'image/jpeg');
  expect(light.bytes).toBeLessThanOrEqual(most);
  const tiny = await made(bytes, { file: { format: 'jpeg', quality: { mostBytes: 1000 } } }, 'image/jpeg');
  expect(tiny.notes[0]).toContain('It can’t be made smaller than');
});

test('what only gets smaller goes through in one stream, and keeps what it tells of itself; wide colours become sRGB', async () => {
  const bytes = await sharp({ create: { width: 80, height: 60, channels: 3, background: '#f00' } })
    .withIccProfile('p3')
    .withExif({ IFD0: { Copyright: '(c) Corvane Hill' } })
    .jpeg({ quality: 95 })
    .toBuffer();
  const one = await made(bytes, { size: { by: 'width', width: 40 } }, 'image/jpeg');
  expect(one).toMatchObject({ carried: true, width: 40, height: 30 });
  const stored = await readFile(one.to);
  expect(stored.includes('(c) Corvane Hill')).toBe(true);
  // The same red, told without the wider colours.
  const seen = await sharp(stored, { ignoreIcc: true }).raw().toBuffer();
  expect([...seen.subarray(0, 3)].every((value, at) => Math.abs(value - [255, 0, 0][at]!) < 8)).toBe(true);
  const toned = await made(
    bytes,
    { size: { by: 'width', width: 40 }, tone: { brightness: 1 } },
    'image/jpeg',
  );
  expect(toned.carried).toBe(false);
  expect((await readFile(toned.to)).includes('(c) Corvane Hill')).toBe(false);
});

test('what cannot be edited is told in a sentence', async () => {
  const to = join(folder, 'none');
  const refused = async (bytes: Uint8Array, recipe: Omit<Recipe, 'version'> = {}) =>
    expect(
      prepare(await put(bytes), to, { recipe: { version: 1, ...recipe }, mime: 'image/png' }),
    ).rejects.toThrow(Undecodable);
  await refused(Buffer.from('this is no image'));
  await refused(await png(fields(80, 40)), { frame: { x: 2, y: 2, width: 1, height: 1 } });
  await refused(await png(fields(8, 4)), { frame: { x: 0, y: 0, width: 0.01, height: 1 } });
  const frames = await sharp(Buffer.concat([Buffer.alloc(1200, 20), Buffer.alloc(1200, 220)]), {
    raw: { width: 20, height: 40, channels: 3, pageHeight: 20 },
  })
    .gif()
    .toBuffer();
  await refused(frames);
});

test('a drawing becomes an image in any size, sharp; nothing else can be done with it, and nothing beside it is read', async () => {
  const beside = await put(await png(fields(10, 10)));
  const drawing = Buffer.from(
    `<svg xmlns="http://www.w3.org/2000/svg" xmlns:xlink="http://www.w3.org/1999/xlink" width="40" height="20">
      <rect width="20" height="20" fill="#ff0000"/><image xlink:href="${beside}" x="25" width="10" height="10"/></svg>`,
  );
  const image = (recipe: Omit<Recipe, 'version'>) => made(drawing, recipe, 'image/svg+xml');
  const large = await image({ size: { by: 'fit', width: 800, height: 800 }, file: { format: 'png' } });
  expect([large.width, large.height, large.mime, large.notes]).toEqual([800, 400, 'image/png', []]);
  // Its edge lies between two pixels, however large it is.
  near(large.at(399.5 / 800, 0.5), [255, 0, 0, 255]);
  near(large.at(400.5 / 800, 0.5), [0, 0, 0, 0]);
  near(large.at(0.75, 0.25), [0, 0, 0, 0]);
  const cropped = await image({
    size: { by: 'cover', width: 500, height: 500 },
    file: { format: 'jpeg', ground: '#00ff00' },
  });
  expect([cropped.width, cropped.height]).toEqual([500, 500]);
  expect(cropped.notes).toEqual(['What was transparent is now #00ff00.']);
  near(cropped.at(0.25, 0.5), RED, 6);
  near(cropped.at(0.75, 0.9), GREEN, 6);
  const half = await image({ size: { by: 'percent', percent: 50 }, file: { format: 'webp' } });
  expect([half.width, half.height]).toEqual([20, 10]);
  await expect(image({ size: { by: 'width', width: 80 } })).rejects.toThrow('Choose a format');
  await expect(image({ tone: { contrast: 5 }, file: { format: 'png' } })).rejects.toThrow(
    'only its size and format',
  );
});

test('a single pixel and a panorama of 20,000 pixels are made as any other', async () => {
  const single = await made(await png(fields(1, 1, [RED, RED, RED, RED])), {
    tone: { blackAndWhite: true },
    size: { by: 'width', width: 100 },
  });
  expect([single.width, single.height]).toEqual([1, 1]);
  expect(single.notes).toEqual(['Already small enough: it isn’t enlarged.']);
  const wide = await sharp({ create: { width: 20_000, height: 600, channels: 3, background: '#468' } })
    .jpeg()
    .toBuffer();
  const turned = await made(
    wide,
    {
      orient: { turns: 1, straighten: 0.5 },
      frame: { x: 0, y: 0.25, width: 1, height: 0.5 },
      tone: { contrast: 10 },
      size: { by: 'longest', pixels: 2000 },
    },
    'image/jpeg',
  );
  expect([turned.width, turned.height]).toEqual([120, 2000]);
  const whole = await made(wide, { tone: { contrast: 10 } }, 'image/jpeg');
  expect([whole.width, whole.height]).toEqual([20_000, 600]);
}, 60_000);
