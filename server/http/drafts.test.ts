import { readFile, stat, writeFile } from 'node:fs/promises';
import { join } from 'node:path';
import { afterAll, beforeAll, describe, expect, test } from 'vitest';
import type { DocumentView } from '../../api/documents.ts';
import type { EditView } from '../../api/edits.ts';
import type { ItemView } from '../../api/items.ts';
import type { BroughtIn, PlanView } from '../../api/plans.ts';
import type { SiteView } from '../../api/site.ts';
import { ROLES, type Role } from '../../core/people/rights.ts';
import { sha256Of } from '../changes/plan-bytes.ts';
import { sweep } from '../files/leftovers.ts';
import { json, NAMES, serveRoles, type ServedRoles, type Said } from '../test/roles.ts';
import { arrive, closeSites, picture, smallSite, treeOf } from '../test/site.ts';

/** Files that are in the library but not on the site: who sees them, what can be done with them, how they get there. */
let roles: ServedRoles;
let root: string;
let number = 100;
beforeAll(async () => {
  root = await smallSite();
  roles = await serveRoles(root);
}, 60_000);
afterAll(async () => {
  roles.served.close();
  await closeSites();
});

const as: ServedRoles['as'] = (...asked) => roles.as(...asked);

/** A draft of somebody's, as it comes through the door. */
async function draftOf(role: Role, name: string, folder = 'img', bytes?: Uint8Array): Promise<number> {
  const { site } = roles;
  const personId = site.people.byName(NAMES[role])!.id;
  const file = bytes ? Buffer.from(bytes) : await picture(number++);
  const arrival = await arrive(site, file, name, { folder, personId });
  const done = await as(role, 'POST', '/arrivals/bring-in', { arrivalIds: [arrival.id], as: 'drafts' });
  expect(done.status).toBe(200);
  return ((await done.json()) as BroughtIn).itemIds[0]!;
}
const plan = (role: Role, request: object) => as(role, 'POST', '/plans', request);
/** Plans and applies; nothing stands in the way. @returns the number of the entry */
async function change(role: Role, request: object): Promise<number> {
  const planned = await json<PlanView & Said>(plan(role, request));
  expect(planned.message ?? '').toBe('');
  expect(planned.clashes).toEqual([]);
  const applied = await as(role, 'POST', `/plans/${planned.id}/apply`, {});
  expect(applied.status).toBe(200);
  return ((await applied.json()) as { entryId: number }).entryId;
}
/** It can be looked at, to be proposed; not applied. */
async function onlyProposed(role: Role, request: object): Promise<void> {
  const planned = await plan(role, request);
  if (planned.status === 400) return; // Items and drafts don't go together.
  const { id, approval } = (await planned.json()) as PlanView;
  expect(approval).toBe('an editor or a steward');
  expect((await as(role, 'POST', `/plans/${id}/apply`, {})).status).toBe(403);
}
const seen = async (role: Role) =>
  (await json<{ items: ItemView[] }>(as(role, 'GET', '/items?state=draft'))).items.map((item) => item.id);

