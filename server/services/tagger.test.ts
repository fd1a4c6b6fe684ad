import type { IncomingMessage } from 'node:http';
import { mkdtemp, readFile, rm, writeFile } from 'node:fs/promises';
import { tmpdir } from 'node:os';
import { join } from 'node:path';
import sharp from 'sharp';
import { afterEach, expect, test } from 'vitest';
import type { SuggestedTagsView, TaggingState } from '../../api/suggested-tags.ts';
import { SENT_PIXELS } from '../../core/tagging/protocol.ts';
import { serveTagger, TAGGER } from '../../demo/tagger/tagger.ts';
import { apply, idOf, plan, undo } from '../test/plans.ts';
import { serve, type Served } from '../test/served.ts';
import { closeSites, openSite, siteFolder } from '../test/site.ts';
import { between, closeStandIns, listening } from '../test/stand-in.ts';
import { placedPhotograph } from '../test/media.ts';
import type { OpenedSite } from '../app/opened-site.ts';
import { Tagger } from './tagger.ts';

const disc = (shade: number, width = 240) =>
  sharp(
    Buffer.from(
      `<svg xmlns="http://www.w3.org/2000/svg" width="${width}" height="${width}"><rect width="100%" height="100%" fill="rgb(10,12,${20 + shade})"/><circle cx="50%" cy="${48 + shade / 10}%" r="30%" fill="rgb(${200 + shade},90,60)"/></svg>`,
    ),
  )
    .jpeg()
    .toBuffer();
const stripes = (shade: number) =>
  sharp(
    Buffer.from(
      `<svg xmlns="http://www.w3.org/2000/svg" width="300" height="200"><rect width="100%" height="100%" fill="#dde4c8"/>${Array.from({ length: 12 }, (_, at) => `<rect x="${at * 25}" width="12" height="200" fill="rgb(40,${110 + shade},70)"/>`).join('')}</svg>`,
    ),
  )
    .jpeg()
    .toBuffer();

let served: Served | undefined;
const folders: string[] = [];
afterEach(async () => {
  served?.close();
  served = undefined;
  await closeSites();
  closeStandIns();
  for (const one of folders.splice(0)) await rm(one, { recursive: true, force: true });
});

/** A site of red discs, tagged “planet”, and of stripes, tagged “meadow”; `new-…` are without tags. */
async function tagged(): Promise<OpenedSite> {
  const files: Record<string, Uint8Array> = {};
  for (const at of [1, 2, 3, 4]) files[`img/disc-${at}.jpg`] = await disc(at * 4);
  for (const at of [1, 2, 3, 4]) files[`img/stripes-${at}.jpg`] = await stripes(at * 5);
  files['img/new-disc.jpg'] = await disc(9);
  files['img/new-stripes.jpg'] = await stripes(12);
  const site = await openSite(await siteFolder({ 'index.html': '<p>Hill</p>', ...files }));
  const some = (name: string) => [1, 2, 3, 4].map((at) => idOf(site, `img/${name}-${at}.jpg`));
  await apply(site, { kind: 'records', itemIds: some('disc'), addTags: ['planet'] });
  await apply(site, { kind: 'records', itemIds: some('stripes'), addTags: ['meadow'] });
  return site;
}

/** The stand-in, and what was asked of it on the way. */
async function standIn(
  instead: (request: IncomingMessage, asked: number) => [number, unknown] | undefined = () => undefined,
) {
  const folder = await mkdtemp(join(tmpdir(), 'iconomos-tagger-'));
  folders.push(folder);
  const real = await listening(serveTagger(folder));
  const sent: { key: string; bytes: Buffer }[] = [];
  const told: unknown[] = [];
  let asked = 0;
  const at = await between(real, (request, body, to) => {
    if (request.method === 'PUT') sent.push({ key: request.url!.split('/').at(-1)!, bytes: body });
    if (request.url === '/v1/examples')
      told.push(...(JSON.parse(body.toString()) as { examples: unknown[] }).examples);
    const other = instead(request, ++asked);
    if (!other) return false;
    to.writeHead(other[0], { 'Content-Type': 'application/json' });
    to.end(typeof other[1] === 'string' ? other[1] : JSON.stringify(other[1]));
    return true;
  });
  return { folder, tagger: new Tagger(at, () => Promise.resolve()), sent, told };
}

