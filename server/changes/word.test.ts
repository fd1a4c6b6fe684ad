import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { strFromU8, unzipSync } from 'fflate';
import sharp from 'sharp';
import { afterEach, beforeEach, expect, test } from 'vitest';
import type { DocumentVersion, DocumentView } from '../../api/documents.ts';
import type { PlanView } from '../../api/plans.ts';
import { ORIGIN, type RichNode } from '../../core/document/rich.ts';
import { readWord } from '../../core/word/read-word.ts';
import { docx } from '../../demo/documents.ts';
import { idOf } from '../test/plans.ts';
import { json, serveRoles, type Said, type ServedRoles } from '../test/roles.ts';
import { closeSites, siteFolder, treeOf } from '../test/site.ts';

const PATH = 'files/form.docx';
const FORM = docx('Booking form');
let root: string;
let roles: ServedRoles;
beforeEach(async () => {
  root = await siteFolder({
    'index.html': `<a href="/${PATH}">Form</a>`,
    [PATH]: Buffer.from(FORM),
    'files/broken.docx': 'PK no',
    'img/dome.png': await sharp({ create: { width: 40, height: 20, channels: 3, background: 'red' } })
      .png()
      .toBuffer(),
    'img/dome.webp': await sharp({ create: { width: 4, height: 2, channels: 3, background: 'blue' } })
      .webp()
      .toBuffer(),
  });
  roles = await serveRoles(root);
});
afterEach(async () => {
  roles.served.close();
  await closeSites();
});

const open = (path = PATH) => json<DocumentView & Said>(roles.as('editor', 'GET', `/documents?path=${path}`));
const plan = (base: string, blocks: readonly unknown[], from?: string, path = PATH) =>
  json<PlanView & Said>(
    roles.as('editor', 'POST', '/plans', {
      kind: 'document',
      path,
      base,
      text: JSON.stringify({ from, blocks }),
    }),
  );
const apply = (id: string) =>
  json<{ entryId: number } & Said>(roles.as('editor', 'POST', `/plans/${id}/apply`, { note: '' }));
const versions = () => json<DocumentVersion[]>(roles.as('editor', 'GET', `/documents/versions?path=${PATH}`));
const bytes = async () => new Uint8Array(await readFile(join(root, PATH)));
const all = Array.from({ length: readWord(FORM).doc.content!.length }, (_, at) => at);
/** All blocks, one of them others. */
const withBlock = (at: number, ...nodes: RichNode[]) => [...all.slice(0, at), ...nodes, ...all.slice(at + 1)];
const paragraph = (text: string, origin?: number): RichNode => ({
  type: 'paragraph',
  ...(origin === undefined ? {} : { attrs: { [ORIGIN]: origin } }),
  content: [{ type: 'text', text }],
});

test('a word is corrected in place: one part changes, the version says what, undone to the byte', async () => {
  const before = await treeOf(root);
  const { sha256, text, form, kind } = await open();
  expect({ text, form, kind }).toEqual({ text: '', form: null, kind: 'word' });
  const last = all.at(-1)!;
  const origin = readWord(FORM).doc.content![last]!.attrs![ORIGIN] as number;
  const said = await plan(
    sha256,
    withBlock(last, paragraph('Please send it a week before your visit.', origin)),
  );
  expect(said.title).toBe('Edit “form.docx”: 1 line changed');
  expect(said.pages[0]!.changes[0]).toMatchObject({
    oldUrl: 'Please send this form to the observatory two weeks before your visit.',
    newUrl: 'Please send it a week before your visit.',
  });
  const { entryId } = await apply(said.id);
  const [old, now] = [unzipSync(FORM), unzipSync(await bytes())];
  expect(Object.keys(now).sort()).toEqual(Object.keys(old).sort());
  expect(Object.keys(now).filter((name) => strFromU8(now[name]!) !== strFromU8(old[name]!))).toEqual([
    'word/document.xml',
  ]);
  expect(await versions()).toMatchObject([{ changes: '1 line changed' }]);
  const { id } = await json<PlanView>(roles.as('editor', 'POST', '/plans', { kind: 'undo', entryId }));
  await apply(id);
  expect(await treeOf(root)).toEqual(before);
});

test('somebody else’s text is not overwritten; both can be compared, and mine goes on over theirs', async () => {
  const first = await open();
  await apply((await plan(first.sha256, withBlock(1, paragraph('Theirs.')))).id);
  const mine = [...all, paragraph('Mine.')];
  expect(await plan(first.sha256, mine)).toMatchObject({ code: 'stale-record' });
  const shown = await json<{ text: string }>(
    roles.as('editor', 'POST', '/documents/edited', {
      path: PATH,
      base: first.sha256,
      text: JSON.stringify({ blocks: mine }),
    }),
  );
  expect(shown.text).toMatch(/Evenings for schools are held from October to March[^]*Mine\.\n$/);
  const now = await open();
  await apply((await plan(now.sha256, mine, first.sha256)).id);
  const { text } = await json<{ text: string }>(
    roles.as('editor', 'GET', `/documents/text?path=${PATH}&sha256=${(await open()).sha256}`),
  );
  expect(text).toBe(shown.text);
});

test('an image of the library comes in with its alt text; what can’t be written is refused with a sentence', async () => {
  const { sha256 } = await open();
  const site = roles.site;
  const image = (path: string): RichNode => ({
    type: 'paragraph',
    content: [{ type: 'image', attrs: { src: `item:${idOf(site, path)}`, alt: 'The dome' } }],
  });
  const said = await plan(sha256, [...all, image('img/dome.png')]);
  await apply(said.id);
  const parts = unzipSync(await bytes());
  expect(Buffer.from(parts['word/media/added1.png']!)).toEqual(await readFile(join(root, 'img/dome.png')));
  expect(strFromU8(parts['word/document.xml']!)).toContain('descr="The dome"');

  const now = (await open()).sha256;
  const refused = async (blocks: readonly unknown[], says: RegExp) =>
    expect(JSON.stringify(await plan(now, blocks))).toMatch(says);
  await refused([image('img/dome.webp')], /takes PNG, JPEG and GIF/);
  await refused(
    [{ type: 'paragraph', content: [{ type: 'image', attrs: { src: 'item:99999', alt: '' } }] }],
    /isn’t in the library/,
  );
  await refused([{ type: 'script' }], /can’t/);
  await refused([9999], /another version/);
  await refused([{ type: 'paragraph', attrs: { on: { deep: 1 } } }], /can’t be read/);
  let deep: RichNode = paragraph('x');
  for (let at = 0; at < 2000; at++) deep = { type: 'listItem', content: [deep] };
  await refused([deep], /can’t be read/);
  const broken = await open('files/broken.docx');
  expect(await plan(broken.sha256, [0], undefined, 'files/broken.docx')).toMatchObject({
    code: 'bad-request',
  });
  expect(await readFile(join(root, 'files/broken.docx'), 'utf8')).toBe('PK no');
});
