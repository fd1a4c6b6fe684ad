import { readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import sharp from 'sharp';
import { afterEach, expect, test } from 'vitest';
import type { PlanRequest } from '../../api/plans.ts';
import { PLAIN_PATTERN } from '../../core/naming/pattern.ts';
import { TREATMENTS, type Treatment } from '../../core/picture/recipe/treatments.ts';
import type { OpenedSite } from '../app/opened-site.ts';
import { gallerySite, idOf, text, there } from '../test/galleries.ts';
import { painted } from '../test/media.ts';
import { closeSites, openSite, treeOf } from '../test/site.ts';
import { applyProposal } from './apply.ts';
import { propose } from './kinds/index.ts';
import { sourceOf } from './prepare.ts';
import { framings } from './treat.ts';

afterEach(closeSites);

type To = Extract<PlanRequest, { kind: 'treat' }>['to'];
const SMALL: Treatment = {
  name: 'Small',
  recipe: { version: 1, size: { by: 'fit', width: 300, height: 300 }, file: { format: 'jpeg' } },
};
const treated = (
  site: OpenedSite,
  itemIds: number[],
  treatment = SMALL,
  to: To = { as: 'these', sizes: true },
) => propose(site, { kind: 'treat', itemIds, treatment, to }, { personId: 1 });
const sizeOf = async (root: string, path: string) => {
  const { width, height } = await sharp(await readFile(join(root, path))).metadata();
  return [width, height];
};
const all = (site: OpenedSite) =>
  ['img/wide.jpg', 'img/a.jpg', 'img/b.jpg', 'img/c.png'].map((path) => idOf(site, path));

test('in place: each fits, another format gets another address, pages follow; before and after are told; undone to the byte', async () => {
  const root = await gallerySite();
  const site = await openSite(root);
  const proposal = await treated(site, all(site));
  expect(proposal.plan.title).toBe('Small: 4 images');
  expect(
    proposal.plan.images!.map(({ path, before, after }) => [path, before.width, after.width, after.height]),
  ).toEqual([
    ['img/wide.jpg', 2000, 300, 150],
    ['img/a.jpg', 400, 300, 225],
    ['img/b.jpg', 900, 300, 200],
    ['img/c.png', 800, 200, 300],
  ]);
  await there(site, root, proposal, async () => {
    expect(await sizeOf(root, 'img/wide.jpg')).toEqual([300, 150]);
    expect(await sizeOf(root, 'img/c.jpg')).toEqual([200, 300]);
    expect(await text(root, 'index.html')).toContain(
      '<img src="img/wide.jpg" width="300" height="150" alt="w">',
    );
    expect(await text(root, 'iconomos-redirects.csv')).toContain('/img/c.png,/img/c.jpg,301');
  });
});

test('treated twice it is made of the original both times', async () => {
  const root = await gallerySite();
  await writeFile(join(root, 'img/wide.jpg'), await painted(4, 1000, 500));
  const site = await openSite(root);
  const id = idOf(site, 'img/wide.jpg');
  const original = await readFile(join(root, 'img/wide.jpg'));
  await applyProposal(site, await treated(site, [id]), 1);
  const larger = {
    ...SMALL,
    recipe: { ...SMALL.recipe, size: { by: 'fit', width: 800, height: 800 } as const },
  };
  await applyProposal(site, await treated(site, [id], larger), 1);
  expect(await sizeOf(root, 'img/wide.jpg')).toEqual([800, 400]);
  expect((await readFile((await sourceOf(site, id)).file)).equals(original)).toBe(true);
});

test('one that cannot be is one line, and the others go on; one that is like that already stays', async () => {
  const root = await gallerySite();
  await writeFile(join(root, 'img/torn.jpg'), (await painted(3)).subarray(0, 900));
  await writeFile(
    join(root, 'img/line.svg'),
    '<svg xmlns="http://www.w3.org/2000/svg" width="9" height="9"/>',
  );
  const site = await openSite(root);
  const ids = ['img/torn.jpg', 'img/line.svg', 'img/b.jpg'].map((path) => idOf(site, path));
  const { plan } = await treated(site, ids);
  expect(plan.images!.map(({ path }) => path)).toEqual(['img/b.jpg']);
  expect(plan.warnings.join('\n')).toMatch(/“img\/torn\.jpg” is unchanged/);
  expect(plan.warnings.join('\n')).toContain(
    '“img/line.svg” is unchanged: It is a drawing, sharp at any size. Images are made of drawings as new items.',
  );
});

test('of a drawing an image is made as a new item, where the treatment says in what format', async () => {
  const root = await gallerySite();
  await writeFile(
    join(root, 'img/line.svg'),
    '<svg xmlns="http://www.w3.org/2000/svg" width="9" height="6"><rect width="5" height="5"/></svg>',
  );
  const site = await openSite(root);
  const id = idOf(site, 'img/line.svg');
  const fresh = { as: 'new', folder: 'small' } as const;
  const keeping = { ...SMALL, recipe: { ...SMALL.recipe, file: {} } };
  const { plan } = await treated(site, [id], keeping, fresh);
  expect(plan.warnings.join()).toContain('Choose a format to save it as an image.');
  await applyProposal(site, await treated(site, [id], SMALL, fresh), 1);
  expect(await sizeOf(root, 'small/line.jpg')).toEqual([300, 200]);
});

test('as new items in a folder: names that are taken get a number, what there is stays', async () => {
  const root = await gallerySite();
  await writeFile(
    join(root, 'img/a.png'),
    await sharp(await painted(6))
      .png()
      .toBuffer(),
  );
  const site = await openSite(root);
  const before = await treeOf(root);
  await applyProposal(
    site,
    await treated(site, [idOf(site, 'img/a.jpg'), idOf(site, 'img/a.png')], SMALL, {
      as: 'new',
      folder: 'small',
    }),
    1,
  );
  const after = await treeOf(root);
  expect(
    Object.keys(after)
      .filter((path) => after[path] !== before[path] && !path.endsWith('/'))
      .sort(),
  ).toEqual(['small/a-2.jpg', 'small/a.jpg']);
  expect(site.items.atPath('small/a.jpg')!.edit).not.toBe('');
});

test('sizes are made anew with their images, and not twice when both are chosen', async () => {
  const root = await gallerySite();
  await writeFile(join(root, 'img/wide.jpg'), await painted(4, 1600, 800));
  const site = await openSite(root);
  const id = idOf(site, 'img/wide.jpg');
  await applyProposal(site, await propose(site, { kind: 'sizes', itemId: id }, { personId: 1 }), 1);
  await site.scanner.scan();
  const size = site.items.atPath('img/wide-480.jpg')!.id;
  const grey: Treatment = { name: 'Grey', recipe: { version: 1, tone: { blackAndWhite: true } } };
  const { plan } = await treated(site, [id, size], grey);
  const written = plan.files
    .flatMap((step) => (step.do === 'write' ? [step.path] : []))
    .filter((path) => path.endsWith('.jpg'));
  expect(new Set(written).size).toBe(written.length);
  expect(written).toContain('img/wide-480.jpg');
});

test.each(TREATMENTS.map((treatment) => [treatment.name, treatment] as const))(
  '“%s” does what it says to any image, and is undone',
  async (_, treatment) => {
    const root = await gallerySite();
    await writeFile(join(root, 'img/wide.jpg'), await painted(9, 1500, 900));
    const site = await openSite(root);
    await there(
      site,
      root,
      await treated(site, [idOf(site, 'img/wide.jpg'), idOf(site, 'img/c.png')], treatment),
      async () => {
        const path = treatment.pattern ? 'img/img-001.jpg' : 'img/wide.jpg';
        const { width = 0, height = 0 } = site.items.atPath(path)!;
        if (treatment.shape)
          expect(width! / height!).toBeCloseTo(treatment.shape.ratio[0] / treatment.shape.ratio[1], 1);
        expect(width).toBeLessThanOrEqual(1500);
        return Promise.resolve();
      },
    );
  },
);

/** A red thing on white, somewhere. */
const product = async (width: number, height: number, at: { left: number; top: number; side: number }) =>
  sharp({ create: { width, height, channels: 3, background: '#f8f8f6' } })
    .composite([
      {
        input: { create: { width: at.side, height: at.side, channels: 3, background: '#a02a24' } },
        left: at.left,
        top: at.top,
      },
    ])
    .jpeg({ quality: 92 })
    .toBuffer();

test('a set of products gets one framing, wherever each stood; where it isn’t clear, that is said', async () => {
  const root = await gallerySite();
  await writeFile(join(root, 'img/one.jpg'), await product(900, 600, { left: 100, top: 80, side: 200 }));
  await writeFile(join(root, 'img/two.jpg'), await product(700, 900, { left: 350, top: 500, side: 300 }));
  await writeFile(join(root, 'img/busy.jpg'), await painted(7, 900, 600));
  const site = await openSite(root);
  const shop = TREATMENTS.find(({ shape }) => shape?.how === 'subject')!;
  const ids = ['one', 'two', 'busy'].map((name) => idOf(site, `img/${name}.jpg`));
  const proposal = await treated(site, ids, shop);
  expect(
    proposal.plan.images!.map(({ notes }) => notes.some((note) => note.startsWith('Framed as a whole'))),
  ).toEqual([false, false, true]);
  await there(site, root, proposal, async () => {
    for (const name of ['one', 'two']) {
      const { data, info } = await sharp(await readFile(join(root, `img/${name}.jpg`)))
        .raw()
        .toBuffer({ resolveWithObject: true });
      expect(info.width).toBe(info.height);
      const red = (x: number, y: number) =>
        data[(y * info.width + x) * 3]! > 120 && data[(y * info.width + x) * 3 + 1]! < 90;
      let [left, right] = [info.width, 0];
      for (let x = 0; x < info.width; x++)
        if (red(x, info.height >> 1)) [left, right] = [Math.min(left, x), Math.max(right, x)];
      // The margin of the treatment on either side, within one in a hundred.
      expect(Math.abs(left / info.width - 0.08)).toBeLessThan(0.012);
      expect(Math.abs((info.width - 1 - right) / info.width - 0.08)).toBeLessThan(0.012);
    }
  });
});

const COUNTED: Treatment = {
  ...SMALL,
  name: 'Counted',
  pattern: {
    ...PLAIN_PATTERN,
    pieces: [
      { piece: 'text', text: 'Open night' },
      { piece: 'counter', start: 1, step: 1, width: 3, restart: 'never' },
    ],
  },
};

test('named with a counter, in place: pages and redirects follow; names that others have get a number; undone to the byte', async () => {
  const root = await gallerySite();
  await writeFile(join(root, 'img/open-night-002.jpg'), await painted(9, 200, 100));
  const site = await openSite(root);
  const proposal = await treated(site, all(site), COUNTED);
  expect(proposal.plan.images!.map(({ path, to }) => [path, to])).toEqual([
    ['img/wide.jpg', 'img/open-night-001.jpg'],
    ['img/a.jpg', 'img/open-night-002-2.jpg'],
    ['img/b.jpg', 'img/open-night-003.jpg'],
    ['img/c.png', 'img/open-night-004.jpg'],
  ]);
  await there(site, root, proposal, async () => {
    expect(await sizeOf(root, 'img/open-night-004.jpg')).toEqual([200, 300]);
    expect(await text(root, 'index.html')).toContain(
      '<img src="img/open-night-001.jpg" width="300" height="150"',
    );
    expect(await text(root, 'iconomos-redirects.csv')).toContain('/img/c.png,/img/open-night-004.jpg,301');
  });
});

test('named with a counter, as new items: counted in the new folder, and what is there stays', async () => {
  const root = await gallerySite();
  const site = await openSite(root);
  const proposal = await treated(site, all(site), COUNTED, { as: 'new', folder: 'album' });
  await there(site, root, proposal, async () => {
    for (const number of [1, 2, 3, 4])
      expect((await sizeOf(root, `album/open-night-00${number}.jpg`))[0]).toBeLessThanOrEqual(300);
    expect(await sizeOf(root, 'img/wide.jpg')).toEqual([2000, 1000]);
  });
});

test('one image has a frame of its own; the others keep the common one', async () => {
  const root = await gallerySite();
  const site = await openSite(root);
  const [wide, a] = all(site);
  const square: Treatment = { ...SMALL, shape: { ratio: [1, 1], how: 'filled' } };
  const frame = { x: 0, y: 0, width: 0.25, height: 0.5, ratio: [1, 1] as [number, number] };
  const looked = await framings(site, [a!, wide!], square);
  expect(looked.map(({ path }) => path)).toEqual(['img/a.jpg', 'img/wide.jpg']);
  expect(looked[1]!.frame).toMatchObject({ x: 0.25, width: 0.5, height: 1 });
  const { plan } = await propose(
    site,
    {
      kind: 'treat',
      itemIds: [wide!, a!],
      treatment: square,
      own: [{ itemId: wide!, frame }],
      to: { as: 'these', sizes: false },
    },
    { personId: 1 },
  );
  expect(plan.images!.map(({ after }) => [after.width, after.height])).toEqual([
    [300, 300],
    [300, 300],
  ]);
  const edit = (id: number) => plan.records.find((step) => step.itemId === id)!.after.edit!;
  expect(JSON.parse(edit(wide!))).toMatchObject({ recipe: { frame: { width: 0.25, height: 0.5 } } });
  expect(JSON.parse(edit(a!))).toMatchObject({ recipe: { frame: { height: 1 } } });
});