const started = async (site: OpenedSite, tagger?: Tagger) => {
  served?.close();
  served = await serve(site, { tagger });
  const { ask } = served;
  const state = async () => (await (await ask('GET', '/api/tagging')).json()) as TaggingState;
  const sheet = async (...paths: string[]) =>
    (await (
      await ask('POST', '/api/suggested-tags', { ids: paths.map((path) => idOf(site, path)) })
    ).json()) as SuggestedTagsView;
  const look = async (...paths: string[]) => {
    const answer = await ask('POST', '/api/suggested-tags/ask', {
      ids: paths.map((path) => idOf(site, path)),
    });
    expect(answer.status).toBe(200);
    await expect.poll(async () => (await state()).running, { timeout: 20_000 }).toBe(false);
  };
  return { ask, state, sheet, look };
};
const tagsOf = (view: SuggestedTagsView, threshold = 0.6) =>
  view.groups
    .filter(({ of }) => of.some(({ confidence }) => confidence >= threshold))
    .map(({ tag }) => tag)
    .sort();

test('an image is known by those that people have tagged, and says by which; no image is sent twice', async () => {
  const site = await tagged();
  const { tagger, sent, told } = await standIn();
  const { sheet, look, state } = await started(site, tagger);
  expect(await sheet('img/new-disc.jpg', 'img/new-stripes.jpg')).toMatchObject({
    images: 2,
    unseen: 2,
    toSend: 10,
    groups: [],
  });
  await look('img/new-disc.jpg', 'img/new-stripes.jpg');
  const view = await sheet('img/new-disc.jpg', 'img/new-stripes.jpg');
  expect(tagsOf(view)).toEqual(expect.arrayContaining(['meadow', 'planet']));
  const { of, known } = view.groups.find(({ tag }) => tag === 'planet')!;
  expect(of.filter(({ confidence }) => confidence >= 0.6).map(({ id }) => id)).toEqual([
    idOf(site, 'img/new-disc.jpg'),
  ]);
  expect(known).toBe(true);
  expect(of[0]!.because.map((id) => site.items.need(id).path)).toEqual(
    expect.arrayContaining(['img/disc-2.jpg']),
  );
  expect(sent).toHaveLength(10);
  expect(told).toHaveLength(8);
  await look('img/new-disc.jpg', 'img/disc-1.jpg', 'img/new-stripes.jpg');
  expect(sent).toHaveLength(10);
  expect(told).toHaveLength(8);
  expect(await state()).toMatchObject({
    isSet: true,
    name: TAGGER,
    sent: 10,
    limit: null,
    waiting: 0,
    fault: null,
  });
});

test('it gets better as people tag; what was suggested teaches only once it is confirmed', async () => {
  const site = await tagged();
  const { tagger, told } = await standIn();
  const { sheet, look } = await started(site, tagger);
  await look('img/new-disc.jpg');
  await apply(site, {
    kind: 'records',
    itemIds: [1, 2, 3, 4].map((at) => idOf(site, `img/disc-${at}.jpg`)),
    addTags: ['Mars'],
  });
  await look('img/new-disc.jpg');
  expect(tagsOf(await sheet('img/new-disc.jpg'))).toEqual(expect.arrayContaining(['Mars', 'planet']));
  const itemId = idOf(site, 'img/new-disc.jpg');
  const key = site.items.need(itemId).sha256;
  await apply(site, { kind: 'suggested-tags', suggestions: [{ itemId, take: ['Mars'], refuse: [] }] });
  await look('img/new-stripes.jpg');
  expect(told).not.toContainEqual({ key, labels: ['Mars'] });
  await apply(site, { kind: 'confirm-tags', itemIds: [itemId] });
  await look('img/new-stripes.jpg');
  expect(told.at(-1)).toEqual({ key, labels: ['Mars'] });
});

test('what is taken is borne and told apart, what is refused is not offered again; both are one change that can be undone', async () => {
  const site = await tagged();
  const { tagger } = await standIn();
  const { sheet, look } = await started(site, tagger);
  await look('img/new-disc.jpg', 'img/new-stripes.jpg');
  const [one, other] = ['img/new-disc.jpg', 'img/new-stripes.jpg'].map((path) => idOf(site, path));
  const suggestions = [
    { itemId: one!, take: ['Planet'], refuse: ['black and white', 'drawing'] },
    { itemId: other!, take: [], refuse: ['meadow', 'drawing'] },
  ];
  const { plan: shown } = await plan(site, { kind: 'suggested-tags', suggestions });
  expect(shown.title).toBe('Add 1 suggested tag to 1 item, refuse 4');
  const entry = await apply(site, { kind: 'suggested-tags', suggestions });
  // As it is written already.
  expect(site.items.need(one!).words.tags).toEqual(['planet']);
  expect(site.suggestedTags.said(one!)).toEqual({
    taken: ['planet'],
    refused: ['black and white', 'drawing'],
  });
  expect(tagsOf(await sheet('img/new-disc.jpg', 'img/new-stripes.jpg'), 0.3)).not.toEqual(
    expect.arrayContaining(['meadow']),
  );
  await undo(site, entry);
  expect(site.items.need(one!).words.tags).toEqual([]);
  expect(site.suggestedTags.said(one!)).toEqual({ taken: [], refused: [] });
  expect(tagsOf(await sheet('img/new-disc.jpg', 'img/new-stripes.jpg'))).toEqual(
    expect.arrayContaining(['meadow', 'planet']),
  );
});

