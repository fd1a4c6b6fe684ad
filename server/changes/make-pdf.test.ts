import { readFile } from 'node:fs/promises';
import { join } from 'node:path';
import { strToU8, zipSync } from 'fflate';
import { getDocument } from 'pdfjs-dist/legacy/build/pdf.mjs';
import { afterEach, beforeEach, expect, test } from 'vitest';
import type { DocumentView } from '../../api/documents.ts';
import type { ItemDetail, MadeView } from '../../api/items.ts';
import type { PlanView } from '../../api/plans.ts';
import { readWord } from '../../core/word/read-word.ts';
import { docx, xlsx } from '../../demo/documents.ts';
import { idOf } from '../test/plans.ts';
import { json, serveRoles, type Said, type ServedRoles } from '../test/roles.ts';
import { closeSites, picture, siteFolder, treeOf } from '../test/site.ts';

let root: string;
let roles: ServedRoles;
beforeEach(async () => {
  root = await siteFolder({
    'index.html': '<a href="/files/form.docx">Form</a>',
    'files/form.docx': Buffer.from(docx('Booking form')),
    'files/prices.xlsx': Buffer.from(xlsx()),
    'files/stars.csv': 'Star,Light\nVega,0.03\nŁódź 星,1\n',
    'files/broken.docx': 'PK no',
    'files/walk.odt': Buffer.from(
      zipSync({
        mimetype: strToU8('application/vnd.oasis.opendocument.text'),
        'content.xml': strToU8(
          '<office:document-content xmlns:office="o" xmlns:text="t"><office:body><office:text><text:h text:outline-level="1">The walk</text:h><text:list><text:list-item><text:p>a torch</text:p></text:list-item></text:list></office:text></office:body></office:document-content>',
        ),
        'styles.xml': strToU8('<office:document-styles xmlns:office="o"/>'),
      }),
    ),
    'notes/night.md': '# Night walk\n\nBring *tea*.\n\n![The dome](../img/dome.png)\n',
    'visit.html':
      '<html lang=en-GB><title>Visit us</title><body><nav>Menu</nav><main><h1>Visit</h1><p>By bus <img src="img/dome.png" alt="The dome"></main></html>',
    'img/dome.png': await picture(1),
    'files/plain.txt': 'One line\n\nand another\n',
  });
  roles = await serveRoles(root);
});
afterEach(async () => {
  roles.served.close();
  await closeSites();
});

const plan = (path: string) =>
  json<PlanView & Said>(roles.as('editor', 'POST', '/plans', { kind: 'make-pdf', path }));
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
    roles.as('editor', 'POST', '/plans', { kind: 'make-pdf', path: 'files/prices.xlsx' }),
  );
  await apply(other.id);
  expect((await plan('files/form.docx')).title).toBe('Remake “form.pdf” from “form.docx”');
});

test('of texts in other forms', async () => {
  await apply((await plan('files/walk.odt')).id);
  const odt = await read('files/walk.pdf');
  expect(odt.words).toContain('The walk');
  for (const role of ['H1', 'L', 'LI']) expect(odt.tree).toContain(`"role":"${role}"`);
  await apply((await plan('files/plain.txt')).id);
  expect((await read('files/plain.pdf')).words).toMatch(/One line +and another/);
  await apply((await plan('visit.html')).id);
  const html = await read('visit.pdf');
  expect(html.info['Title']).toBe('Visit us');
  expect(html.info['Language']).toBe('en-GB');
  expect(html.words).toContain('By bus');
  expect(html.words).not.toContain('Menu');
  expect(html.tree).toContain('"role":"Figure"');
});

test('of a page, which has no record: with its image, told when it has changed, made anew in place, undone', async () => {
  const before = await treeOf(root);
  const pdfs = () => json<MadeView[]>(roles.as('editor', 'GET', '/documents/pdfs?path=notes/night.md'));
  const first = await apply((await plan('notes/night.md')).id);
  const { tree, info, words } = await read('notes/night.pdf');
  expect(info['Title']).toBe('Night walk');
  expect(words).toMatch(/Bring +tea/);
  expect(tree).toContain('"role":"Figure","children":');
  expect(tree).toContain('The dome');
  const made = await detail('notes/night.pdf');
  expect(made.madeFrom).toEqual({ id: null, path: 'notes/night.md', name: 'night.md', current: true });
  expect(made.item.words.title).toBe('Night walk');
  expect(await pdfs()).toMatchObject([{ path: 'notes/night.pdf', current: true }]);

  const { sha256, text } = await json<DocumentView>(
    roles.as('editor', 'GET', '/documents?path=notes/night.md'),
  );
  const edited = await json<PlanView>(
    roles.as('editor', 'POST', '/plans', {
      kind: 'document',
      path: 'notes/night.md',
      base: sha256,
      text: text.replace('tea', 'cocoa'),
    }),
  );
  const second = await apply(edited.id);
  expect(await pdfs()).toMatchObject([{ current: false }]);
  const again = await plan('notes/night.md');
  expect(again.title).toBe('Remake “night.pdf” from “night.md”');
  const third = await apply(again.id);
  expect((await read('notes/night.pdf')).words).toMatch(/Bring +cocoa/);
  for (const { entryId } of [third, second, first]) {
    const undo = await json<PlanView>(roles.as('editor', 'POST', '/plans', { kind: 'undo', entryId }));
    await apply(undo.id);
  }
  expect(await treeOf(root)).toEqual(before);
});