describe('a draft', () => {
  test('is in the library and on no server; its own people and those who publish see it, nobody else', async () => {
    const before = await treeOf(root);
    const id = await draftOf('contributor', 'kite.png');
    expect(await treeOf(root)).toEqual(before);
    expect((await fetch(`${roles.served.served}/img/kite.png`)).status).toBe(404);
    const item = roles.site.items.need(id);
    expect([item.state, item.path, item.addedBy]).toEqual(['draft', 'img/kite.png', 'Ines']);

    for (const role of ROLES) {
      const may = role !== 'reader';
      const { counts } = await json<SiteView>(as(role, 'GET', '/site'));
      expect([role, (await seen(role)).includes(id), counts.drafts]).toEqual([role, may, Number(may)]);
      for (const path of [
        `/items/${id}`,
        `/items/${id}/content`,
        `/items/${id}/file`,
        `/items/${id}/versions`,
        `/thumbnails/320/${item.sha256}`,
      ])
        expect([role, path, (await as(role, 'GET', path)).status]).toEqual([role, path, may ? 200 : 404]);
      const some = await json<ItemView[]>(as(role, 'GET', `/items/some?ids=${id}`));
      expect(some.map((one) => one.id)).toEqual(may ? [id] : []);
    }
    const content = await as('contributor', 'GET', `/items/${id}/content`);
    expect(content.headers.get('content-type')).toBe('image/png');
    expect(content.headers.get('x-content-type-options')).toBe('nosniff');
    expect(Buffer.from(await content.arrayBuffer())).toEqual(await picture(number - 1));
  });

  test('of another is hidden from a contributor, until it is theirs to look after', async () => {
    const id = await draftOf('editor', 'mast.png');
    expect(await seen('contributor')).not.toContain(id);
    const asked = { kind: 'records', itemIds: [id], set: { title: 'Mine' } };
    expect([(await plan('contributor', asked)).status, roles.site.items.need(id).words.title]).toEqual([
      404,
      '',
    ]);
    await change('editor', { kind: 'records', itemIds: [id], owner: 'Ines' });
    expect(await seen('contributor')).toContain(id);
    await change('contributor', asked);
    expect(roles.site.items.need(id).words.title).toBe('Mine');
  });

  test('is among what one change touched, wherever that is now; only for those who see it', async () => {
    const id = await draftOf('editor', 'sail.png');
    const here = roles.site.items.atPath('img/b.png')!.id;
    const entryId = await change('editor', { kind: 'records', itemIds: [id, here], addTags: ['wind'] });
    const touched = async (role: Role, query: string) =>
      (await json<{ items: ItemView[] }>(as(role, 'GET', `/items?entry=${entryId}&${query}`))).items
        .map((item) => item.id)
        .toSorted((one, other) => one - other);
    expect(await touched('editor', 'state=any')).toEqual([here, id]);
    expect(await touched('editor', 'state=any&folder=img')).toEqual([here, id]);
    expect(await touched('editor', '')).toEqual([here]);
    for (const role of ['contributor', 'reader'] as const) {
      expect(await touched(role, 'state=any')).toEqual([here]);
      expect(await touched(role, 'state=any&folder=img&q=sail')).toEqual([]);
    }
    const counted = await as('reader', 'GET', `/items/facets?entry=${entryId}&state=any`);
    expect([counted.status, await counted.text()]).toEqual([200, expect.not.stringContaining('"items":2')]);
  });

  test('is described, renamed and moved by its own people without touching the site; nothing of others is', async () => {
    const before = await treeOf(root);
    const id = await draftOf('contributor', 'rope.png');
    await change('contributor', { kind: 'address', itemId: id, folder: 'ropes', name: 'long-rope.png' });
    await change('contributor', { kind: 'move', itemIds: [id], folder: 'img/ropes' });
    await change('contributor', { kind: 'names', names: [{ itemId: id, name: 'rope-1.png' }] });
    await change('contributor', { kind: 'records', itemIds: [id], review: 'in-review', due: '2027-03-01' });
    const { path, review, due } = roles.site.items.need(id);
    expect([path, review, due]).toEqual(['img/ropes/rope-1.png', 'in-review', '2027-03-01']);
    expect(await treeOf(root)).toEqual(before);
    const taken = await json<PlanView>(
      plan('contributor', { kind: 'address', itemId: id, folder: 'img', name: 'b.png' }),
    );
    expect(taken.clashes.map((one) => one.why)).toEqual(['“img/b.png” already exists.']);
    const live = roles.site.items.atPath('img/b.png')!.id;
    for (const itemIds of [[live], [id, live]])
      await onlyProposed('contributor', { kind: 'move', itemIds, folder: 'x' });
  });

  test('can’t be put on pages, set aside, merged or given out while it is one: a sentence says so', async () => {
    const id = await draftOf('editor', 'wheel.png');
    for (const request of [
      { kind: 'set-aside', itemIds: [id] },
      { kind: 'copies', itemIds: [id], folder: null },
      { kind: 'withdraw', itemIds: [id] },
      { kind: 'embed', itemIds: [id], as: 'file' },
      { kind: 'restore', itemIds: [id] },
    ]) {
      const answer = await plan('editor', request);
      expect([request.kind, answer.status]).toEqual([request.kind, 400]);
      expect(((await answer.json()) as Said).message).toMatch(
        /“wheel\.png” is not (on the site|set aside)\./,
      );
    }
  });

  test('is dropped, and comes back with its bytes', async () => {
    const id = await draftOf('contributor', 'hat.png');
    const bytes = await picture(number - 1);
    const entryId = await change('contributor', { kind: 'discard', itemIds: [id] });
    expect(roles.site.items.need(id).state).toBe('absent');
    await sweep(roles.site, true);
    await change('contributor', { kind: 'undo', entryId });
    const content = await as('contributor', 'GET', `/items/${id}/content`);
    expect(Buffer.from(await content.arrayBuffer())).toEqual(bytes);
    expect(
      (await as('contributor', 'GET', `/thumbnails/320/${roles.site.items.need(id).sha256}`)).status,
    ).toBe(200);
  });
});

