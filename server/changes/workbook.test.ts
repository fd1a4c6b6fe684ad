import { readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { unzipSync, zipSync } from 'fflate';
import { afterEach, beforeEach, expect, test } from 'vitest';
import type { DocumentVersion, DocumentView } from '../../api/documents.ts';
import type { PlanView } from '../../api/plans.ts';
import { draftAsText, type SheetEdit } from '../../core/sheet/edits.ts';
import { xlsx } from '../../demo/documents.ts';
import { json, serveRoles, type Said, type ServedRoles } from '../test/roles.ts';
import { closeSites, siteFolder, treeOf } from '../test/site.ts';

const PATH = 'files/prices.xlsx';
const BOOK = xlsx();
let root: string;
let roles: ServedRoles;
beforeEach(async () => {
  root = await siteFolder({
    'index.html': `<a href="/${PATH}">Prices</a>`,
    [PATH]: Buffer.from(BOOK),
    'files/broken.xlsx': 'PK no',
  });
  roles = await serveRoles(root);
});
afterEach(async () => {
  roles.served.close();
  await closeSites();
});

const open = (path = PATH) => json<DocumentView & Said>(roles.as('editor', 'GET', `/documents?path=${path}`));
const plan = (base: string, text: string, path = PATH) =>
  json<PlanView & Said>(roles.as('editor', 'POST', '/plans', { kind: 'document', path, base, text }));
const apply = (id: string) =>
  json<{ entryId: number } & Said>(roles.as('editor', 'POST', `/plans/${id}/apply`, { note: '' }));
const versions = () => json<DocumentVersion[]>(roles.as('editor', 'GET', `/documents/versions?path=${PATH}`));
const set = (...cells: [number, number, string][]): SheetEdit => ({ do: 'set', sheet: 0, cells });
const draft = (edits: SheetEdit[], from?: string) => draftAsText({ from, edits });
async function save(...edits: SheetEdit[]) {
  const { sha256 } = await open();
  return apply((await plan(sha256, draft(edits))).id);
}
const bytes = async () => new Uint8Array(await readFile(join(root, PATH)));
const changedParts = (before: Uint8Array, after: Uint8Array) => {
  const [old, now] = [unzipSync(before), unzipSync(after)];
  return Object.keys({ ...old, ...now }).filter(
    (name) => !old[name] || !now[name] || Buffer.compare(old[name], now[name]) !== 0,
  );
};

test('a price is changed in place: one part of the file changes, what it adds up to follows; undone to the byte', async () => {
  const before = await treeOf(root);
  const { sha256, text, form, kind } = await open();
  expect({ text, form, kind }).toEqual({ text: '', form: null, kind: 'workbook' });
  const said = await plan(sha256, draft([set([1, 1, '11.50'])]));
  expect(said.title).toMatch(/^Edit “prices.xlsx”: 3 cells changed$/);
  expect(said.pages[0]!.changes[0]).toMatchObject({ line: 2, place: 'cell B2 of “Prices”' });
  expect(said.pages[0]!.changes[0]!.newUrl).toContain('£11.50');
  const { entryId } = await apply(said.id);
  expect(changedParts(BOOK, await bytes())).toHaveLength(1);
  expect(await versions()).toMatchObject([{ changes: '3 cells changed' }]);
  const { id } = await json<PlanView>(roles.as('editor', 'POST', '/plans', { kind: 'undo', entryId }));
  await apply(id);
  expect(await treeOf(root)).toEqual(before);
});

test('an earlier version comes back, and can be changed at once; the file that was saved since is not overwritten', async () => {
  const first = await open();
  await save(set([1, 0, 'A wheel']));
  const second = await open();
  expect(await plan(first.sha256, draft([set([2, 0, 'Mine'])]))).toMatchObject({ code: 'stale-record' });
  // What each says is compared: rows of both.
  const text = (sha256: string) =>
    json<{ text: string }>(roles.as('editor', 'GET', `/documents/text?path=${PATH}&sha256=${sha256}`));
  const edited = await json<{ text: string }>(
    roles.as('editor', 'POST', '/documents/edited', {
      path: PATH,
      base: first.sha256,
      text: draft([set([2, 0, 'Mine'])]),
    }),
  );
  expect((await text(first.sha256)).text).not.toContain('A wheel |');
  expect((await text(second.sha256)).text).toContain('A wheel |');
  expect(edited.text).toContain('Mine |');
  expect(edited.text).not.toContain('A wheel |');

  await apply((await plan(second.sha256, draft([], first.sha256))).id);
  expect(await bytes()).toEqual(BOOK);
  const third = await open();
  await apply((await plan(third.sha256, draft([set([3, 0, 'Of the second'])], second.sha256))).id);
  const now = (await text((await open()).sha256)).text;
  expect(now).toContain('A wheel |');
  expect(now).toContain('Of the second |');
  // The bytes of each are still there, and no others can be asked for.
  const kept = await roles.as('editor', 'GET', `/documents/bytes?path=${PATH}&sha256=${first.sha256}`);
  expect(new Uint8Array(await kept.arrayBuffer())).toEqual(BOOK);
  expect(
    (await roles.as('editor', 'GET', `/documents/bytes?path=${PATH}&sha256=${'0'.repeat(64)}`)).status,
  ).toBe(404);
});

test('what can’t be made of a workbook is refused in a sentence, and nothing changes', async () => {
  const before = await treeOf(root);
  const { sha256 } = await open();
  const refused = async (text: string, why: string) =>
    expect(await plan(sha256, text)).toMatchObject({
      code: 'bad-request',
      message: expect.stringContaining(why) as string,
    });
  await refused('not JSON', 'can’t be read');
  await refused('{"edits":[{"do":"run"}]}', 'can’t be read');
  await refused(draft([{ ...set([0, 0, 'x']), sheet: 99 } as SheetEdit]), 'no such sheet');
  await refused(draft([set([0, 1, '=cmd|"x"!A1'])]), 'start a program');
  await refused(draft([set([1, 0, 'Star wheel, northern sky'])]), 'Nothing has changed');
  expect(await plan(sha256, draft([], '0'.repeat(64)))).toMatchObject({ code: 'not-found' });
  const broken = await open('files/broken.xlsx');
  expect(await plan(broken.sha256, draft([set([0, 0, 'x'])]), 'files/broken.xlsx')).toMatchObject({
    code: 'bad-request',
    message: expect.stringContaining('damaged') as string,
  });
  // Small packed, and huge unpacked.
  await writeFile(
    join(root, 'files/bomb.xlsx'),
    zipSync({ 'xl/workbook.xml': new Uint8Array(450_000_000) }, { level: 9 }),
  );
  await roles.site.scanner.scan();
  const bomb = await open('files/bomb.xlsx');
  expect(await plan(bomb.sha256, draft([set([0, 0, 'x'])]), 'files/bomb.xlsx')).toMatchObject({
    message: expect.stringContaining('unpacks to far more') as string,
  });
  const { 'files/bomb.xlsx': _bomb, ...others } = await treeOf(root);
  expect(others).toEqual(before);
});
