import { mkdirSync, mkdtempSync, rmSync } from 'node:fs';
import sharp, { type Sharp } from 'sharp';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { hashesOf, Prepared } from '../core/picture/windows.ts';
import { chromaOf, PLANE, planeOf } from '../core/picture/signature.ts';
import { Chance } from '../demo/chance.ts';
import { NOTHING } from '../core/media/analysis.ts';
import { openSite } from '../server/app/open-site.ts';
import { alikeGroups } from '../server/upkeep/groups.ts';
import { open } from './library.ts';
import { demoPictures } from './pictures.ts';
import { time } from './time.ts';

/**
 * Checks of a large library after one item has changed, against all checks of all items; and a library of pictures searched for those that
 * show the same, verified and grouped, against making what they are compared by.
 */
export async function benchUpkeep(say: (text: string) => void): Promise<void> {
  const size = 100_000;
  const bench = await open(size);
  try {
    const { site, ids } = bench;
    const all = await time(() => site.checks.refresh());
    site.db.run(
      'update item set alt = ?, row_version = row_version + 1 where id = ?',
      'Another text',
      ids[77],
    );
    const again = await time(() => site.checks.refresh());
    say(
      `All checks of ${size.toLocaleString('en')} items: ${(all / 1000).toFixed(1)} s; after one has changed ${again.toFixed(0)} ms, 1/${Math.round(all / again)} of it.`,
    );
    say(
      `The overview of ${size.toLocaleString('en')} items: ${(await time(() => fetch(`${bench.address}/api/upkeep`).then((one) => one.json()))).toFixed(0)} ms.`,
    );
  } finally {
    await bench.close();
  }
  await benchPictures(say);
}

/** @param count how many pictures */
export async function benchPictures(say: (text: string) => void, count = 10_000): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), 'iconomos-bench-'));
  mkdirSync(join(folder, 'site'));
  const site = await openSite({ site: join(folder, 'site'), people: [{ name: 'A', role: 'steward' }] });
  try {
    const { paths: files } = await demoPictures();
    const sign = (path: string) => site.pool.run('signature', { file: path, path: 'x.jpg' });
    await Promise.all(files.slice(0, 8).map(sign));
    // As many at once as there are workers, like the work itself.
    const making = await time(() => Promise.all(files.map(sign)));
    const each = making / files.length;

    const dice = new Chance('upkeep');
    const sources = await Promise.all(files.map(raw));
    const shas: string[] = [];
    let variants: Prepared[] = [];
    for (let i = 0; i < count; i++) {
      // Parts of the demo's pictures, so that many share much without being the same; one in ten is there four times.
      if (variants.length === 0) variants = await parts(dice.pick(sources), dice.next() < 0.1, dice);
      const picture = variants.pop()!;
      const sha256 = i.toString(16).padStart(64, '0');
      shas.push(sha256);
      site.db.write(() => {
        site.records.add({
          path: `p/${i}.jpg`,
          state: 'here',
          facts: {
            bytes: 100_000 + i,
            sha256,
            item: { width: picture.picture.width, height: picture.picture.height },
          },
          addedAt: '2026-01-01T00:00:00.000Z',
          addedBy: null,
          originalName: null,
        });
        site.contents.save(
          sha256,
          {
            ...NOTHING,
            signature: {
              plane: picture.picture.plane,
              chroma: picture.picture.chroma!,
              aspect: picture.picture.width / picture.picture.height,
              ...hashesOf(picture),
            },
          },
          { codecs: '', profile: null, takenAt: null, place: false },
        );
      });
    }
    let groups = 0;
    const matching = await time(async () => {
      await site.matching.matchAll();
      await site.checks.refresh();
      groups = (await alikeGroups(site)).length;
    });
    say(
      `${count.toLocaleString('en')} pictures searched, verified, checked and grouped: ${(matching / 1000).toFixed(1)} s, ${(matching / (each * count)).toFixed(2)} x the ${((each * count) / 1000).toFixed(0)} s that making their signatures takes on ${site.pool.size} workers; ${groups} groups.`,
    );
    const times: number[] = [];
    for (const sha of [shas[123]!, shas[1234]!, shas[234]!])
      times.push(await time(() => site.matching.match(sha)));
    const alone = times.sort((a, b) => a - b)[1]!;
    const photograph = join(folder, 'photograph.jpg');
    await sharp(files[0]).resize(4000, 3000, { fit: 'fill' }).jpeg({ quality: 90 }).toFile(photograph);
    const receive = () =>
      site.pool.run('receive', { file: photograph, name: 'photograph.jpg', thumbs: join(folder, 'thumbs') });
    await receive();
    const intake = await time(receive);
    say(
      `One more picture against them: ${alone.toFixed(0)} ms, 1/${(intake / alone).toFixed(1)} of the ${intake.toFixed(0)} ms that the door takes for a photograph of 12 megapixels.`,
    );
  } finally {
    await site.close();
    rmSync(folder, { recursive: true });
  }
}
interface Raw {
  data: Buffer;
  info: { width: number; height: number; channels: 1 | 2 | 3 | 4 };
}
const raw = (path: string): Promise<Raw> =>
  sharp(path)
    .flatten({ background: '#fff' })
    .toColourspace('srgb')
    .removeAlpha()
    .raw()
    .toBuffer({ resolveWithObject: true });

/** Part of a picture; asked for, three more of it: encoded anew, lighter, and cropped. */
async function parts({ data, info }: Raw, more: boolean, dice: Chance): Promise<Prepared[]> {
  const scale = dice.between(0.3, 0.45);
  const [width, height] = [Math.floor(info.width * scale), Math.floor(info.height * scale)];
  const [left, top] = [dice.whole(0, info.width - width), dice.whole(0, info.height - height)];
  const cut = (w: number, h: number) =>
    sharp(data, { raw: info }).extract({ left, top, width: w, height: h });
  const prepared = async (picture: Sharp, w: number, h: number) => {
    const rgb = await picture.resize(PLANE, PLANE, { fit: 'fill' }).raw().toBuffer();
    return new Prepared({ plane: planeOf(rgb), chroma: chromaOf(rgb), width: 4 * w, height: 4 * h });
  };
  const one = await prepared(cut(width, height), width, height);
  if (!more) return [one];
  const [w, h] = [Math.floor(width * 0.9), Math.floor(height * 0.9)];
  return [
    one,
    await prepared(sharp(await cut(width, height).jpeg({ quality: 50 }).toBuffer()), width, height),
    await prepared(cut(width, height).modulate({ brightness: 1.1 }), width, height),
    await prepared(cut(w, h), w, h),
  ];
}
