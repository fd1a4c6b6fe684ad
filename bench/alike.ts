import { readdirSync, readFileSync } from 'node:fs';
import { join, relative } from 'node:path';
import sharp, { type Sharp } from 'sharp';
import { verify, type Alike } from '../core/picture/alike.ts';
import { candidatesOf } from '../core/picture/matcher.ts';
import { HashIndex, NEAR, bitsOf } from '../core/picture/hash-index.ts';
import { chromaOf, PLANE, planeOf } from '../core/picture/signature.ts';
import { Prepared } from '../core/picture/windows.ts';
import { Chance } from '../demo/chance.ts';
import { demoPictures } from './pictures.ts';

/** So many of the demo's pictures are compared, each with all variants of all. */
const PICTURES = 80;

const time = (work: () => void) => {
  const start = performance.now();
  work();
  return performance.now() - start;
};

const dice = new Chance('alike');
const drawing = (width: number, height: number, within: string) =>
  Buffer.from(`<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}">${within}</svg>`);
const caption = (width: number, height: number) =>
  drawing(
    width,
    height,
    `<rect y="${0.88 * height}" width="${width}" height="${0.12 * height}"/><text x="${0.03 * width}" y="${0.96 * height}" font-size="${0.06 * height}" fill="#fff">The dome on an open night</text>`,
  );
const logo = (width: number, height: number) =>
  drawing(
    width,
    height,
    `<rect x="${0.82 * width}" y="${0.03 * height}" width="${0.15 * width}" height="${0.12 * height}" fill="#c22"/>`,
  );

/** What is done to a picture, and how much of it must be found again. */
const VARIANTS: [
  name: string,
  aim: number,
  make: (picture: Sharp, width: number, height: number) => Sharp,
][] = [
  ['resized to half', 0.98, (picture, width) => picture.resize(Math.round(width / 2))],
  ['resized to a quarter', 0.98, (picture, width) => picture.resize(Math.round(width / 4))],
  ['encoded anew, JPEG 40', 0.98, (picture) => picture.jpeg({ quality: 40 })],
  ['encoded anew, WebP 50', 0.98, (picture) => picture.webp({ quality: 50 })],
  ['brighter by a tenth', 0.95, (picture) => picture.modulate({ brightness: 1.1 })],
  ['more contrast', 0.95, (picture) => picture.linear(1.15, -14)],
  ['grey', 0.95, (picture) => picture.greyscale()],
  [
    'a twentieth cropped off',
    0.95,
    (picture, width, height) =>
      picture.extract({ left: Math.round(width * 0.05), top: 0, width: Math.floor(width * 0.95), height }),
  ],
  [
    'a fifth cropped off one side',
    0.8,
    (picture, width, height) => picture.extract({ left: 0, top: 0, width: Math.floor(width * 0.8), height }),
  ],
  [
    'cropped to 16:9',
    0.8,
    (picture, width, height) => {
      const [w, h] = [
        Math.min(width, Math.round((height * 16) / 9)),
        Math.min(height, Math.round((width * 9) / 16)),
      ];
      return picture.extract({ left: (width - w) >> 1, top: (height - h) >> 1, width: w, height: h });
    },
  ],
  [
    'a tenth cropped off around',
    0.95,
    (picture, width, height) =>
      picture.extract({
        left: Math.round(width * 0.05),
        top: Math.round(height * 0.05),
        width: Math.floor(width * 0.9),
        height: Math.floor(height * 0.9),
      }),
  ],
  [
    'a fifth cropped off',
    0.8,
    (picture, width, height) =>
      picture.extract({ left: 0, top: 0, width: Math.floor(width * 0.8), height: Math.floor(height * 0.8) }),
  ],
  [
    'a white border',
    0.8,
    (picture, width) =>
      picture.extend({
        top: width >> 5,
        bottom: width >> 5,
        left: width >> 5,
        right: width >> 5,
        background: '#fff',
      }),
  ],
  [
    'a caption under it',
    0.95,
    (picture, width, height) => picture.composite([{ input: caption(width, height) }]),
  ],
  [
    'a logo in a corner',
    0.95,
    (picture, width, height) => picture.composite([{ input: logo(width, height) }]),
  ],
  [
    'up to a tenth off each side',
    0.8,
    (picture, width, height) => {
      const part = () => dice.between(0, 0.1);
      const [left, top, right, bottom] = [part() * width, part() * height, part() * width, part() * height];
      return picture.extract({
        left: Math.floor(left),
        top: Math.floor(top),
        width: Math.floor(width - left - right),
        height: Math.floor(height - top - bottom),
      });
    },
  ],
  ['mirrored', 0.8, (picture) => picture.flop()],
  ['turned by a quarter', 0.8, (picture) => picture.rotate(90)],
];

const upright = (picture: Buffer | string) =>
  sharp(picture).autoOrient().flatten({ background: '#fff' }).toColourspace('srgb').removeAlpha();

async function prepared(picture: Buffer): Promise<Prepared> {
  const { autoOrient } = await sharp(picture).metadata();
  const rgb = await upright(picture).resize(PLANE, PLANE, { fit: 'fill' }).raw().toBuffer();
  return new Prepared({ plane: planeOf(rgb), chroma: chromaOf(rgb), ...autoOrient });
}

