import { mkdirSync, mkdtempSync, readdirSync, rmSync } from 'node:fs';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import { hashesOf, Prepared } from '../core/picture/windows.ts';
import { PLANE } from '../core/picture/signature.ts';
import { Chance } from '../demo/chance.ts';
import { SMALL_DEMO } from '../demo/test-setup.ts';
import { NOTHING } from '../server/intake/derived.ts';
import { Site } from '../server/site/site.ts';
import { alikeGroups } from '../server/upkeep/groups.ts';
import { open } from './library.ts';

const time = async (work: () => unknown) => {
  const start = performance.now();
  await work();
  return performance.now() - start;
};
const PICTURES = 10_000;

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
    site.db
      .prepare('update item set alt = ?, row_version = row_version + 1 where id = ?')
      .run('Another text', ids[77]);
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

async function benchPictures(say: (text: string) => void): Promise<void> {
  const folder = mkdtempSync(join(tmpdir(), 'iconomos-bench-'));
  mkdirSync(join(folder, 'site'));
  const site = await Site.open({ site: join(folder, 'site'), people: [{ name: 'A', role: 'steward' }] });
  try {
    const files = pictures(join(SMALL_DEMO, 'images'));
    const planes: Uint8Array[] = [];
    const sign = async (path: string) => {
      const one = await site.pool.run('signature', { file: path, path: 'x.jpg' });
      if (one) planes.push(one.plane);
    };
    await Promise.all(files.slice(0, 8).map(sign));
    planes.length = 0;
    // As many at once as there are workers, like the work itself.
    const making = await time(() => Promise.all(files.map(sign)));
    const each = making / files.length;

    const dice = new Chance('upkeep');
    const shas: string[] = [];
    for (let i = 0; i < PICTURES; i++) {
      // Unlike all others; one in ten shows again what an earlier one did.
      const earlier = i % 10 === 9 ? made[dice.whole(0, made.length - 1)] : undefined;
      const plane = earlier ? noisy(earlier, dice) : painted(dice.pick(planes), dice);
      if (!earlier) made.push(plane);
      const picture = new Prepared({ plane, width: 1200, height: 800, chroma: new Int8Array(128) });
      const sha256 = i.toString(16).padStart(64, '0');
      shas.push(sha256);
      site.db.transaction(() => {
        site.items.add({
          path: `p/${i}.jpg`,
          state: 'here',
          facts: { bytes: 100_000 + i, sha256, item: { width: 1200, height: 800 } },
          addedAt: '2026-01-01T00:00:00.000Z',
          addedBy: null,
          originalName: null,
        });
        site.contents.save(
          sha256,
          { ...NOTHING, signature: { plane, chroma: new Int8Array(128), aspect: 1.5, ...hashesOf(picture) } },
          { codecs: '', profile: null, takenAt: null, place: false },
        );
      })();
    }
    let groups = 0;
    const matching = await time(async () => {
      await site.matching.matchAll();
      await site.checks.refresh();
      groups = alikeGroups(site).length;
    });
    say(
      `${PICTURES.toLocaleString('en')} pictures searched, verified, checked and grouped: ${(matching / 1000).toFixed(1)} s, ${(matching / (each * PICTURES)).toFixed(2)} x the ${((each * PICTURES) / 1000).toFixed(0)} s that making their signatures takes on ${site.pool.size} workers; ${groups} groups.`,
    );
    const alone = await time(() => site.matching.match(shas[1234]!));
    say(`One more picture against them: ${alone.toFixed(0)} ms.`);
  } finally {
    await site.close();
    rmSync(folder, { recursive: true });
  }
}
const made: Uint8Array[] = [];

function pictures(folder: string): string[] {
  return readdirSync(folder, { withFileTypes: true, recursive: true })
    .filter((one) => one.isFile() && /\.(jpe?g|png|webp)$/.test(one.name))
    .map((one) => join(one.parentPath, one.name));
}

/** A picture of its own: a window of one of the demo's, under light and shade that no other has. */
function painted(one: Uint8Array, dice: Chance): Uint8Array {
  const side = 10;
  const light = Float64Array.from({ length: side * side }, () => dice.between(-90, 90));
  return Uint8Array.from({ length: PLANE * PLANE }, (_, i) => {
    const [x, y] = [(i % PLANE) / PLANE, Math.floor(i / PLANE) / PLANE];
    const [u, v] = [x * (side - 1), y * (side - 1)];
    const [column, row] = [Math.floor(u), Math.floor(v)];
    const at = row * side + column;
    const [p, q] = [u - column, v - row];
    const shade =
      (light[at]! * (1 - p) + light[at + 1]! * p) * (1 - q) +
      (light[at + side]! * (1 - p) + light[at + side + 1]! * p) * q;
    return Math.max(0, Math.min(255, Math.round(one[i]! / 2 + 64 + shade)));
  });
}

/** The same with a little noise. */
function noisy(plane: Uint8Array, dice: Chance): Uint8Array {
  return plane.map((value) => Math.max(0, Math.min(255, value + dice.whole(-4, 4))));
}
