import { mkdtempSync, rmSync, writeFileSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import sharp, { type Sharp } from 'sharp';
import { afterAll, expect, test } from 'vitest';
import { comparable } from './comparable.ts';
import { differences } from './differences.ts';

const folder = mkdtempSync(join(tmpdir(), 'iconomos-differences-'));
afterAll(() => rmSync(folder, { recursive: true }));

const [WIDTH, HEIGHT] = [900, 600];
/** Houses on hills, by their number. */
function scene(number: number): Sharp {
  const shapes = Array.from({ length: 40 }, (_, i) => {
    const [x, y] = [(i * 137 + number * 71) % WIDTH, (i * 89 + number * 53) % HEIGHT];
    return `<rect x="${x}" y="${y}" width="${20 + ((i * 37) % 90)}" height="${15 + ((i * 23) % 70)}" fill="hsl(${(i * 47 + number * 13) % 360} 50% ${25 + ((i * 11) % 50)}%)"/>`;
  }).join('');
  return sharp(
    Buffer.from(
      `<svg xmlns="http://www.w3.org/2000/svg" width="${WIDTH}" height="${HEIGHT}"><rect width="100%" height="100%" fill="#98a"/>${shapes}</svg>`,
    ),
  ).flatten({ background: '#fff' });
}
const bytesOf = (picture: Sharp) => picture.jpeg({ quality: 88 }).toBuffer();
let files = 0;
function put(bytes: Uint8Array, name = `${++files}.jpg`): string {
  writeFileSync(join(folder, name), bytes);
  return join(folder, name);
}
const box = (width: number, height: number) =>
  sharp({ create: { width, height, channels: 3, background: '#fff35c' } })
    .png()
    .toBuffer();

test('what was painted over is marked, in another size and quality too; nothing else is', async () => {
  const plain = await bytesOf(scene(1));
  const painted = await sharp(plain)
    .composite([{ input: await box(180, 90), left: 360, top: 300 }])
    .png()
    .toBuffer();
  const [one, other] = [put(plain), put(await sharp(painted).resize(450).webp({ quality: 70 }).toBuffer())];
  const found = (await differences(one, other))!;
  expect(found).toMatchObject({ exchanged: false, orientation: 0 });
  expect(found.window).toBeUndefined();
  expect(found.marks).toHaveLength(1);
  const [{ one: here, other: there }] = found.marks as [(typeof found.marks)[0]];
  for (const place of [here, there]) {
    expect(place.x).toBeCloseTo(0.4, 1);
    expect(place.y).toBeCloseTo(0.5, 1);
    expect(place.w).toBeCloseTo(0.2, 1);
    expect(place.h).toBeCloseTo(0.15, 1);
  }
  // The other way round it is the same.
  expect((await differences(other, one))!.marks).toHaveLength(1);
  expect((await differences(one, put(await sharp(plain).jpeg({ quality: 50 }).toBuffer())))!.marks).toEqual(
    [],
  );
});

test('a part of the other is told as one, whichever is asked for first, and what differs in it lies where it is', async () => {
  const plain = await bytesOf(scene(2));
  const part = { left: 90, top: 60, width: 720, height: 480 };
  const cropped = await sharp(plain)
    .extract(part)
    .composite([{ input: await box(144, 96), left: 360, top: 240 }])
    .jpeg({ quality: 90 })
    .toBuffer();
  const [whole, detail] = [put(plain), put(cropped)];
  for (const [one, other, exchanged] of [
    [whole, detail, false],
    [detail, whole, true],
  ] as const) {
    const found = (await differences(one, other))!;
    expect(found.exchanged).toBe(exchanged);
    expect(found.window!.x).toBeCloseTo(0.1, 1);
    expect(found.window!.w).toBeCloseTo(0.8, 1);
    const mark = found.marks[0]!;
    const [inWhole, inPart] = exchanged ? [mark.other, mark.one] : [mark.one, mark.other];
    expect(inPart.x).toBeCloseTo(0.5, 1);
    expect(inPart.y).toBeCloseTo(0.5, 1);
    expect(inWhole.x).toBeCloseTo(0.1 + 0.5 * 0.8, 1);
    // Around the box, and not much more.
    expect(inWhole.w).toBeGreaterThan(0.15);
    expect(inWhole.w).toBeLessThan(0.24);
  }
});

test('mirrored ones are laid over each other; lighter ones are told so; others are not compared', async () => {
  const plain = await bytesOf(scene(3));
  const one = put(plain);
  const mirrored = (await differences(one, put(await sharp(plain).flop().toBuffer())))!;
  expect(mirrored).toMatchObject({ orientation: 1, marks: [] });
  const lighter = (await differences(one, put(await bytesOf(sharp(plain).linear(0.85, 45)))))!;
  expect(lighter.lighter).toBeGreaterThan(10);
  expect(lighter.marks).toEqual([]);
  expect(await differences(one, put(await bytesOf(scene(8))))).toBeNull();
  await expect(differences(one, put(plain.subarray(0, 2000)))).rejects.toThrow();
});

test('a white drawing on a transparent ground is compared on black, where it can be seen', async () => {
  const drawing = (x: number) =>
    sharp(
      Buffer.from(
        `<svg xmlns="http://www.w3.org/2000/svg" width="600" height="400"><g fill="#fff"><rect x="60" y="50" width="140" height="120"/><circle cx="${x}" cy="260" r="90"/><path d="M260 60h200l-60 120z"/></g></svg>`,
      ),
    );
  const [one, same, other] = [
    put(await drawing(420).png().toBuffer(), 'white.png'),
    put(await drawing(420).webp({ quality: 90 }).toBuffer(), 'white.webp'),
    put(await drawing(150).png().toBuffer(), 'white-other.png'),
  ];
  expect((await differences(one, same))!.marks).toEqual([]);
  // Without its circle it is another drawing.
  expect(await differences(one, other)).toBeNull();
  const { data, info } = await sharp(one).raw().toBuffer({ resolveWithObject: true });
  const { picture, background } = await comparable({ data, info });
  expect([picture.isFlat, background]).toEqual([false, '#000000']);
});
