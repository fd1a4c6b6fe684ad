import { readFile, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { afterEach, beforeEach, expect, test } from 'vitest';
import type { DocumentVersion, DocumentView, UnsavedKept } from '../../api/documents.ts';
import type { PlanView } from '../../api/plans.ts';
import { json, serveRoles, type Said, type ServedRoles } from '../test/roles.ts';
import { closeSites, siteFolder, treeOf } from '../test/site.ts';

const MD = '# Nights\r\n\r\nCome on *Fridays*,\r\nand bring tea.\r\n\r\n![](/img/dome.jpg)\r\n';
const CSV = Buffer.from('name;price\nT\xe9l\xe9scope;3\n', 'latin1');

let root: string;
let roles: ServedRoles;
beforeEach(async () => {
  root = await siteFolder({
    'index.html': '<a href="/notes/nights.md">Nights</a><a href="/files/prices.csv">Prices</a>',
    'notes/nights.md': MD,
    'files/prices.csv': CSV,
    'files/zero.csv': Buffer.from([65, 0, 66]),
    'data/site.json': '{"nights": ["Friday"]}\n',
    'img/dome.jpg': 'not really',
    'part.html': Buffer.from('<p>T\xe9l\xe9scope <b>one</b>\r\n<p>two', 'latin1'),
    'east.html': Buffer.from('<meta charset=iso-8859-2><p>\xb1', 'latin1'),
  });
  roles = await serveRoles(root);
});
afterEach(async () => {
  roles.served.close();
  await closeSites();
});

const on = (path: string) => readFile(join(root, path), 'utf8');
const open = (path: string, role: 'editor' | 'steward' | 'contributor' = 'editor') =>
  json<DocumentView>(roles.as(role, 'GET', `/documents?path=${encodeURIComponent(path)}`));
const versions = (path: string) =>
  json<DocumentVersion[]>(roles.as('editor', 'GET', `/documents/versions?path=${encodeURIComponent(path)}`));
const plan = (path: string, base: string, text: string, role: 'editor' | 'contributor' = 'editor') =>
  json<PlanView & Said>(roles.as(role, 'POST', '/plans', { kind: 'document', path, base, text }));
const apply = (id: string, note = '') =>
  json<{ entryId: number } & Said>(roles.as('editor', 'POST', `/plans/${id}/apply`, { note }));
async function save(path: string, edit: (text: string) => string, note = '') {
  const { sha256, text } = await open(path);
  return apply((await plan(path, sha256, edit(text))).id, note);
}
async function undo(entryId: number) {
  const { id } = await json<PlanView>(roles.as('editor', 'POST', '/plans', { kind: 'undo', entryId }));
  return apply(id);
}

test('a save changes the words and nothing else, and is undone to the byte', async () => {
  const before = await treeOf(root);
  const { entryId } = await save(
    'notes/nights.md',
    (text) => text.replace('*Fridays*', '*Saturdays*'),
    'New day',
  );
  expect(await on('notes/nights.md')).toBe(MD.replace('*Fridays*', '*Saturdays*'));
  expect(await versions('notes/nights.md')).toMatchObject([
    { person: 'Ben', note: 'New day', changes: '1 line changed', undone: false },
  ]);
  await undo(entryId);
  expect(await treeOf(root)).toEqual(before);
});

test('the plan shows the lines that change', async () => {
  const { sha256, text } = await open('notes/nights.md');
  const said = await plan('notes/nights.md', sha256, `${text.replace('tea', 'soup')}End.\n`);
  expect(said.title).toBe('Edit “nights.md”: 1 line changed, 1 added');
  expect(said.pages).toEqual([
    {
      page: 'notes/nights.md',
      changes: [
        { line: 4, place: 'text', oldUrl: 'and bring tea.', newUrl: 'and bring soup.' },
        { line: 7, place: 'text', oldUrl: '', newUrl: 'End.' },
      ],
    },
  ]);
});

test('a table keeps its encoding; a character that it does not have is told', async () => {
  await save('files/prices.csv', (text) => `${text}Th\u00e9;2\n`);
  expect(await readFile(join(root, 'files/prices.csv'))).toEqual(
    Buffer.concat([CSV, Buffer.from('Th\xe9;2\n', 'latin1')]),
  );
  const { sha256, text } = await open('files/prices.csv');
  expect(await plan('files/prices.csv', sha256, `${text}\u263e;1\n`)).toMatchObject({
    code: 'bad-request',
    message: 'The file is in the encoding windows-1252, which has no “\u263e”.',
  });
});

test('what leads nowhere and what can no longer be read is told before it is saved', async () => {
  const { sha256, text } = await open('notes/nights.md');
  const said = await plan('notes/nights.md', sha256, `${text}\n![](/img/tower.jpg) [x](/img/dome.jpg)\n`);
  expect(said.warnings).toEqual(['“/img/tower.jpg” leads to no file of the site.']);
  const data = await open('data/site.json');
  const broken = await plan('data/site.json', data.sha256, data.text.replace(']', ''));
  expect(broken.warnings).toEqual(['Programs can no longer read it: it isn’t JSON from line 1 on.']);
});

test('what somebody else has saved meanwhile is not overwritten', async () => {
  const [mine, theirs] = [await open('notes/nights.md'), await open('notes/nights.md', 'steward')];
  await roles.as('steward', 'PUT', '/documents/unsaved', {
    path: theirs.path,
    base: theirs.sha256,
    text: `${theirs.text}\nOttilie’s line.\n`,
  });
  const kept = await json<UnsavedKept>(
    roles.as('editor', 'PUT', '/documents/unsaved', { path: mine.path, base: mine.sha256, text: 'Mine.\n' }),
  );
  expect(kept).toMatchObject({ sha256: mine.sha256, others: [{ person: 'Ottilie' }] });
  await save('notes/nights.md', (text) => text.replace('tea', 'soup'));
  expect(await plan('notes/nights.md', mine.sha256, 'Mine.\n')).toMatchObject({ code: 'stale-record' });
  expect(await on('notes/nights.md')).toBe(MD.replace('tea', 'soup'));
  // What each has written is still there, and both versions of the file.
  expect((await open('notes/nights.md')).mine).toMatchObject({ base: mine.sha256, text: 'Mine.\n' });
  expect((await open('notes/nights.md', 'steward')).mine).toMatchObject({ base: mine.sha256 });
  const text = (sha256: string) =>
    json<{ text: string }>(
      roles.as('editor', 'GET', `/documents/text?path=notes/nights.md&sha256=${sha256}`),
    );
  expect((await text(mine.sha256)).text).toBe(mine.text);
  expect((await text((await open('notes/nights.md')).sha256)).text).toContain('soup');
});

test('a plan that was shown is not applied over what somebody else saved since', async () => {
  const mine = await open('notes/nights.md');
  const shown = await plan('notes/nights.md', mine.sha256, 'Mine.\n');
  await save('notes/nights.md', (text) => text.replace('tea', 'soup'));
  expect(await apply(shown.id)).toMatchObject({ code: 'moved-on' });
  expect(await on('notes/nights.md')).toContain('soup');
});

test('what is written but not saved is on the server, and never on the site', async () => {
  const before = await treeOf(root);
  const { path, sha256, text } = await open('notes/nights.md');
  await roles.as('editor', 'PUT', '/documents/unsaved', { path, base: sha256, text: `${text}more\n` });
  expect((await open(path)).mine).toMatchObject({ text: `${text}more\n` });
  expect((await open(path, 'steward')).mine).toBeNull();
  expect(await treeOf(root)).toEqual(before);
  await roles.as('editor', 'DELETE', `/documents/unsaved?path=${path}`);
  expect((await open(path)).mine).toBeNull();
});

test('who may not save it proposes it; a reader may not even that', async () => {
  const { path, sha256, text } = await open('notes/nights.md', 'contributor');
  const proposed = await plan(path, sha256, text.replace('tea', 'soup'), 'contributor');
  expect(proposed.approval).toBe('an editor or a steward');
  const unallowed = await roles.as('reader', 'POST', '/plans', {
    kind: 'document',
    path,
    base: sha256,
    text: 'x',
  });
  expect(unallowed.status).toBe(403);
  expect(await on('notes/nights.md')).toBe(MD);
});

test.each([
  ['nowhere.md', 'not-found', /There is no “nowhere.md”/],
  ['../secret.md', 'not-found', /There is no/],
  ['img/dome.jpg', 'bad-request', /can’t be edited here/],
  ['files/zero.csv', 'bad-request', /it isn’t text/],
])('%s is not opened, with the reason', async (path, code, says) => {
  const answer = await json<Said>(roles.as('editor', 'GET', `/documents?path=${encodeURIComponent(path)}`));
  expect(answer.code).toBe(code);
  expect(answer.message).toMatch(says);
});

test('what is too large is not opened', async () => {
  await writeFile(join(root, 'files/prices.csv'), 'x;y\n'.repeat(300_000));
  await roles.site.scanner.scan();
  expect(await open('files/prices.csv')).toMatchObject({ code: 'too-large' });
});

test('bytes that a document never had are not given out as its version', async () => {
  const { sha256 } = await open('files/prices.csv');
  const answer = await json<Said>(
    roles.as('editor', 'GET', `/documents/text?path=notes/nights.md&sha256=${sha256}`),
  );
  expect(answer.code).toBe('not-found');
});

test('a page in HTML keeps its encoding and line ends; one in an encoding that can’t be written here is refused', async () => {
  const was = await readFile(join(root, 'part.html'));
  await save('part.html', (text) => text.replace('one', 'first'));
  expect(await readFile(join(root, 'part.html'))).toEqual(
    Buffer.from(was.toString('latin1').replace('one', 'first'), 'latin1'),
  );
  expect(await open('east.html')).toMatchObject({
    message: '“east.html” can’t be edited here: it is in the encoding iso-8859-2.',
  });
});