describe('publishing', () => {
  test('is for those who may: the file is on the site with its words; undone, it is a draft again', async () => {
    const before = await treeOf(root);
    const id = await draftOf('contributor', 'bell.png', 'img/bells');
    await change('contributor', {
      kind: 'records',
      itemIds: [id],
      set: { alt: 'A bell' },
      review: 'in-review',
    });
    await onlyProposed('contributor', { kind: 'publish', itemIds: [id] });
    const entryId = await change('editor', { kind: 'publish', itemIds: [id] });
    const item = roles.site.items.atPath('img/bells/bell.png')!;
    expect([item.id, item.words.alt, item.review]).toEqual([id, 'A bell', '']);
    expect(await readFile(join(root, 'img/bells/bell.png'))).toEqual(await picture(number - 1));
    expect((await as('reader', 'GET', `/items/${id}`)).status).toBe(200);
    await change('editor', { kind: 'undo', entryId });
    expect([roles.site.items.need(id).state, roles.site.items.need(id).review]).toEqual([
      'draft',
      'in-review',
    ]);
    expect(await treeOf(root)).toEqual(before);
    expect((await as('reader', 'GET', `/items/${id}`)).status).toBe(404);
  });

  test('a name that was taken meanwhile stands in the way, or gets a number', async () => {
    const id = await draftOf('contributor', 'drum.png');
    await writeFile(join(root, 'img/drum.png'), await picture(990));
    const planned = await json<PlanView>(plan('editor', { kind: 'publish', itemIds: [id] }));
    expect(planned.clashes).toEqual([
      {
        path: 'img/drum.png',
        why: '“img/drum.png” now has this address. Rename the draft, or move that item first.',
      },
    ]);
    expect((await as('editor', 'POST', `/plans/${planned.id}/apply`, {})).status).toBe(409);
    expect(roles.site.items.need(id).state).toBe('draft');
    await change('editor', { kind: 'publish', itemIds: [id], freeNames: true });
    expect(roles.site.items.need(id).path).toBe('img/drum-2.png');
    expect(await readFile(join(root, 'img/drum.png'))).toEqual(await picture(990));
  });

  test('and one that is taken between looking and applying overwrites nothing', async () => {
    const id = await draftOf('contributor', 'oar.png');
    const planned = await json<PlanView>(plan('editor', { kind: 'publish', itemIds: [id] }));
    await writeFile(join(root, 'img/oar.png'), await picture(991));
    expect((await as('editor', 'POST', `/plans/${planned.id}/apply`, {})).status).toBe(409);
    expect(await readFile(join(root, 'img/oar.png'))).toEqual(await picture(991));
    expect(roles.site.items.need(id).state).toBe('draft');
  });

  test('is taken back only where nothing uses it', async () => {
    const { site } = roles;
    const [placed, mentioned, loose] = ['img/b.png', 'img/mentioned.png', 'img/unused.png'].map(
      (path) => site.items.atPath(path)!.id,
    );
    for (const [id, why] of [
      [placed, /^It is in use on a page\./],
      [mentioned, /^“js\/app\.js” mentions it in line 1, so it may be in use\./],
    ] as const) {
      const { clashes } = await json<PlanView>(plan('editor', { kind: 'withdraw', itemIds: [id] }));
      expect(clashes[0]!.why).toMatch(why);
    }
    const before = await treeOf(root);
    const entryId = await change('editor', { kind: 'withdraw', itemIds: [loose] });
    await expect(stat(join(root, 'img/unused.png'))).rejects.toThrow('ENOENT');
    expect(site.items.need(loose!).state).toBe('draft');
    await change('editor', { kind: 'undo', entryId });
    expect(await treeOf(root)).toEqual(before);
  });
});

test('a draft is edited by its own people: no file of the site changes, and it is undone to the byte', async () => {
  const { site } = roles;
  const id = await draftOf('contributor', 'tower.png');
  const before = await treeOf(root);
  const { sha256, width, height } = site.items.need(id);
  const content = async () =>
    Buffer.from(await (await as('contributor', 'GET', `/items/${id}/content`)).arrayBuffer());
  const bytes = await content();
  const edit = await json<EditView>(as('contributor', 'GET', `/items/${id}/edit`));
  expect([edit.draft, edit.original.sha256]).toEqual([true, sha256]);
  const frame = { x: 0, y: 0, width: 0.5, height: 1 };
  const asked = {
    kind: 'prepare',
    itemId: id,
    recipe: { version: 1, frame },
    to: { as: 'this', sizes: 'all' },
  };
  // Whoever can't see it can't edit it.
  expect((await plan('reader', asked)).status).toBe(404);
  const beside = { ...asked, to: { as: 'new', folder: '', stem: 'x' } };
  expect((await json<Said>(plan('contributor', beside))).message).toBe('A draft is edited in its place.');
  const entryId = await change('contributor', asked);
  expect(await treeOf(root)).toEqual(before);
  const after = site.items.need(id);
  expect([after.width, after.height]).toEqual([width! / 2, height]);
  expect(sha256Of(await content())).toBe(after.sha256);
  // Edited again, it is made of the original, not of what was made of it.
  const again = await json<EditView>(as('contributor', 'GET', `/items/${id}/edit`));
  expect([again.original.sha256, again.recipe]).toMatchObject([sha256, { frame }]);

  // What it became is what is published; the original stays to go back to.
  const published = await change('editor', { kind: 'publish', itemIds: [id] });
  expect(sha256Of(await readFile(join(root, 'img/tower.png')))).toBe(after.sha256);
  const early = await json<PlanView>(plan('contributor', { kind: 'undo', entryId }));
  expect(early.clashes.length).toBeGreaterThan(0);
  await change('editor', { kind: 'undo', entryId: published });
  await change('contributor', { kind: 'undo', entryId });
  expect(await content()).toEqual(bytes);
  expect(site.items.need(id)).toMatchObject({ sha256, width, height, edit: '' });
  expect(await treeOf(root)).toEqual(before);
});