test('a tag that was taken and then removed by a person is not offered again', async () => {
  const site = await tagged();
  const { tagger } = await standIn();
  const { sheet, look } = await started(site, tagger);
  await look('img/new-disc.jpg');
  const itemId = idOf(site, 'img/new-disc.jpg');
  await apply(site, { kind: 'suggested-tags', suggestions: [{ itemId, take: ['planet'], refuse: [] }] });
  await apply(site, { kind: 'records', itemIds: [itemId], removeTags: ['planet'] });
  expect(tagsOf(await sheet('img/new-disc.jpg'), 0.3)).not.toContain('planet');
});

test('images are sent small, as JPEG, and without what their files say of camera and place', async () => {
  const site = await tagged();
  const large = await sharp(await placedPhotograph(60))
    .resize(2400, 1600)
    .keepMetadata()
    .jpeg()
    .toBuffer();
  await writeFile(join(site.folder.root, 'img/large.jpg'), large);
  await site.scanner.scan();
  const { tagger, sent } = await standIn();
  const { look } = await started(site, tagger);
  await look('img/large.jpg');
  expect(sent.length).toBeGreaterThan(8);
  for (const { bytes } of sent) {
    const { format, width, height, exif, xmp, iptc, icc } = await sharp(bytes).metadata();
    expect(format).toBe('jpeg');
    expect(width * height).toBeLessThanOrEqual(SENT_PIXELS);
    expect([exif, xmp, iptc, icc]).toEqual([undefined, undefined, undefined, undefined]);
  }
});

test('not more are sent in a month than may be; the rest waits, and goes on when more may be', async () => {
  const site = await tagged();
  const { tagger, sent } = await standIn();
  const { look, state, sheet } = await started(site, tagger);
  await apply(site, { kind: 'service', service: 'tagging', limit: 3 });
  await look('img/new-disc.jpg', 'img/new-stripes.jpg');
  expect(sent).toHaveLength(3);
  expect(await state()).toMatchObject({ sent: 3, limit: 3, left: 0 });
  const { unseen } = await sheet('img/new-disc.jpg', 'img/new-stripes.jpg');
  if (unseen > 0) {
    expect((await state()).waiting).toBe(unseen);
    expect((await state()).fault).toBe(`No more images may be sent this month: ${unseen} wait.`);
  }
  await apply(site, { kind: 'service', service: 'tagging', limit: 50 });
  await look('img/new-disc.jpg', 'img/new-stripes.jpg');
  expect(await state()).toMatchObject({ sent: 10, left: 40, waiting: 0, fault: null });
  expect(new Set(sent.map(({ key }) => key)).size).toBe(10);
});

test('what waits goes on after a restart', async () => {
  const site = await tagged();
  const { tagger } = await standIn();
  const key = site.items.need(idOf(site, 'img/new-disc.jpg')).sha256;
  await site.suggestedTags.want([key]);
  const { state, sheet } = await started(site, tagger);
  await expect.poll(async () => (await state()).waiting, { timeout: 20_000 }).toBe(0);
  expect(tagsOf(await sheet('img/new-disc.jpg'))).toContain('planet');
});

test('a service that has lost its images gets those that are asked about once more', async () => {
  const site = await tagged();
  const first = await standIn();
  const one = await started(site, first.tagger);
  await one.look('img/new-disc.jpg');
  // Under the same address, nothing is known any more.
  const again = await standIn();
  const there = first.tagger.address;
  Object.defineProperty(again.tagger, 'address', { get: () => there });
  const { look, sheet, state } = await started(site, again.tagger);
  await apply(site, { kind: 'records', itemIds: [idOf(site, 'img/disc-1.jpg')], addTags: ['red'] });
  await look('img/new-disc.jpg');
  const keys = again.sent.map(({ key }) => key);
  for (const path of ['img/new-disc.jpg', 'img/disc-1.jpg'])
    expect(keys).toContain(site.items.need(idOf(site, path)).sha256);
  expect(await state()).toMatchObject({ fault: null, waiting: 0 });
  // It has the example again, and was told once more what people say of it.
  const disc = site.items.need(idOf(site, 'img/disc-1.jpg')).sha256;
  expect(again.told.filter((one) => (one as { key: string }).key === disc)).toHaveLength(2);
  await expect
    .poll(() => readFile(join(again.folder, 'known.jsonl'), 'utf8'))
    .toContain(JSON.stringify({ key: disc, labels: ['planet', 'red'] }));
  await look('img/new-disc.jpg');
  expect((await sheet('img/new-disc.jpg')).unseen).toBe(0);
});

