import { mkdtempSync, mkdirSync, rmSync, writeFileSync } from 'node:fs';
import { stat } from 'node:fs/promises';
import { availableParallelism, tmpdir } from 'node:os';
import { join } from 'node:path';
import sharp from 'sharp';
import { subjectOf } from '../core/picture/subject.ts';
import type { Treatment } from '../core/picture/recipe/treatments.ts';
import { leastQuality } from '../core/picture/ssim.ts';
import { openSite } from '../server/app/open-site.ts';
import { proposeTreat } from '../server/changes/treat.ts';
import { inLanes } from '../server/workers/lanes.ts';
import { time } from './time.ts';
import { twelveMegapixels } from './twelve.ts';

const TREATMENT: Treatment = {
  name: 'Album',
  shape: { ratio: [3, 2], how: 'filled' },
  recipe: {
    version: 1,
    tone: { levels: { black: 12, mid: 120, white: 240 } },
    size: { by: 'fit', width: 1600, height: 1600 },
    file: { format: 'jpeg', quality: 82 },
  },
};
/** So many in turn, so that both see the same moods of the machine; people treat them all in one plan. */
const BLOCK = 74;

/**
 * Treating JPEGs of twelve megapixels (upright, framed, levels, fit 1600, quality 82), from files to a plan that could be applied,
 * against a bare loop of the image library that makes the same outputs at the same concurrency; how many encodings "as small as looks
 * the same" takes; and the time for finding the thing on a product shot, on one core.
 */
export async function benchTreat(say: (text: string) => void, files: number): Promise<void> {
  for (const [what, exif] of [
    ['', undefined],
    [' that tell of their camera, place and maker', CAMERA],
  ] as const) {
    const { bare, ours } = await treated(say, files, exif);
    say(
      `Treating ${files - 4} twelve-megapixel JPEGs${what}: ${(bare / ours).toFixed(2)} x the rate of a bare loop that makes the same outputs (${(ours / (files - 4)).toFixed(0)} and ${(bare / (files - 4)).toFixed(0)} ms an image; goal 0.85).`,
    );
  }

  let most = 0;
  for (let bound = 1; bound <= 100; bound++) {
    let encodings = 0;
    await leastQuality((quality) => {
      encodings++;
      return Promise.resolve(quality >= bound);
    });
    most = Math.max(most, encodings);
  }
  say(`“As small as looks the same”: ${most} encodings at most (goal 5).`);

  const [width, height] = [320, 240];
  const shot = await sharp(
    Buffer.from(
      `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${height}"><rect width="100%" height="100%" fill="#eee8dc"/><circle cx="130" cy="110" r="70" fill="#7a2f26"/></svg>`,
    ),
  )
    .flatten()
    .raw()
    .toBuffer();
  for (let warm = 0; warm < 20; warm++) subjectOf(shot, width, height, 3);
  const each =
    (await time(() => {
      for (let round = 0; round < 200; round++) subjectOf(shot, width, height, 3);
      return Promise.resolve();
    })) / 200;
  say(`The thing on a product shot is found in ${each.toFixed(1)} ms on one core (goal 40).`);
}

const CAMERA = {
  IFD0: { Make: 'Corvane', Model: 'C-1', Artist: 'Wanda Fernhollow', Copyright: '(c) Corvane Hill' },
  IFD2: { BodySerialNumber: '4711' },
  IFD3: { GPSLatitudeRef: 'N', GPSLatitude: '54/1 20/1 0/1' },
};

async function treated(
  say: (text: string) => void,
  files: number,
  exif: Record<string, Record<string, string>> | undefined,
): Promise<{ bare: number; ours: number }> {
  const folder = mkdtempSync(join(tmpdir(), 'iconomos-bench-'));
  const root = join(folder, 'site');
  mkdirSync(join(root, 'images'), { recursive: true });
  writeFileSync(join(root, 'index.html'), '<p>');
  say(`Painting ${files} pictures of twelve megapixels …`);
  const paths = await twelveMegapixels(join(root, 'images'), files, exif);
  sharp.concurrency(1);
  sharp.cache(false);
  const site = await openSite({ site: root });
  try {
    await site.scanner.scan();
    const ids = paths.map((path) => site.items.atPath(path.slice(root.length + 1))!.id);
    const treat = async (some: readonly number[]) => {
      const { plan } = await proposeTreat(site, {
        kind: 'treat',
        itemIds: [...some],
        treatment: TREATMENT,
        to: { as: 'these', sizes: true },
      });
      if (plan.images?.length !== some.length) throw new Error(plan.warnings[0] ?? 'not all were treated');
    };
    await treat(ids.slice(0, 4)); // the first task of every worker loads what it needs
    let [bare, ours] = [0, 0];
    for (let at = 4; at < files; at += BLOCK) {
      bare += await time(() => bareLoop(paths.slice(at, at + BLOCK), folder));
      ours += await time(() => treat(ids.slice(at, at + BLOCK)));
    }
    return { bare, ours };
  } finally {
    await site.close();
    rmSync(folder, { recursive: true, force: true });
  }
}

/** The same outputs by the image library alone, as many at once as the server has workers. */
async function bareLoop(paths: readonly string[], folder: string): Promise<void> {
  await inLanes(
    [...paths],
    async (path) => {
      const to = join(folder, 'bare.jpg');
      await sharp(path)
        .autoOrient()
        .extract({ left: 0, top: 167, width: 4000, height: 2667 })
        .resize(1600, 1067, { fit: 'fill' })
        .linear(255 / 228, -12 * (255 / 228))
        .jpeg({ quality: 82, mozjpeg: true })
        .toFile(`${to}-${path.slice(-8)}`);
      await stat(`${to}-${path.slice(-8)}`);
    },
    Math.max(2, availableParallelism()),
  );
}