test('the text of a draft is edited by its own people, and undone; for others it isn’t there', async () => {
  const { site } = roles;
  const id = await draftOf('contributor', 'terms.csv', 'files', Buffer.from('Term,Says\nOne,1\n'));
  const before = await treeOf(root);
  const { path, sha256: was } = site.items.need(id);
  const at = `/documents?path=${encodeURIComponent(path)}`;
  const opened = await json<DocumentView>(as('contributor', 'GET', at));
  expect(opened).toMatchObject({ draft: true, itemId: id, text: 'Term,Says\nOne,1\n' });
  expect((await as('reader', 'GET', at)).status).toBe(404);
  const bytes = await as('contributor', 'GET', `/documents/bytes?path=${path}&sha256=${was}`);
  expect(await bytes.text()).toBe(opened.text);
  expect((await as('reader', 'GET', `/documents/bytes?path=${path}&sha256=${was}`)).status).toBe(404);

  const asked = { kind: 'document', path, itemId: id, base: was, text: `${opened.text}Two,2\n` };
  expect((await plan('reader', asked)).status).toBe(404);
  const planned = await json<PlanView>(plan('contributor', asked));
  expect(planned.title).toBe('Edit the draft “terms.csv”: 1 line added');
  expect(planned.approval).toBe('');
  const entryId = await change('contributor', asked);
  expect(await treeOf(root)).toEqual(before);
  expect((await json<DocumentView>(as('editor', 'GET', at))).text).toBe(asked.text);
  expect((await json<Said>(plan('contributor', asked))).code).toBe('stale-record');

  const published = await change('editor', { kind: 'publish', itemIds: [id] });
  expect(await readFile(join(root, path), 'utf8')).toBe(asked.text);
  const now = { ...asked, base: site.items.need(id).sha256, text: 'x' };
  expect((await json<Said>(plan('contributor', now))).message).toBe('“terms.csv” is no draft any more.');
  await change('editor', { kind: 'undo', entryId: published });
  await change('contributor', { kind: 'undo', entryId });
  expect(site.items.need(id)).toMatchObject({ sha256: was, state: 'draft' });
  expect(await treeOf(root)).toEqual(before);
});

test('a contributor brings in drafts and nothing else', async () => {
  const { site } = roles;
  const personId = site.people.byName('Ines')!.id;
  const before = await treeOf(root);
  const arrival = await arrive(site, await picture(number++), 'direct.png', { folder: 'img', personId });
  for (const body of [{ arrivalIds: [arrival.id] }, { arrivalIds: [arrival.id], as: 'items' }])
    expect((await as('contributor', 'POST', '/arrivals/bring-in', body)).status).toBe(403);
  expect(await treeOf(root)).toEqual(before);
});

test('what others change about a draft’s undoing is not for those who can’t see it', async () => {
  const id = await draftOf('editor', 'sail.png');
  const entryId = await change('editor', { kind: 'records', itemIds: [id], set: { title: 'Sail' } });
  expect((await plan('contributor', { kind: 'undo', entryId })).status).toBe(403);
  const said = await change('editor', { kind: 'comment', itemId: id, say: { text: 'Not before May.' } });
  for (const entry of [entryId, said])
    for (const role of ROLES) {
      const answer = await as(role, 'GET', `/ledger/${entry}`);
      const may = role === 'editor' || role === 'steward';
      expect([role, answer.status]).toEqual([role, may ? 200 : 403]);
      expect((await answer.text()).includes(entry === said ? 'Not before May.' : 'Sail')).toBe(may);
      const list = (await (await as(role, 'GET', '/ledger')).json()) as { id: number; title: string }[];
      const { title } = list.find((one) => one.id === entry)!;
      expect([role, title === 'A change of drafts']).toEqual([role, !may]);
    }
});