test.each<[string, (request: IncomingMessage) => [number, unknown] | undefined, RegExp]>([
  ['fails', () => [500, {}], /answers 500/],
  ['sends no JSON', () => [200, '<html>'], /not JSON/],
  ['speaks of something else', () => [200, { name: 'X', version: 7 }], /otherwise than the protocol says/],
  [
    'is surer than sure',
    ({ method }) => (method === 'PUT' ? [200, { labels: [{ label: 'x', confidence: 3 }] }] : undefined),
    /otherwise than the protocol says, at “labels\.0\.confidence”/,
  ],
  [
    'sends without end',
    ({ method }) => (method === 'PUT' ? [200, `{"labels": ["${'x'.repeat(1_100_000)}"]}`] : undefined),
    /sends more than it may/,
  ],
])('one that %s is told, and nothing is lost', async (_what, instead, says) => {
  const site = await tagged();
  const { tagger } = await standIn(instead);
  const { look, state } = await started(site, tagger);
  await look('img/new-disc.jpg');
  const { fault, waiting } = await state();
  expect(fault).toMatch(says);
  expect(waiting).toBe(1);
  expect(site.items.need(idOf(site, 'img/new-disc.jpg')).words.tags).toEqual([]);
});

test('what was looked at before a run ended does not wait any more', async () => {
  const site = await tagged();
  const hard = site.items.need(idOf(site, 'img/new-stripes.jpg')).sha256;
  const { tagger } = await standIn(({ method, url }) =>
    method === 'PUT' && url!.endsWith(hard) ? [500, {}] : undefined,
  );
  const { look, sheet, state } = await started(site, tagger);
  await look('img/new-disc.jpg', 'img/new-stripes.jpg');
  const { fault, waiting } = await state();
  expect(fault).toMatch(/answers 500/);
  expect(waiting).toBe(1);
  expect((await sheet('img/new-disc.jpg', 'img/new-stripes.jpg')).unseen).toBe(1);
});

test('an image that it can’t read is told; the others go on', async () => {
  const site = await tagged();
  const bad = site.items.need(idOf(site, 'img/new-disc.jpg')).sha256;
  const { tagger } = await standIn(({ url }) => (url!.endsWith(bad) ? [422, {}] : undefined));
  const { look, sheet } = await started(site, tagger);
  await look('img/new-disc.jpg', 'img/new-stripes.jpg');
  const view = await sheet('img/new-disc.jpg', 'img/new-stripes.jpg');
  expect(view.unread).toEqual({
    total: 1,
    first: [{ path: 'img/new-disc.jpg', why: `${TAGGER} can’t read this image.` }],
  });
  expect(tagsOf(view)).toContain('meadow');
});

test('10,000 labels, labels of another language, too long or unreadable: the surest that can be tags are kept', async () => {
  const site = await tagged();
  const labels = [
    { label: 'Schildkröte', confidence: 0.99 },
    { label: 'かめ', confidence: 0.98 },
    { label: 'x'.repeat(200), confidence: 1 },
    { label: 'a\u202Eb', confidence: 1 },
    { label: 'PLANET', confidence: 0.97 },
    { label: 'planet', confidence: 0.2 },
    ...Array.from({ length: 10_000 }, (_, at) => ({ label: `label ${at}`, confidence: at / 20_000 })),
  ];
  const { tagger } = await standIn(({ method }) => (method === 'PUT' ? [200, { labels }] : undefined));
  const { look, sheet } = await started(site, tagger);
  await look('img/new-disc.jpg');
  const view = await sheet('img/new-disc.jpg');
  expect(view.groups.length).toBeLessThanOrEqual(50);
  expect(tagsOf(view)).toEqual(['Schildkröte', 'planet', 'かめ'].sort());
  expect(view.groups.find(({ tag }) => tag === 'Schildkröte')!.known).toBe(false);
});

test('without a service nothing is asked of anybody', async () => {
  const site = await tagged();
  const { ask, state } = await started(site);
  expect(await state()).toMatchObject({ isSet: false });
  const answer = await ask('POST', '/api/suggested-tags', { ids: [idOf(site, 'img/new-disc.jpg')] });
  expect([answer.status, ((await answer.json()) as { message: string }).message]).toEqual([
    404,
    'No tagging service is set up here.',
  ]);
});

test('what the stand-in knows outlives it', async () => {
  const site = await tagged();
  const { tagger, folder } = await standIn();
  const { look } = await started(site, tagger);
  await look('img/new-disc.jpg');
  await new Promise((done) => setTimeout(done, 700));
  const again = new Tagger(await listening(serveTagger(folder)));
  const key = site.items.need(idOf(site, 'img/new-disc.jpg')).sha256;
  const { images, unknown } = await again.labels([key, 'f'.repeat(64)], new AbortController().signal);
  expect(unknown).toEqual(['f'.repeat(64)]);
  expect(images[0]!.labels.map(({ label }) => label)).toContain('planet');
});
