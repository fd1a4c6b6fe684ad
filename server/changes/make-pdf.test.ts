import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { getDocument } from 'pdfjs-dist/legacy/build/pdf.mjs';
import { afterEach, beforeEach, expect, test } from 'vitest';
import type { DocumentView } from '../../api/documents.ts';
import type { ItemDetail } from '../../api/items.ts';
import type { PlanView } from '../../api/plans.ts';
import { readWord } from '../../core/word/read-word.ts';
import { docx, xlsx } from '../../demo/documents.ts';
import { idOf } from '../test/plans.ts';
import { json, serveRoles, type Said, type ServedRoles } from '../test/roles.ts';
import { closeSites, siteFolder, treeOf } from '../test/site.ts';

let root: string;
let roles: ServedRoles;
beforeEach(async () => {
  root = await siteFolder({
    'index.html': '<a href="/files/form.docx">Form</a>',
    'files/form.docx': Buffer.from(docx('Booking form')),
    'files/prices.xlsx': Buffer.from(xlsx()),
    'files/stars.csv': 'Star,Light\nVega,0.03\nŁódź 星,1\n',
    'files/broken.docx': 'PK no',
  });
  roles = await serveRoles(root);
});
afterEach(async () => {
  roles.served.close();
  await closeSites();
});

const plan = (path: string) =>
  json<PlanView & Said>(
    roles.as('editor', 'POST', '/plans', { kind: 'make-pdf', itemId: idOf(roles.site, path) }),
  );
const apply = (id: string) =>
  json<{ entryId: number } & Said>(roles.as('editor', 'POST', `/plans/${id}/apply`, { note: '' }));
const detail = (path: string) =>
  json<ItemDetail>(roles.as('editor', 'GET', `/items/${idOf(roles.site, path)}`));
async function read(path: string) {
  const pdf = await getDocument({ data: new Uint8Array(await readFile(join(root, path))) }).promise;
  const info = { ...(await pdf.getMetadata()).info } as Record<string, unknown>;
  const page = await pdf.getPage(1);
  const words = (await page.getTextContent()).items.map((one) => ('str' in one ? one.str : '')).join(' ');
  return { pdf, info, words, tree: JSON.stringify(await page.getStructTree()), page };
}

test('a PDF of a text: tagged, titled, beside it, with its words; told when the document has changed, made anew in place', async () => {
  const before = await treeOf(root);
  const said = await plan('files/form.docx');
  expect(said.title).toBe('Make “form.pdf” from “form.docx”');
  const { entryId } = await apply(said.id);
  const { info, words, tree, pdf } = await read('files/form.pdf');
  expect(info['Title']).toBe('form');
  expect(words).toContain('October to March');
  for (const role of ['H1', 'H2', 'Table', 'TR', 'TD', 'P']) expect(tree).toContain(`"role":"${role}"`);
  expect((await pdf.getOutline())?.map(({ title }) => title)).toEqual(['Booking form']);
  expect((await detail('files/form.pdf')).madeFrom).toMatchObject({ path: 'files/form.docx', current: true });
  expect((await detail('files/form.docx')).pdfs).toMatchObject([{ path: 'files/form.pdf', current: true }]);
  const id = idOf(roles.site, 'files/form.pdf');

  const { sha256 } = await json<DocumentView>(roles.as('editor', 'GET', '/documents?path=files/form.docx'));
  const blocks = readWord(docx('Booking form')).doc.content!.map((_, at) => at);
  const text = JSON.stringify({
    blocks: [...blocks, { type: 'paragraph', content: [{ type: 'text', text: 'From April on.' }] }],
  });
  const edited = await json<PlanView>(
    roles.as('editor', 'POST', '/plans', { kind: 'document', path: 'files/form.docx', base: sha256, text }),
  );
  const { entryId: second } = await apply(edited.id);
  expect((await detail('files/form.docx')).pdfs).toMatchObject([{ current: false }]);
  const again = await plan('files/form.docx');
  expect(again.title).toBe('Remake “form.pdf” from “form.docx”');
  const { entryId: third } = await apply(again.id);
  expect((await read('files/form.pdf')).words).toContain('From April on.');
  expect(idOf(roles.site, 'files/form.pdf')).toBe(id);
  expect((await detail('files/form.docx')).pdfs).toMatchObject([{ current: true }]);

  for (const entry of [third, second, entryId]) {
    const undo = await json<PlanView>(roles.as('editor', 'POST', '/plans', { kind: 'undo', entryId: entry }));
    await apply(undo.id);
  }
  expect(await treeOf(root)).toEqual(before);
});

test('of sheets and tables too; what can’t be is refused, and what isn’t in it is told', async () => {
  await apply((await plan('files/prices.xlsx')).id);
  const { words, tree } = await read('files/prices.pdf');
  expect(words).toContain('£9.50');
  expect(tree).toContain('"role":"TH"');
  const stars = await plan('files/stars.csv');
  expect(stars.warnings).toEqual([expect.stringContaining('no sign for 星')]);
  await apply(stars.id);
  expect((await read('files/stars.pdf')).words).toContain('Łódź');
  expect(await plan('files/broken.docx')).toMatchObject({ code: 'bad-request' });
});

test('another PDF that has the name stays as it is', async () => {
  const first = await plan('files/form.docx');
  await apply(first.id);
  // Replaced by somebody: it is no longer what was made.
  const other = await json<PlanView>(
    roles.as('editor', 'POST', '/plans', { kind: 'make-pdf', itemId: idOf(roles.site, 'files/prices.xlsx') }),
  );
  await apply(other.id);
  expect((await plan('files/form.docx')).title).toBe('Remake “form.pdf” from “form.docx”');
});
