import { join } from 'node:path';
import { readFile } from 'node:fs/promises';
import { afterAll, beforeAll, beforeEach, describe, expect, test } from 'vitest';
import type { EntryView, PlanView } from '../../api/plans.ts';
import type { MemberView } from '../../api/people.ts';
import type { SiteView } from '../../api/site.ts';
import type { SubmittedPlan } from '../../api/submissions.ts';
import { changeMember } from '../test/members.ts';
import type { Role } from '../../core/people/rights.ts';
import { json, NAMES, serveRoles, type ServedRoles, type Said } from '../test/roles.ts';
import { closeSites, smallSite, treeOf } from '../test/site.ts';

/** Rights that are narrowed to folders; and what somebody may do, as changes in the ledger. */
let root: string;
let roles: ServedRoles;
beforeAll(async () => {
  root = await smallSite();
  roles = await serveRoles(root);
}, 60_000);
afterAll(async () => {
  roles.served.close();
  await closeSites();
});
const as: ServedRoles['as'] = (...asked) => roles.as(...asked);
const idOf = (path: string) => roles.site.items.atPath(path)!.id;
const person = (role: Role) => roles.site.people.byName(NAMES[role])!;
const plan = (role: Role, request: object) => json<PlanView>(as(role, 'POST', '/plans', request));
const apply = (role: Role, { id }: PlanView) => as(role, 'POST', `/plans/${id}/apply`, {});
const words = (path: string) => ({ kind: 'records', itemIds: [idOf(path)], set: { title: path } });
const renamed = (path: string, name: string) => ({ kind: 'names', names: [{ itemId: idOf(path), name }] });
async function refused(answer: Response): Promise<string> {
  expect(answer.status).toBe(403);
  return ((await answer.json()) as Said).message;
}

describe('an editor of one folder', () => {
  const OUTSIDE = 'You work in “img” only: old/copy-of-b.png lies outside.';
  beforeEach(() => changeMember(roles.site, person('editor').id, { folders: ['img'] }));

  test('does in it what editors do, and pages follow wherever they are; so does the undo', async () => {
    const before = await treeOf(root);
    const asked = await plan('editor', renamed('img/IMG_1234.png', 'hill.png'));
    expect([asked.approval, asked.clashes]).toEqual(['', []]);
    const applied = await apply('editor', asked);
    expect(applied.status).toBe(200);
    expect(await readFile(join(root, 'sub/page.html'), 'utf8')).toContain('../img/hill.png');
    const { entryId } = (await applied.json()) as { entryId: number };
    const undo = await plan('editor', { kind: 'undo', entryId });
    expect((await apply('editor', undo)).status).toBe(200);
    expect(await treeOf(root)).toEqual(before);
  });

  test('proposes elsewhere, and who works there applies it', async () => {
    const asked = await plan('editor', words('old/copy-of-b.png'));
    expect(asked.approval).toBe('a contributor, an editor or a steward who works in “old”');
    expect(await refused(await apply('editor', asked))).toBe(OUTSIDE);
    const again = await plan('editor', words('old/copy-of-b.png'));
    const { submissionId } = await json<{ submissionId: number }>(
      as('editor', 'POST', `/plans/${again.id}/submit`, { note: '' }),
    );
    const shown = await json<SubmittedPlan>(as('steward', 'POST', `/submissions/${submissionId}/plan`, {}));
    expect((await apply('steward', shown.plan)).status).toBe(200);
    expect(roles.site.items.atPath('old/copy-of-b.png')!.words.title).toBe('old/copy-of-b.png');
    const [entry] = await json<EntryView[]>(as('steward', 'GET', '/ledger'));
    expect([entry!.person, entry!.approver]).toEqual(['Ben', 'Ottilie']);
  });

  test('approves nothing that lies elsewhere', async () => {
    const asked = await plan('contributor', renamed('old/copy-of-b.png', 'copy.png'));
    const { submissionId } = await json<{ submissionId: number }>(
      as('contributor', 'POST', `/plans/${asked.id}/submit`, { note: '' }),
    );
    const shown = await json<SubmittedPlan>(as('editor', 'POST', `/submissions/${submissionId}/plan`, {}));
    expect(await refused(await apply('editor', shown.plan))).toBe(OUTSIDE);
    expect(roles.site.items.atPath('old/copy-of-b.png')).toBeDefined();
    const { submission } = await json<SubmittedPlan>(
      as('steward', 'POST', `/submissions/${submissionId}/plan`, {}),
    );
    expect(submission.state).toBe('waiting');
  });

  test('writes nothing elsewhere by any other way: words, pages, moves, the tags of all', async () => {
    const id = idOf('old/copy-of-b.png');
    const { rowVersion } = roles.site.items.need(id);
    const patch = await as('editor', 'PATCH', `/items/${id}`, { rowVersion, words: { alt: 'x' } });
    expect(await refused(patch)).toBe(OUTSIDE);
    for (const [request, outside] of [
      [{ kind: 'move', itemIds: [idOf('img/c.png')], folder: 'old' }, 'old/c.png'],
      [{ kind: 'copies', itemIds: [idOf('img/c.png')], folder: 'old' }, 'old/c'],
      [{ kind: 'new-folder', folder: 'blog' }, 'blog'],
      [{ kind: 'tag-above', tag: 'a', above: 'b' }, 'the tags of the whole site'],
      [{ kind: 'unplace', places: [{ page: 'sub/page.html', start: 28 }] }, 'sub/page.html'],
    ] as const) {
      const asked = await plan('editor', request);
      expect(asked.id, `${request.kind}: ${JSON.stringify(asked)}`).toBeTruthy();
      expect(asked.approval, request.kind).toMatch(/^an? .* (?:of the whole site|who works in “.+”)$/);
      expect(await refused(await apply('editor', asked)), request.kind).toContain(outside);
    }
  });

  test('what was computed before is refused when their folders have changed since', async () => {
    const asked = await plan('editor', words('img/c.png'));
    await changeMember(roles.site, person('editor').id, { folders: ['old'] });
    expect(await refused(await apply('editor', asked))).toContain('img/c.png lies outside');
    const { person: seen } = await json<SiteView>(as('editor', 'GET', '/site'));
    expect(seen.folders).toEqual(['old']);
  });

  test('is one of the whole site again, and keeps no folders in another role', async () => {
    await changeMember(roles.site, person('editor').id, { role: 'reader' });
    expect(person('editor').folders).toEqual([]);
    await changeMember(roles.site, person('editor').id, { role: 'editor' });
    const { approval } = await plan('editor', words('old/copy-of-b.png'));
    expect(approval).toBe('');
  });
});

