import { readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { afterEach, expect, test } from 'vitest';
import type { PlanRequest } from '../../api/plans.ts';
import type { OpenedSite } from '../app/opened-site.ts';
import { allSaid } from '../test/checks.ts';
import { apply, idOf, plan, undo } from '../test/plans.ts';
import { closeSites, openSite, picture, siteFolder, treeOf } from '../test/site.ts';

afterEach(closeSites);

const CREDIT = 'Ada Lind / Moorlight';
const page = (title: string, body: string) =>
  `<!doctype html>\n<title>${title}</title>\n<body>\n${body}\n</body>\n`;
/** Pages that tell the credit of a field, that don't, and that have no room for it. */
async function credited() {
  const root = await siteFolder({
    'told.html': page(
      'Told',
      `<figure><img src="img/field.png" alt="A field"><figcaption>Ada Lind/Moorlight</figcaption></figure>`,
    ),
    'near.html': page(
      'Near',
      `<p><img src="img/field.png" alt="A field"></p>\n<p>Photo: Ada&nbsp;Lind / <b>Moorlight</b></p>`,
    ),
    'far.html': page(
      'Far',
      `<p><img src="img/field.png" alt="A field"></p>\n<p>${'Much is said here. '.repeat(60)}</p><p>${CREDIT}</p>`,
    ),
    'half.html': page(
      'Half',
      `<figure>\n  <img src="img/field.png" alt="A field">\n  <figcaption>The <em>field</em> at dusk</figcaption>\n</figure>`,
    ),
    'words.html': page('Words', `<p>Here <img src="img/field.png" alt="A field"> it stands.</p>`),
    'notes.md': '# Notes\n\n![A field](img/field.png)\n\nText\n',
    'css/s.css': '.f { background: url(../img/field.png) }\n',
    'shop/index.html': page('Shop', `<p><img src="../img/crowd.png" alt="A crowd"></p>`),
    'news.html': page('News', `<p><img src="img/crowd.png" alt="A crowd"></p>`),
    'img/field.png': await picture(1),
    'img/crowd.png': await picture(2),
  });
  const site = await openSite(root);
  await site.analyser.analyseAll();
  return { root, site, read: (path: string) => readFile(join(root, path), 'utf8') };
}
const rights = async (site: OpenedSite) =>
  (await allSaid(site)).filter((said) => /^(?:uncredited|editorial) /.test(said));
const write = (site: OpenedSite, path: string, set: object) =>
  apply(site, { kind: 'records', itemIds: [idOf(site, path)], set });

test('pages that show an image without the credit that its licence asks for are told, and get it in a plan', async () => {
  const { root, site, read } = await credited();
  expect(await rights(site)).toEqual([]);
  await write(site, 'img/field.png', { licence: 'Free with credit, receipt R-1', credit: CREDIT });
  const lacking = 'uncredited img/field.png Its credit is missing on';
  expect(await rights(site)).toEqual([`${lacking} “far.html”, “half.html”, “notes.md” and 1 other page.`]);
  const before = await treeOf(root);
  const asked: PlanRequest = { kind: 'credits', itemIds: [idOf(site, 'img/field.png')] };
  const { plan: made } = await plan(site, asked);
  expect([made.title, made.clashes]).toEqual(['Add the credit of 1 image to 3 pages', []]);
  expect(made.warnings).toEqual([
    '“words.html” lacks a credit still: At line 4 it stands in a text, where no caption can be. Put it on a line of its own first.',
  ]);
  const entry = await apply(site, asked);
  expect(await read('half.html')).toContain(`<figcaption>The <em>field</em> at dusk. ${CREDIT}</figcaption>`);
  expect(await read('far.html')).toContain(
    `<figure><img src="img/field.png" alt="A field"><figcaption>${CREDIT}</figcaption></figure>`,
  );
  expect(await read('notes.md')).toBe(`# Notes\n\n![A field](img/field.png)\n\n*${CREDIT}*\n\nText\n`);
  expect(await rights(site)).toEqual([`${lacking} “words.html”.`]);
  // Once there, it isn't written again.
  const { plan: again } = await plan(site, asked);
  expect([again.files, again.pages]).toEqual([[], []]);
  await undo(site, entry);
  expect(await treeOf(root)).toEqual(before);
  expect(await rights(site)).toEqual([`${lacking} “far.html”, “half.html”, “notes.md” and 1 other page.`]);
});

test('what is told of a page follows the page, and the record', async () => {
  const { root, site } = await credited();
  await write(site, 'img/field.png', { licence: 'CC BY 4.0', creator: 'Ada Lind' });
  expect(await rights(site)).toEqual([
    'uncredited img/field.png Its credit is missing on “far.html”, “half.html”, “notes.md” and 1 other page.',
  ]);

  await writeFile(
    join(root, 'words.html'),
    page('Words', '<p>Here <img src="img/field.png" alt="A field"> it stands, by Ada Lind.</p>'),
  );
  await site.scanner.scan();
  expect(await rights(site)).toEqual([
    'uncredited img/field.png Its credit is missing on “far.html”, “half.html” and “notes.md”.',
  ]);
  await write(site, 'img/field.png', { licence: 'CC0 1.0' });
  expect(await rights(site)).toEqual([]);
});

test('an editorial image is told where something is sold, and nowhere else', async () => {
  const { site } = await credited();
  await write(site, 'img/crowd.png', { licence: 'News and reports only, receipt R-2', creator: 'Ada Lind' });
  expect(await rights(site)).toEqual([
    'editorial img/crowd.png It is for news and reports only, but on “shop/index.html”.',
  ]);
});

test('what asks for no credit is left alone, with why; placing says what isn’t written', async () => {
  const { site } = await credited();
  const itemId = idOf(site, 'img/crowd.png');
  const { plan: none } = await plan(site, { kind: 'credits', itemIds: [itemId] });
  expect([none.pages, none.warnings]).toEqual([
    [],
    ['“img/crowd.png” is unchanged: Its licence asks for no credit, or it names nobody.'],
  ]);
  await write(site, 'img/crowd.png', { licence: 'CC BY 4.0', credit: CREDIT, caption: 'A crowd' });
  const at = {
    kind: 'place',
    page: 'news.html',
    itemId,
    classes: '',
    shownWidth: null,
    sizes: false,
    full: true,
  } as const;
  const start = site.references.placedOn('news.html')[0]!.start;
  const bare = await plan(site, { ...at, spot: { insteadOf: start }, caption: false });
  expect(bare.plan.warnings).toContain(
    `The licence of “crowd.png” asks for a credit near it, and none is written here: “${CREDIT}”.`,
  );
});