/** Both ways round and all orientations, as the library is searched. */
function compare(a: Prepared, b: Prepared): Alike | undefined {
  let best: Alike | undefined;
  for (const candidate of candidatesOf(a, b)) {
    const [one, other] = candidate.one === 0 ? [a, b] : [b, a];
    const alike = verify(one, other, candidate);
    if (alike && (!best || alike.sure > best.sure)) best = alike;
  }
  return best;
}

/** The demo's pictures, or those of any other folder. */
export async function benchAlike(say: (text: string) => void, pictures?: string): Promise<void> {
  if (pictures) return benchRecall(say, pictures, pathsIn(pictures));
  const { folder, paths } = await demoPictures();
  await benchRecall(say, folder, paths.slice(0, PICTURES));
  benchSearch(say);
}

const pathsIn = (folder: string) =>
  readdirSync(folder, { withFileTypes: true, recursive: true })
    .filter((one) => one.isFile() && /\.(?:jpe?g|png|webp|avif|gif|tiff?)$/i.test(one.name))
    .map((one) => join(one.parentPath, one.name))
    .sort();

/** How many variants of pictures are found again, by what was done to them, and how many pairs are wrong. */
async function benchRecall(
  say: (text: string) => void,
  folder: string,
  paths: readonly string[],
): Promise<void> {
  const bases: { path: string; picture: Prepared }[] = [];
  for (const path of paths) bases.push({ path, picture: await prepared(readFileSync(path)) });
  // What is alike among the originals is one thing, as far as can be told here.
  const like = new Map<number, Set<number>>();
  for (let a = 0; a < bases.length; a++)
    for (let b = a + 1; b < bases.length; b++)
      if (compare(bases[a]!.picture, bases[b]!.picture)) {
        like.set(a, (like.get(a) ?? new Set()).add(b));
        like.set(b, (like.get(b) ?? new Set()).add(a));
      }
  const twice = [...like].flatMap(([a, others]) =>
    [...others]
      .filter((b) => b > a)
      .map((b) => `${relative(folder, bases[a]!.path)} = ${relative(folder, bases[b]!.path)}`),
  );
  say(
    `Look-alikes among ${bases.length} pictures themselves: ${twice.length} pairs${twice.length > 0 ? ` (${twice.slice(0, 8).join('; ')})` : ''}.`,
  );
  let accepted = 0;
  const wrong: string[] = [];
  for (const [name, aim, make] of VARIANTS) {
    let found = 0;
    let made = 0;
    for (const [at, { path, picture }] of bases.entries()) {
      const { width, height } = picture.picture;
      const variant = await prepared(
        await make(upright(path), width, height)
          .toFormat(/Web/.test(name) ? 'webp' : 'jpeg', { quality: 85 })
          .toBuffer(),
      );
      made++;
      for (const [other, base] of bases.entries()) {
        const alike = compare(base.picture, variant);
        if (!alike) continue;
        accepted++;
        if (other === at) found++;
        else if (!like.get(at)?.has(other))
          wrong.push(`${relative(folder, path)}, ${name}, = ${relative(folder, base.path)}`);
      }
    }
    say(`  ${name}: ${((100 * found) / made).toFixed(0)} % of ${made} found (aim ${aim * 100} %).`);
  }
  say(
    `Precision: ${(1 - wrong.length / Math.max(1, accepted)).toFixed(4)} (${wrong.length} wrong of ${accepted} pairs accepted; aim 0.99)${wrong.length > 0 ? `: ${wrong.slice(0, 8).join('; ')}` : ''}.`,
  );
}

/** The search for candidates among 100,000 hashes against comparing every pair with the same kernel. */
function benchSearch(say: (text: string) => void): void {
  const count = 100_000;
  const words = new Int32Array(2 * count);
  let state = 123_456_789;
  const random = () => {
    state ^= state << 13;
    state ^= state >>> 17;
    state ^= state << 5;
    return state;
  };
  for (let at = 0; at < words.length; at++) words[at] = random();
  // One in ten is near another one, as in a library with sizes of its pictures.
  for (let at = 0; at < count; at += 10) {
    const from = (random() >>> 0) % count;
    words[2 * at] = words[2 * from]! ^ (1 << (random() & 31)) ^ (1 << (random() & 31));
    words[2 * at + 1] = words[2 * from + 1]! ^ (1 << (random() & 31));
  }
  let byIndex = 0;
  const indexed = time(() => new HashIndex(words).pairs(() => byIndex++));
  let byAll = 0;
  const part = count / 10;
  // A tenth of the questions against all, and ten times the time.
  const all =
    10 *
    time(() => {
      for (let a = 0; a < part; a++) {
        const [high, low] = [words[2 * a]!, words[2 * a + 1]!];
        for (let b = 0; b < count; b++) {
          const one = bitsOf(high ^ words[2 * b]!);
          if (one <= NEAR && one + bitsOf(low ^ words[2 * b + 1]!) <= NEAR) byAll++;
        }
      }
    });
  say(
    `Pairs within ${NEAR} bits among ${count.toLocaleString('en')} hashes, index included: ${(all / 2 / indexed).toFixed(0)} x faster than comparing every pair (${(indexed / 1000).toFixed(2)} and ${(all / 2000).toFixed(1)} s); ${byIndex} pairs found.`,
  );
  if (byAll === 0) throw new Error('no pair was found by comparing all');
}