describe('what somebody may do', () => {
  const ask = (change: object, role: Role = 'steward') => plan(role, { kind: 'person', ...change });

  test('is changed by plans that the ledger keeps, and undone by those who may', async () => {
    const { id } = person('contributor');
    const asked = await ask({ personId: id, role: 'editor' });
    expect([asked.title, asked.settings]).toEqual([
      'Make Ines an editor',
      [{ what: 'Ines', before: 'contributor', after: 'editor' }],
    ]);
    const { entryId } = await json<{ entryId: number }>(apply('steward', asked));
    expect(person('contributor').role).toBe('editor');
    const [entry] = await json<EntryView[]>(as('reader', 'GET', '/ledger'));
    expect([entry!.title, entry!.person, entry!.via]).toEqual(['Make Ines an editor', 'Ottilie', 'window']);
    const undo = await as('editor', 'POST', '/plans', { kind: 'undo', entryId });
    expect(await refused(undo)).toContain('As an editor you can’t do this');
    expect((await apply('steward', await plan('steward', { kind: 'undo', entryId }))).status).toBe(200);
    expect(person('contributor').role).toBe('contributor');
  });

  test('an invitation is one too; undone, nobody comes in by its link', async () => {
    const { token, person: invited } = await json<{ token: string; person: { id: number; role: string } }>(
      as('steward', 'POST', '/people', { name: 'Wren', role: 'editor' }),
    );
    expect(invited.role).toBe('editor');
    const [entry] = await json<EntryView[]>(as('steward', 'GET', '/ledger'));
    expect(entry!.title).toBe('Invite Wren as an editor');
    expect((await apply('steward', await plan('steward', { kind: 'undo', entryId: entry!.id }))).status).toBe(
      200,
    );
    const use = { token, name: 'Wren', password: 'a long enough one' };
    expect((await roles.served.ask('POST', '/api/invitation/use', use)).status).toBe(404);
    const members = await json<MemberView[]>(as('steward', 'GET', '/people'));
    expect(members.find((one) => one.name === 'Wren')?.endedAt).toBeTruthy();
  });

  test('somebody who answers for all is left, also when two plans are applied at once', async () => {
    const [ottilie, ben] = [person('steward').id, person('editor').id];
    for (const change of [{ role: 'editor' }, { ended: true }]) {
      const answer = await apply('steward', await ask({ personId: ottilie, ...change }));
      expect(answer.status).toBe(409);
      expect(((await answer.json()) as Said).message).toContain('Nobody would be left');
    }
    expect([person('steward').role, roles.site.ledger.unsettled]).toEqual(['steward', []]);
    // Each takes the other's away.
    await changeMember(roles.site, ben, { role: 'steward' });
    const both = await Promise.all([
      apply('steward', await ask({ personId: ben, role: 'editor' })),
      apply('editor', await ask({ personId: ottilie, role: 'editor' }, 'editor')),
    ]);
    expect(both.map((one) => one.status).sort()[0]).toBe(200);
    expect(both.filter((one) => one.status === 200)).toHaveLength(1);
    const left = roles.site.people.all().filter((one) => one.role === 'steward');
    expect([left.length, roles.site.ledger.unsettled]).toEqual([1, []]);
    await changeMember(roles.site, ottilie, { role: 'steward' });
    await changeMember(roles.site, ben, { role: 'editor' });
  });

  test('folders that can be none, and roles that folders don’t bind, are refused with a sentence', async () => {
    const { id } = person('contributor');
    for (const folders of [['../up'], ['a//../b'], ['.hidden']])
      expect((await as('steward', 'POST', '/plans', { kind: 'person', personId: id, folders })).status).toBe(
        400,
      );
    const answer = await as('steward', 'POST', '/plans', {
      kind: 'person',
      personId: person('reader').id,
      folders: ['img'],
    });
    expect(((await answer.json()) as Said).message).toBe('What a reader may do isn’t bound to folders.');
    const tidy = await ask({ personId: id, folders: ['/img/', 'img/x', 'img'] });
    expect(tidy.settings).toEqual([{ what: 'Ines', before: 'contributor', after: 'contributor in img' }]);
  });
});
